"""Drills and the choice among them: the data walked, and who is given what."""

from __future__ import annotations

import re
from collections import Counter
from importlib.resources import files

import pytest

from kneel.judge import Verdict, known
from kneel.judge.finding import Finding
from kneel.judge.reading import Reading
from kneel.model import (
    Flag,
    KnowledgeError,
    Prop,
    Queued,
    Shot,
    Student,
    Where,
)
from kneel.practice import Wish, choices, propose
from kneel.practice.catalogue import load
from kneel.practice.choice import HELD, Cause, Stands, first_choice
from kneel.practice.drill import PARTS
from kneel.speech import practice as say
from tests.test_practice import DRILLS, FAULTS, plan


def reading_of(**verdicts):
    """A reading in which only verdicts stand; the first one that is at work is the root."""
    found = tuple(
        Finding(fault, Verdict(verdicts.get(key, "clear")), root=key in verdicts)
        for key, fault in FAULTS.items()
    )
    roots = tuple(key for key in verdicts if Verdict(verdicts[key]).at_work)
    return Reading(known().school("centred"), found, roots)


# The data.


def test_every_fault_has_a_drill_and_what_is_a_consequence_has_none():
    """What arms and club do is never cured by itself (common practice, no source)."""
    assert len(DRILLS.all) >= 30
    for key, fault in FAULTS.items():
        first = [drill for drill in DRILLS.curing(key) if not drill.second]
        assert bool(first) is not fault.consequence, key
        # A second phase is for what arms and club do, once the root holds.
        assert all(FAULTS[cure.fault].consequence for d in DRILLS.curing(key) if d.second for cure in d.cures)


@pytest.mark.parametrize("key", DRILLS.all)
def test_every_drill_is_whole(key):
    """A number, a guard, a caution and words for everything; its sentences end as sentences do."""
    drill = DRILLS.get(key)
    assert drill.cures and drill.guards and drill.care and len(drill.steps) >= 2 and len(drill.mistakes) >= 2
    assert {cure.at for cure in drill.cures} and all(cure.by > 0 for cure in drill.cures)
    assert all(re.fullmatch(r"[A-Z“].*[.!?]", text) for text in drill.texts), key
    assert 8 <= drill.dose.low <= drill.dose.high <= 15 and drill.dose.sets in (1, 2, 3)
    low, high = drill.carry
    assert 0 < low < high <= 200 and drill.clubs and drill.places
    # What may not be done with a part has to load it or speak of an age.
    assert set(drill.not_for) & set(PARTS) <= set(drill.loads)
    # A guard is no number that the drill itself wants to move that way.
    for guard in drill.guards:
        for cure in drill.cures:
            if (guard.measure, guard.at) == (cure.measure, cure.at):
                check = next(c for c in FAULTS[cure.fault].check if c.measure == cure.measure)
                assert {"below": "down", "above": "up"}.get(check.side) == guard.way, (key, guard.measure)


def test_no_two_drills_share_a_sentence():
    said = Counter(
        sentence.strip().lower()
        for drill in DRILLS.all.values()
        for text in (drill.title, *drill.texts)
        for sentence in re.split(r"(?<=[.!?])\s+", text)
    )
    assert [sentence for sentence, times in said.items() if times > 1] == []


def test_chairs_go_both_ways():
    """The trail side on for too little depth, the lead side on for over-turning; each is wrong for the other
    (common practice, no source).
    """
    trail, lead = DRILLS.get("pocket_on_the_chair"), DRILLS.get("lead_pocket_waits")
    assert trail.cure("shallow_trail_hip") and "over_turn" in trail.wrong_for
    assert lead.cure("over_turn") and "shallow_trail_hip" in lead.wrong_for


def test_a_drill_that_is_wrong_is_refused_with_its_line(tmp_path):
    """An instructor's own file is laid over, and one that does not hold is refused as a whole."""
    (tmp_path / "drills").mkdir()
    shipped = (files("kneel.practice") / "drills" / "backswing.toml").read_text(encoding="utf-8")
    gate = shipped[shipped.index("[turn_inside") : shipped.index("[pocket_on")].replace(
        "[turn_inside_the", "[own"
    )

    def wrote(old="", new=""):
        assert old in gate
        (tmp_path / "drills" / "own.toml").write_text(gate.replace(old, new), encoding="utf-8")
        return load(known(), tmp_path)

    assert len(wrote().all) == len(DRILLS.all) + 1
    for old, new, word in (
        ("care = [", "care = []\nspare = [", "spare"),
        ('    "Arms crossed over the chest, eyes on the gap.",\n', "", "sentence for each"),
        ('first = ["toes_straight"', 'first = ["no_such_fault"', r"line \d+: .*no_such_fault"),
        ('wrong_for = ["over_turn"]', 'wrong_for = ["sway"]', "cure what it is wrong for"),
        ('measure = "pelvis_shift"', 'measure = "side_tilt"', "does not decide"),
        ('"stick", "chair"', '"anvil"', "anvil"),
        ("sets = 2", "sets = 9", "dose"),
        ("by = 2.5", "by = 0.0", "more than nothing"),
    ):
        with pytest.raises(KnowledgeError, match=word):
            wrote(old, new)


# The choice.


def test_a_drill_that_loads_what_is_flagged_comes_with_a_warning_or_not_at_all():
    reading = reading_of(**dict.fromkeys(FAULTS, "unknown"))
    for flag in Flag:
        for fault in FAULTS:
            for one in choices(fault, reading, Wish(flags=(flag,)), DRILLS):
                if flag in one.drill.not_for:
                    assert one.stands is Stands.NOT and one.forbidden
                elif flag in one.drill.loads:
                    assert one.stands is Stands.WARNED and "medical professional" in say.warning_words(one)
                    assert "ask first" in say.standing_words(one, {})
    stiff = choices("flat_turn", reading, Wish(flags=(Flag.MOBILITY,)), DRILLS)
    assert all(one.stands is not Stands.FITS for one in stiff if Flag.BACK in one.drill.loads)


def test_what_is_wrong_or_comes_later_stands_behind():
    """The chair for the trail side is not given to an over-turner, nor a gate before the toes are flared."""
    sure = reading_of(sway="fault", over_turn="fault", toes_straight="fault")
    gate = next(c for c in choices("sway", sure, Wish(), DRILLS) if c.drill.key == "turn_inside_the_gate")
    assert gate.stands is Stands.NOT and {r.cause for r in gate.reasons} == {Cause.WRONG, Cause.FIRST}
    perhaps = reading_of(sway="fault", over_turn="watch")
    gate = next(c for c in choices("sway", perhaps, Wish(), DRILLS) if c.drill.key == "turn_inside_the_gate")
    assert gate.stands is Stands.WARNED and "may be at work" in say.standing_words(gate, {})


def test_place_props_and_the_wanted_shot_decide():
    reading = reading_of(sway="fault")
    bare = choices("sway", reading, Wish(props=(), places=(Where.HOME,)), DRILLS)
    assert {one.stands for one in bare} == {Stands.LACKING} and first_choice(bare) is None
    stick = first_choice(choices("sway", reading, Wish(props=(Prop.STICK,), places=(Where.HOME,)), DRILLS))
    assert stick is not None and any(Prop.STICK in group for group in stick.drill.props)
    extending = reading_of(early_extension="fault")
    for shot in (Shot.FADE, Shot.LOW):
        first = first_choice(choices("early_extension", extending, Wish(shot=shot), DRILLS))
        assert shot in first.drill.shots


def test_what_held_before_stands_first_and_what_did_not_behind():
    reading = reading_of(sway="fault")
    order = [one.drill.key for one in choices("sway", reading, Wish(), DRILLS)]
    last = plan(drill=order[-1], ended=HELD)
    failed = plan(drill=order[0], ended="not moved")
    again = [
        one.drill.key for one in choices("sway", reading, Wish.of(Student(plans=(last, failed))), DRILLS)
    ]
    assert again[0] == order[-1] and again[-1] == order[0]


def test_what_is_queued_is_the_second_root_or_what_waited():
    reading = reading_of(sway="fault", flip="fault", toes_straight="clear")
    proposal = propose(reading, Wish(), DRILLS)
    assert proposal.queued[0] == Queued(
        "flip", first_choice(choices("flip", reading, Wish(), DRILLS)).drill.key
    )
