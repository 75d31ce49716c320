"""The Trainer's numbers: what an eye tells, swings with their truth, what comes next, a class."""

from __future__ import annotations

import csv
import datetime as dt
import gzip
import io
import json
import os
import shutil
import zlib
from dataclasses import replace
from itertools import islice

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace as changed
from pypdf import PdfReader
from scipy.stats import binom, norm

from kneel.cli.main import main
from kneel.desk.places.trainer.stick import Stick
from kneel.model import Club, Hand, KneelError, View
from kneel.sim.camera import Camera
from kneel.trainer import drawing, maker, records, stock, words
from kneel.trainer.answers import answers_file, keep_answer, read_answers
from kneel.trainer.argued import reading_of, study_of
from kneel.trainer.asked import asked_faults, asked_in
from kneel.trainer.classroom import (
    bring_papers,
    paper_file,
    papers,
    read_class,
    take_seat,
    write_class,
    write_paper,
)
from kneel.trainer.detection import PRIOR_SITTINGS, USUAL_SITTING, Counts, Detection, corrected, worth
from kneel.trainer.drawing import _scene, draw
from kneel.trainer.due import due_after
from kneel.trainer.filming import make, stocked_of
from kneel.trainer.records import Answer, Settings, Shot, Sure
from kneel.trainer.rounds import answer_of, choose
from kneel.trainer.scores import (
    LEAST_SURE,
    PRIOR_DAYS,
    USUAL_DAYS,
    first_answers,
    like,
    over_time,
    scores,
    size_error,
)
from kneel.trainer.sheet import as_csv, sheet_of
from kneel.trainer.shots import shots
from kneel.trainer.truth import absent, present
from kneel.trainer.words import missed_words, size_verdict, taken_words, verdict

NOW = dt.datetime(2026, 11, 30, 9, 0, tzinfo=dt.UTC)
FACE = [one.key for one in asked_in(View.FACE_ON)]


@pytest.fixture(scope="module")
def shipped():
    return {one.id: one for one in stock.listed(stock.Path("nowhere"))}


def with_fault(shipped, *faults):
    return next(one for one in shipped.values() if one.stocked.shot.planted == faults)


def said(there=(), named=(), *, day=0, swing="", sure=Sure.RATHER, sizes=None, true=None):
    """An answer to a face-on swing."""
    when = NOW + dt.timedelta(days=day, seconds=zlib.crc32(swing.encode()) % 1000)
    away = tuple(key for key in FACE if key not in there)
    return Answer(
        when.isoformat(), swing or f"{day}-{there}-{named}", View.FACE_ON, 1.5, "steps", tuple(there), away,
        tuple(named), sure, sizes or {}, true or {},
    )  # fmt: skip


# Signal detection


def test_d_prime_and_bias_are_those_that_are_published():
    """20 of 25 hits and 10 of 25 false alarms: d′ 1.10 and c −0.29 without a correction (Stanislaw and
    Todorov 1999, from memory), 1.04 with the log-linear one (Hautus 1995, from memory).
    """
    one = Detection((Counts(20, 25, 10, 25),))
    assert one.d_prime == pytest.approx(1.04, abs=0.005)
    assert one.d_prime == pytest.approx(norm.ppf(20.5 / 26) - norm.ppf(10.5 / 26), abs=1e-12)
    many = Detection((Counts(800_000, 1_000_000, 400_000, 1_000_000),))
    assert (many.d_prime, many.criterion) == (pytest.approx(1.095, abs=1e-3), pytest.approx(-0.294, abs=1e-3))
    assert Detection((Counts(25, 25, 0, 25),)).d_prime < 5
    assert not Detection((Counts(20, 24, 10, 60),)).enough
    assert not Detection((Counts(20, 60, 10, 24),)).enough
    with pytest.raises(ValueError, match="more hits"):
        Counts(3, 2, 0, 0)


@given(st.integers(0, 30), st.integers(0, 30))
def test_sides_swapped_turn_its_sign_and_leave_its_doubt(hits, alarms):
    one = Detection((Counts(hits, 30, alarms, 30),))
    other = Detection((Counts(alarms, 30, hits, 30),))
    assert one.d_prime == pytest.approx(-other.d_prime, abs=1e-9)
    assert one.criterion == pytest.approx(other.criterion, abs=1e-9)
    assert one.d_prime_between == pytest.approx([-end for end in reversed(other.d_prime_between)], abs=1e-9)


@pytest.mark.parametrize(("d", "c"), [(0.0, 0.0), (1.0, 0.4), (2.0, 0.0), (3.0, -0.3)])
def test_an_eye_that_is_the_same_every_day_lies_inside_exactly_as_often(monkeypatch, d, c):
    """All that can come of 25 and 40 swings, with its chance: no draws. Without belief in days it is the
    interval of two rates.
    """
    monkeypatch.setattr("kneel.trainer.detection.USUAL_SITTING", 0.0)
    hit, alarm = norm.cdf(d / 2 - c), norm.cdf(-d / 2 - c)
    chances = binom.pmf(np.arange(26), 25, hit)[:, None] * binom.pmf(np.arange(41), 40, alarm)[None, :]
    inside = 0.0
    for hits, alarms in np.argwhere(chances > 1e-4).tolist():
        low, high = Detection((Counts(hits, 25, alarms, 40),)).d_prime_between
        inside += chances[hits, alarms] * (low <= d <= high)
    assert 0.92 < inside / chances[chances > 1e-4].sum() < 0.98


@pytest.mark.parametrize(("days", "each", "d"), [(3, 10, 1.0), (6, 6, 2.0), (4, 25, 1.5)])
def test_a_trainee_whose_d_prime_is_known_gets_it_back_though_days_differ(days, each, d):
    """An eye and what it calls a fault differ from day to day by 0.3; 95 % of 400 are held."""
    rng = np.random.default_rng(days)
    held = 0
    for _ in range(400):
        sittings = []
        for _ in range(days):
            today, readily = d + rng.normal(0, 0.3), 0.2 + rng.normal(0, 0.3)
            hits = rng.binomial(each, norm.cdf(today / 2 - readily))
            alarms = rng.binomial(2 * each, norm.cdf(-today / 2 - readily))
            sittings.append(Counts(int(hits), each, int(alarms), 2 * each))
        low, high = Detection(tuple(sittings)).d_prime_between
        held += low <= d <= high
    assert 0.92 <= held / 400 <= 0.985


def test_more_is_surer_and_scattered_sittings_are_less_sure():
    def width(one):
        return one.d_prime_between[1] - one.d_prime_between[0]

    few, many = (Detection(tuple([Counts(6, 10, 2, 10)] * n)) for n in (3, 12))
    assert width(many) < 0.6 * width(few)
    scattered = Detection((Counts(10, 10, 0, 10), Counts(2, 10, 4, 10), Counts(6, 10, 2, 10)))
    assert scattered.total == few.total
    assert width(scattered) > width(few)
    assert worth([]) == worth([(1, 1), (0, 1), (1, 1)]) == 1.0, "one answer a day tells nothing of days"


def test_how_much_sittings_differ_is_what_the_variance_between_and_within_them_says():
    """Intraclass correlation of a one-way layout with unequal groups (Snedecor and Cochran, from memory), and
    Kish's design effect of it (Survey Sampling, from memory).
    """
    sittings = [(9, 12), (2, 10), (15, 18), (7, 20)]
    every = [np.repeat([1.0, 0.0], [said_, of - said_]) for said_, of in sittings]
    sizes, mean = np.array([len(one) for one in every]), np.mean(np.concatenate(every))
    usual = (sizes.sum() - (sizes**2).sum() / sizes.sum()) / (len(every) - 1)
    between = sum(n * (one.mean() - mean) ** 2 for n, one in zip(sizes, every, strict=True)) / (
        len(every) - 1
    )
    shown = (between / (mean * (1 - mean)) - 1) / (usual - 1)
    believed = (3 * shown + PRIOR_SITTINGS * USUAL_SITTING) / (3 + PRIOR_SITTINGS)
    counted = 1 / (1 + ((sizes**2).sum() / sizes.sum() - 1) * believed)
    assert worth(sittings) == pytest.approx(counted, rel=0.05)


# Scores


def test_a_swing_counts_once_however_often_it_was_answered():
    once = [said(["sway"], ["sway"], swing=f"a{n}", day=n % 3) for n in range(30)]
    again = [changed(one, when=f"2027-{one.when[5:]}", named=("slide",)) for one in once]
    assert first_answers(again + once) == sorted(once, key=lambda one: one.when)
    assert scores(first_answers(once + once)).each["sway"].total == Counts(30, 30, 0, 0)


def test_a_fault_that_one_view_alone_shows_has_its_score_among_swings_of_both():
    line = tuple(one.key for one in asked_in(View.DOWN_THE_LINE))
    other = changed(said(swing="line"), view=View.DOWN_THE_LINE, absent=line)
    assert set(scores([said(["sway"], ["sway"]), other]).each) == {*FACE, *line}


def test_how_an_eye_gets_on_is_told_over_blocks_that_overlap():
    """A hundred answers each, twenty further every time, and the last one's day."""
    answers = [said(["sway"], ["sway"] if n >= 60 else [], swing=f"a{n}", day=n) for n in range(150)]
    told = over_time(answers)
    assert [(day, one.total.signals, one.total.hits) for day, one in told] == [
        (answers[end - 1].when, 100, end - 60) for end in (100, 120, 140)
    ]


def test_what_is_taken_for_what_is_told_with_the_one_hint():
    answers = [said(["reverse_pivot"], ["sway"], swing=f"a{n}") for n in range(4)]
    answers += [said(["reverse_pivot"], ["reverse_pivot"], swing=f"b{n}") for n in range(6)]
    answers += [said([], ["slide"], swing=f"c{n}") for n in range(9)]
    (taken,) = scores(answers).taken
    assert (taken.fault, taken.named, taken.count, taken.of) == ("reverse_pivot", "sway", 4, 10)
    (words,) = taken_words(scores(answers))
    assert words.startswith("Reverse pivot is called sway in 4 of 10. Look at the chest over the hips")
    assert scores(answers).whole.total == Counts(10, 10, 9, 9)
    assert not scores(answers[:2] + answers[4:]).taken
    often = [said(["reverse_pivot"], ["reverse_pivot"], swing=f"d{n}") for n in range(12)]
    assert not scores(answers + often).taken and scores(answers + often[:10]).taken, "a fifth, at least"


def test_sizes_are_biased_as_they_were_said_whichever_way_the_number_counts():
    """A sway counts minus, a slide plus: to say too much of either is too much."""
    rng = np.random.default_rng(3)
    answers = []
    for n in range(60):
        key, true = ("sway", -6.0) if n % 2 else ("slide", 15.0)
        more = 2.0 + rng.normal(0, 1.0)
        said_ = true - more if key == "sway" else true + more
        answers.append(said([key], [key], swing=f"a{n}", day=n % 5, sizes={key: said_}, true={key: true}))
    told = scores(answers).sizes[View.FACE_ON, "cm"]
    assert told.biased
    assert told.bias == pytest.approx(2.0, abs=0.5)
    unknown = said(["sway"], ["sway"], swing="none", sizes={"sway": -90.0, "gone": 5.0}, true={"gone": 4.0})
    assert scores([*answers, unknown]).sizes == scores(answers).sizes, "only what is known is held against it"
    assert told.freedom == PRIOR_DAYS + 5 - 1
    fair = [changed(one, said=one.true) for one in answers]
    assert not scores(fair).sizes[View.FACE_ON, "cm"].biased
    for bias, words_ in ((0.6, "0.6 cm too much"), (-0.6, "0.6 cm too little")):
        small = size_error("cm", [rng.normal(bias, 0.1, 9) for _ in range(6)])
        assert small.biased and words_ in words.size_error_words(View.FACE_ON, small)


def test_the_error_of_a_bias_holds_how_days_differ():
    rng = np.random.default_rng(5)
    held, lone = 0, 0
    for _ in range(500):
        days = [rng.normal(1.0 + rng.normal(0, 0.3), 1.0, 8) for _ in range(5)]
        told = size_error("cm", days)
        reach = told.error * 2.262
        held += abs(told.bias - 1.0) <= reach
        lone += size_error("cm", days[:1]).error > told.error
    assert 0.93 < held / 500 < 0.995
    assert lone > 480
    assert size_error("cm", [np.ones(7)]) is None
    sizes = rng.normal(1.0, 1.0, 9)
    spread = sizes.var(ddof=1)
    assert size_error("cm", [sizes]).error == pytest.approx(np.sqrt(spread * (USUAL_DAYS**2 + 1 / 9)))


def test_being_certain_and_wrong_is_told():
    answers = [said(["sway"], ["slide"], swing=f"a{n}", sure=Sure.CERTAIN) for n in range(8)]
    answers += [said(["sway"], ["sway"], swing=f"b{n}", sure=Sure.GUESS) for n in range(8)]
    shares = {one.sure: (one.right, one.count) for one in scores(answers).sure}
    assert shares == {Sure.GUESS: (8, 8), Sure.CERTAIN: (0, 8)}
    told = "You are certain more often than you are right."
    assert words.sure_words(scores(answers))[-1] == told
    assert told not in words.sure_words(scores([*answers[: LEAST_SURE - 1], *answers[8:]]))
    assert words.sure_words(scores([])) == []
    assert len(words.sure_words(scores(answers[:LEAST_SURE]))) == 2
    assert words.sure_words(scores(answers[: LEAST_SURE - 1])) == []


@pytest.mark.parametrize(
    ("hits", "alarms", "said_"),
    [(19, 10, "too much a fault: wait"), (8, 0, "too little a fault: say"), (17, 3, ""), (12, 8, "")],
)
def test_an_eye_that_leans_is_told_which_way_and_how_surely(hits, alarms, said_):
    told = Detection(tuple(Counts(hits, 20, alarms, 20) for _ in range(6)))
    words_ = words.lean_words(told)
    assert words_.startswith(f"You call {said_}" if said_ else "") and bool(words_) is bool(said_)
    if said_:
        low, high = (float(part.replace("−", "-")) for part in words_[:-2].split(", ")[1].split(" to "))
        assert low < round(told.criterion, 2) < high and low * high > 0
    assert words.lean_words(Detection((Counts(hits, 24, alarms, 24),))) == ""


# What comes next


def test_what_was_missed_comes_soon_and_what_is_known_rests():
    answers = [said(["sway"], ["sway"], day=day, swing=f"s{day}", sure=Sure.CERTAIN) for day in (0, 3, 20)]
    answers += [said(["slide"], [], day=20, swing="m"), said([], ["no_shift"], day=20, swing="f")]
    due = due_after(answers)
    later = NOW + dt.timedelta(days=21)
    assert set(due.now(later)) == {"slide", "no_shift"}
    assert due.dates["sway"] > NOW + dt.timedelta(days=40)
    assert due.order(later, ["sway", "hang_back", "slide"]) == ["slide", "hang_back", "sway"]
    assert due_after([]).order(later, ["sway", "slide"]) == ["sway", "slide"]


def test_a_round_has_what_is_due_what_was_never_seen_and_some_with_nothing_wrong(shipped):
    settings = Settings(view=View.FACE_ON, swings=10)
    every = list(shipped.values())
    due = due_after([said(["slide"], [], swing="x"), said(["sway"], ["sway"], swing="y", sure=Sure.CERTAIN)])
    first = choose(every, settings, (), due, NOW + dt.timedelta(days=1), 1)
    planted = [one.stocked.shot.planted for one in first]
    assert len({one.id for one in first}) == 10
    assert sum(not faults for faults in planted) == 3
    assert ("slide",) in planted
    assert all(one.stocked.shot.view is View.FACE_ON and len(one.stocked.shot.planted) <= 1 for one in first)
    slide = with_fault(shipped, "slide")
    again = choose(every, settings, {slide.id}, due, NOW, 1)
    fresh = [one for one in every if one in again and one.id != slide.id]
    assert len(again) == 10 and len(fresh) >= 9
    assert not choose(every, changed(settings, clothes="wide", light="poor", hand=Hand.LEFT), (), due, NOW, 1)


@pytest.mark.parametrize(("faulty", "clean", "wanted"), [(2, 12, 10), (20, 12, 10), (20, 0, 10), (2, 3, 10)])
def test_a_round_is_as_long_as_was_asked_or_as_there_are_swings(shipped, faulty, clean, wanted):
    """Three of ten have nothing wrong; where faults or clean swings are short the others make up for them."""
    one = next(iter(shipped.values()))
    heap = [
        replace(
            one, stocked=changed(one.stocked, id=f"{key}{n}", shot=changed(one.stocked.shot, planted=planted))
        )
        for key, planted, count in (("f", ("sway",), faulty), ("c", (), clean))
        for n in range(count)
    ]
    settings = Settings(swings=wanted, size=one.stocked.shot.size)
    ids = [swing.id for swing in choose(heap, settings, (), due_after([]), NOW, 3)]
    assert len(ids) == len({*ids}) == min(wanted, faulty + clean)
    kinds = [sum(name[0] == kind for name in ids) for kind in "fc"]
    assert kinds == [min(faulty, wanted - min(clean, 3)), len(ids) - min(faulty, wanted - min(clean, 3))]


def test_scores_are_of_what_was_shown_alike_and_of_the_same_size():
    one = said(["sway"], ["sway"], swing="a")
    others = [changed(one, shown="speed"), changed(one, size=2.0), changed(one, view=View.DOWN_THE_LINE)]
    asked = Settings(view=View.FACE_ON, shown="steps", size=1.5)
    assert like([one, *others], asked) == [one]
    assert like([one, *others], changed(asked, view=None)) == [one, others[2]]


def test_answers_of_one_sitting_count_as_little_as_sittings_differ():
    """Kish 1965, 1 + (m - 1) rho; by moments rho is (7.2 - 1) / 19 where sittings of 20 are 4 or 16 right."""
    shown = (400 / 399 * 7.2 - 1) / 19
    assert worth([(4, 20), (16, 20)] * 200) == pytest.approx(1 / (1 + 19 * shown), rel=0.02)
    assert worth([(1, 1)]) == worth([]) == 1.0


# Swings with their truth


def test_what_ships_is_whole_small_and_shows_what_is_said_of_it(shipped):
    """The reading of the exact points, by the Bench's own way, against what the simulator says."""
    assert len(shipped) == 24
    assert sum(path.stat().st_size for one in shipped.values() for path in one.folder.iterdir()) < 6e6
    planted = [key for one in shipped.values() for key in one.stocked.shot.planted]
    assert set(planted) == set(asked_faults())
    assert {one.stocked.shot.hand for one in shipped.values()} == set(Hand)
    for one in shipped.values():
        stocked = one.stocked
        assert set(present(stocked.past)) == set(stocked.shot.planted)
        assert all(abs(stocked.past[key] - 1.5) < 0.4 for key in stocked.shot.planted)
    for one in list(shipped.values())[::6]:
        study = study_of(one.stocked)
        for asked in asked_in(one.stocked.shot.view):
            told = study.at(asked.measure, asked.at).value
            assert told == pytest.approx(one.stocked.values[asked.key], abs=0.3 if told else 0.0), asked.key
        reading = reading_of(one.stocked, study)
        assert not [key for key in absent(one.stocked.past) if reading.of(key).verdict.value == "fault"]


def test_shots_bring_every_fault_as_often_and_fit_what_was_asked():
    asked = Settings(view=View.DOWN_THE_LINE, hand=Hand.LEFT, clothes="loose", light="poor", most=2)
    every = list(islice(shots(asked, 3), 100))
    assert {one.hand for one in islice(shots(changed(asked, hand=None), 3), 40)} == set(Hand)
    first = [shot.planted[0] for shot in every if shot.planted]
    counts = {key: first.count(key) for key in set(first)}
    assert set(counts) == {one.key for one in asked_in(View.DOWN_THE_LINE)}
    assert max(counts.values()) - min(counts.values()) <= 1
    assert sum(not shot.planted for shot in every) == 30
    two = [shot.planted for shot in islice(shots(asked, 5), 600) if len(shot.planted) == 2]
    assert all(one != other for one, other in two) and 0.25 < len(two) / 600 / 0.7 < 0.45
    seconds = [other for _, other in two]
    often = [seconds.count(one.key) for one in asked_in(View.DOWN_THE_LINE)]
    assert max(often) - min(often) <= 2
    assert {(shot.view, shot.hand, shot.clothes, shot.light) for shot in every} == {
        (View.DOWN_THE_LINE, Hand.LEFT, "loose", "poor")
    }
    assert every == list(islice(shots(asked, 3), 100))


def test_every_setting_that_can_be_had_has_its_words_and_no_other():
    """What the place says of its settings is said of each, and what is said can be chosen."""
    assert set(words.MOST) == {1, 2} and {Settings(most=most).most for most in words.MOST} == {1, 2}
    assert set(words.CLOTHES) == {None, *records.CLOTHES} and set(words.LIGHTS) == {None, *records.LIGHTS}
    assert set(words.SHOWN) == set(records.SHOWN)
    with pytest.raises(ValueError, match="settings"):
        Settings(most=3)


@pytest.mark.parametrize(("view", "faults"), [(View.FACE_ON, ("no_shift",)), (View.DOWN_THE_LINE, ())])
def test_a_shot_is_one_swing_of_that_size_and_no_other_fault(view, faults):
    shot = Shot(view, Hand.LEFT, 2.0, faults, "close", "good", 11)
    one = draw(shot)
    assert present(one.past) == faults
    assert all(one.past[key] == pytest.approx(2.0, abs=0.3) for key in faults)
    assert stocked_of(one) == stocked_of(draw(shot))
    told = one.numbers.tell("pelvis_lift", "top")
    assert told.low == pytest.approx(told.value, abs=0.05)
    assert told.value - told.low == pytest.approx(told.high - told.value) and told.sigma > 0
    other = draw(msgspec.structs.replace(shot, seed=shot.seed + 1))
    rows = [drawn.shoot.plan.clean_rows(Club.IRON) for drawn in (one, other)]
    shift = [row["pelvis_shift"] for row in rows]
    assert np.abs(shift[0] - shift[1]).max() > 0.2, "no two swings are alike, faults aside"


def test_a_swing_is_taken_only_with_the_fault_that_was_planted_and_all_others_told(monkeypatch):
    shot = Shot(View.FACE_ON, Hand.LEFT, 2.0, ("no_shift",), "close", "good", 11)
    sound = dict.fromkeys((one.key for one in asked_in(shot.view)), -1.0) | {"no_shift": 2.0}
    untold = {key: value for key, value in sound.items() if key != "sway"}
    for past, taken in ((sound, True), (sound | {"sway": 1.8}, False), (untold, False)):
        monkeypatch.setattr(drawing, "_planted", lambda *_, past=past: (None, None, past))
        assert (drawing._attempt(np.random.default_rng(1), shot) is not None) is taken


def test_clothes_have_colours_that_can_be_drawn_and_cameras_stand_square_on_the_whole():
    shot = Shot(View.FACE_ON, Hand.RIGHT, 1.5, (), "loose", "good", 1)
    scenes = [_scene(np.random.default_rng([5, k]), shot) for k in range(150)]
    for scene in scenes:
        look = scene.golfer.look
        colours = [look.shirt, look.trousers, look.hair, look.skin, *([look.cap] if look.cap else [])]
        assert all(0 <= part <= 255 for colour in colours for part in colour)
    assert abs(np.mean([scene.camera.yaw_deg for scene in scenes])) < 0.4
    away = [scene.camera.distance_cm for scene in scenes]
    assert 350 < min(away) < 400 and 480 < max(away) < 530, "no nearer and no farther than people film"
    lags = [
        _scene(np.random.default_rng(5), changed(shot, clothes=clothes)).golfer.look.loose_cm
        for clothes in ("close", "loose", "wide")
    ]
    assert lags == sorted(lags) and lags[0] < lags[1] < lags[2]


def small(drawn):
    """The same swing on a picture that is filmed at once."""
    camera = Camera(drawn.shot.view, drawn.shot.hand, 160, 100)
    return replace(drawn, shoot=replace(drawn.shoot, camera=camera, rate=10.0))


def test_the_maker_makes_what_it_is_asked_and_leaves_nothing_half(tmp_path, monkeypatch):
    drawn = small(draw(Shot(View.FACE_ON, Hand.RIGHT, 1.5, ("slide",), "close", "good", 4)))
    monkeypatch.setattr(maker, "draw", lambda shot: drawn)
    free = maker.threading.Event()
    free.set()
    name = maker._made(drawn.shot, tmp_path, free)
    assert stock.read(tmp_path / name).stocked.shot == drawn.shot
    assert make(drawn, tmp_path / "other", stopped=lambda: True) is None
    assert not list((tmp_path / "other").iterdir())
    monkeypatch.setattr(maker, "draw", lambda shot: None)
    assert maker._made(drawn.shot, tmp_path, free) == ""


def test_made_swings_stay_within_their_room_and_only_answered_ones_go(tmp_path, shipped):
    names = list(shipped)[:4]
    for name in names:
        shutil.copytree(shipped[name].folder, tmp_path / name)
    held = sum(stock._bytes_of(tmp_path / name) for name in names)
    assert not stock.make_room(tmp_path, (), most=held, room=1000)
    assert sorted(path.name for path in tmp_path.iterdir()) == sorted(names)
    assert stock.make_room(tmp_path, {names[1]}, most=held, room=1000)
    assert not (tmp_path / names[1]).exists()
    broken, under_way = (tmp_path / f"{stock.MAKING}{name}" for name in "xy")
    for path in (broken, under_way):
        path.mkdir()
    os.utime(broken, (0, 0))
    stock.sweep(tmp_path)
    assert not broken.exists() and under_way.exists()


@pytest.mark.parametrize(
    "spoil",
    [
        lambda raw: raw[:200],
        lambda raw: b"no gzip at all",
        lambda raw: gzip.compress(b"{}"),
        lambda raw: gzip.compress(b" " * (stock.LONGEST_TEXT + 9)),
        lambda raw: gzip.compress(gzip.decompress(raw).replace(b'"rate":60.0', b'"rate":-1')),
        lambda raw: gzip.compress(gzip.decompress(raw).replace(b'"left_hip":[[', b'"left_hip":[[1.0,')),
    ],
)
def test_a_swing_that_was_spoilt_is_left_out(tmp_path, shipped, spoil):
    one = next(iter(shipped.values()))
    place = tmp_path / one.id
    shutil.copytree(one.folder, place)
    truth = place / stock.TRUTH
    truth.write_bytes(spoil(truth.read_bytes()))
    with pytest.raises(KneelError, match="left out"):
        stock.read(place)
    assert stock.listed(tmp_path, shipped=False) == []


@pytest.mark.parametrize("way", [-1, 1])
@pytest.mark.parametrize("key", list(asked_faults()))
def test_the_stick_reads_what_it_was_laid_as(key, way):
    asked = asked_faults()[key]
    stick = Stick(asked, way, 0.4, 90.0)
    for value in np.linspace(asked.low, asked.high, 7).tolist():
        end = stick.lines((100.0, 200.0), value)[-1][1]
        if asked.shape in ("across", "up"):
            assert abs(end[0] - 100) == pytest.approx(abs(value) / 0.4)
        assert stick.value((100.0, 200.0), end) == pytest.approx(value, abs=1e-6)
    assert asked.low <= stick.value((100.0, 200.0), (100.0 + way * 9999, 180.0)) <= asked.high


# Answers


def test_answers_are_kept_line_by_line_and_a_broken_line_costs_itself_alone(tmp_path):
    assert answers_file().parts[-3:] == ("kneel", "trainer", "answers.jsonl")
    path = tmp_path / "deep" / "er" / "answers.jsonl"
    first, second = said(["sway"], ["sway"]), said(["slide"], [], swing="b")
    keep_answer(path, first)
    with path.open("ab") as file:
        file.write(b'{"when": "2026')
    keep_answer(path, second)
    assert read_answers(path) == [first, second]
    assert path.stat().st_mode & 0o777 == 0o600
    assert read_answers(tmp_path / "none") == []
    with pytest.raises(KneelError, match="cannot be read"):
        read_answers(tmp_path / "deep")
    with pytest.raises(KneelError, match="not kept"):
        keep_answer(path / "below", first)
    path.write_bytes(msgspec.json.encode(first) + b"\n")
    with path.open("ab") as file:
        file.write(msgspec.json.encode(msgspec.to_builtins(first) | {"when": "yesterday"}) + b"\n")
    assert read_answers(path) == [first]


def test_a_round_is_summed_up_by_what_was_missed_and_what_was_not_there():
    answers = [said(["sway"], ["slide"], swing="a"), said(["sway"], [], swing="b"), said([], [], swing="c")]
    assert missed_words(answers) == ["Missed: sway 2.", "Named, and not there: slide 1."]
    assert missed_words(answers[2:]) == []


def test_an_answer_says_what_was_so(shipped):
    slide = with_fault(shipped, "slide").stocked
    right = answer_of(slide, ["slide"], Sure.RATHER, {"slide": 99.0}, shown="steps", size=1.5, now=NOW)
    assert right.right and verdict(right) == "Right: slide."
    off = right.said["slide"] - right.true["slide"]
    assert 0 < off < 99 - right.true["slide"] and size_verdict(right, "slide").startswith("You said ")
    assert size_verdict(right, "slide").endswith(f": {off:.1f} cm off.")
    wrong = answer_of(slide, ["sway"], Sure.RATHER, {}, shown="steps", size=1.5, now=NOW)
    assert verdict(wrong) == "Missed: slide. Not there: sway."
    assert verdict(said()) == "Right: nothing is wrong."
    assert verdict(said([], ["sway"])) == "Not there: sway."
    assert verdict(said(["sway", "slide"], ["sway"])) == "Missed: slide."
    nearly = changed(said([], ["sway"]), absent=())
    assert verdict(nearly).endswith("neither right nor wrong.")


# A class


@pytest.fixture
def classroom(tmp_path, shipped):
    swings = [with_fault(shipped, "slide"), with_fault(shipped), with_fault(shipped, "sitting")]
    folder = tmp_path / "round"
    folder.mkdir()
    write_class(folder, "Tuesday", swings, Settings(), dt.date(2026, 11, 30))
    return read_class(folder)


def answered(opened, paper, *named):
    answers = tuple(
        answer_of(one.stocked, names, Sure.CERTAIN, {}, shown="steps", size=1.5, by=paper.by, now=NOW)
        for one, names in zip(opened.swings, named, strict=False)
    )
    paper = changed(paper, answers=answers)
    write_paper(opened.folder, paper)
    return paper


def test_a_round_is_a_folder_that_any_desk_opens_and_everybody_answers_under_their_name(tmp_path, classroom):
    ida = answered(classroom, take_seat(classroom, " Ida  Fenn", "desk-1"), ["slide"], [], ["sitting"])
    moved = tmp_path / "elsewhere"
    shutil.copytree(classroom.folder, moved)
    there = read_class(moved)
    answered(there, take_seat(there, "=Otto", "desk-2"), ["sway"], ["slide"])
    assert take_seat(there, "ida fenn", "desk-1") == ida
    with pytest.raises(KneelError, match="another desk"):
        take_seat(there, "IDA FENN", "desk-2")
    with pytest.raises(KneelError, match="Type a name"):
        take_seat(there, " \u202e ", "desk-2")
    every, wrong = papers(there)
    assert [paper.by for paper in every] == ["=Otto", "Ida Fenn"] and not wrong
    rows = list(csv.reader(io.StringIO(as_csv(there, every))))
    assert rows[1][:8] == ["'=Otto", "2", "0", "0", "1", "2", "1", "1"]
    assert rows[2][:10] == ["Ida Fenn", "3", "3", "2", "2", "0", "0", "1", "3", "3"]
    guessed = tuple(changed(one, sure=Sure.GUESS) for one in every[1].answers[:2])
    half = changed(every[1], answers=(*guessed, *every[1].answers[2:]))
    assert list(csv.reader(io.StringIO(as_csv(there, [half]))))[1][8:10] == ["1", "1"]
    text = PdfReader(io.BytesIO(sheet_of(there, every, table=False))).pages[0].extract_text()
    assert "Ida Fenn" in text and "3 of 3" in text and "Tuesday" in text
    assert bring_papers(classroom, [paper_file(moved, "=Otto"), paper_file(moved, "Ida Fenn")]) == (1, [])
    assert len(papers(classroom)[0]) == 2


def test_nobody_marks_their_own_answers(classroom):
    paper = answered(classroom, take_seat(classroom, "Otto", "d"), ["sway"], [])
    forged = tuple(changed(one, present=one.named, absent=(), true={}) for one in paper.answers)
    twice = (*forged, forged[0], changed(forged[1], swing="f" * 16))
    paper_file(classroom.folder, "Otto").write_bytes(msgspec.json.encode(changed(paper, answers=twice)))
    (classroom.folder / "answers" / "odd.json").write_bytes(b"[]")
    (found,), wrong = papers(classroom)
    assert [one.right for one in found.answers] == [False, True]
    assert len(wrong) == 1


@pytest.mark.parametrize(
    "spoil",
    [
        {"swings": ["../../../etc"]},
        {"swings": []},
        {"swings": ["0" * 16]},
        {"version": 2},
        {"settings": {"size": 99}},
    ],
)
def test_a_folder_that_is_no_round_is_refused_in_one_sentence(classroom, spoil, capsys, tmp_path):
    path = classroom.folder / "round.json"
    path.write_text(json.dumps(json.loads(path.read_text()) | spoil))
    with pytest.raises(KneelError) as told:
        read_class(classroom.folder)
    assert "\n" not in str(told.value)
    assert main(["class", str(classroom.folder), "--csv", str(tmp_path / "x.csv")]) == 2
    assert not (tmp_path / "x.csv").exists()
    assert capsys.readouterr().err.count("\n") == 1


def test_a_clip_no_class_would_hand_round_is_not_opened(classroom):
    """A phone's film put in the place of a swing's."""
    clip = next((classroom.folder / "swings").glob("*/*.mp4"))
    os.truncate(clip, 60 * 2**20)
    read_class(classroom.folder)
    os.truncate(clip, 70 * 2**20)
    with pytest.raises(KneelError, match="is lacking"):
        read_class(classroom.folder)


def test_the_sheet_is_written_by_the_command_too(classroom, tmp_path, capsys):
    answered(classroom, take_seat(classroom, "Ida", "d"), ["slide"])
    assert main(["class", str(classroom.folder), "--csv", "-", "--pdf", str(tmp_path / "x.pdf")]) == 0
    assert capsys.readouterr().out.startswith("name,answered")
    assert (tmp_path / "x.pdf").read_bytes().startswith(b"%PDF")
    for own in ("round.json", f"answers/{paper_file(classroom.folder, 'Ida').name}"):
        before = (classroom.folder / own).read_bytes()
        assert main(["class", str(classroom.folder), "--csv", str(classroom.folder / own)]) == 2
        assert (classroom.folder / own).read_bytes() == before
    assert main(["class", str(classroom.folder)]) == 2
    with pytest.raises(KneelError, match="not empty"):
        write_class(classroom.folder, "x", classroom.swings, Settings(), dt.date(2026, 11, 30))


def test_the_log_linear_rate_is_never_none_and_never_all():
    assert 0 < corrected(0, 25) < 0.05
    assert 0.95 < corrected(25, 25) < 1
