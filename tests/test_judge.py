"""Verdicts by their published rule, schools and faults as data, chains and roots, and what the trade says."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.judge import Verdict, Why, at_hand, judge, knowledge, known
from kneel.judge.flight import MISSES, misses_in
from kneel.judge.kinds import Aimed
from kneel.judge.knowledge import load, shipped
from kneel.judge.numbers import OfSwing
from kneel.judge.reading import judge_numbers
from kneel.judge.records import Window
from kneel.judge.roots import Brief
from kneel.judge.verdict import ALL, ANY, Limits, judge_value, normal, together
from kneel.judge.weighing import weigh
from kneel.model import (
    Club,
    Kind,
    KnowledgeError,
    NoScale,
    Override,
    Stature,
    Swing,
    TypedScale,
    UsageError,
    View,
)
from kneel.motion.analysis import analyse
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.practice.judging import aimed_of
from kneel.sim.swing import INCH
from kneel.speech.findings import differences, done_well, place, reasons, sentence, work_on

LIMITS = Limits(-1.5, 4.0, 2.0)


@dataclass
class Told:
    """Numbers as a test wants them: by measure and checkpoint, value and error; all else is unheard of."""

    values: dict[tuple[str, str], tuple[float, float]]
    views: tuple[View, ...] = (View.FACE_ON, View.DOWN_THE_LINE)
    kind: Kind = Kind.FULL
    club: Club = Club.IRON
    size: float = 1.0
    asked: list[tuple[str, str]] = field(default_factory=list)

    def seen_from(self, measure):
        return next((view for view in self.views if view in REGISTRY[measure].views), None)

    def tell(self, measure, at):
        self.asked.append((measure, at))
        if (measure, at) not in self.values:
            return Failed("Nobody has marked it.", "points")
        unit = REGISTRY[measure].unit.value
        return Single.plain(measure, "cm" if unit == "length" else unit, *self.values[measure, at])

    def cm(self, unit):
        return 1.0, 0.0


AT_ITS_LINE = {("trail_hip_cross_share", at): (0.0, 0.03) for at in ("half_back", "top")}
"""The trail hip is where it was: the second way into a sway is not taken."""


def of(values, fault, school="centred", *, aimed=None, **more):
    """One fault judged on made-up numbers."""
    return weigh(known().faults[fault], Told(AT_ITS_LINE | values, **more), known().school(school), aimed)


def read(values, school="centred", brief=None, **more):
    return judge_numbers(Told(AT_ITS_LINE | values, **more), known().school(school), brief)


# One value against one window.


@pytest.mark.parametrize(
    ("past", "sigma", "verdict"),
    [
        (1.0, 0.30, "fault"),  # half a margin past, z 3.33
        (1.0, 0.31, "watch"),  # z 3.23
        (0.99, 0.01, "clear"),  # beyond doubt, but less than half a margin
        (4.0, 4.7, "watch"),  # z 0.85
        (4.0, 4.8, "unknown"),  # z 0.83
        (0.0, 1.56, "clear"),  # 1.28 sigma is just inside the margin
        (0.0, 1.57, "unknown"),
        (-9.0, 8.5, "clear"),
        (-9.0, 8.7, "unknown"),
    ],
)
def test_limits_of_the_verdicts(past, sigma, verdict):
    """Fault at 3.3 sigma, watch at 0.84, clear where 1.28 sigma stay under a margin of 2 (the house rule)."""
    assert judge_value(-1.5 - past, sigma, LIMITS, "below").verdict == verdict
    assert judge_value(4.0 + past, sigma, LIMITS, "above").verdict == verdict


@given(st.floats(-30, 30), st.floats(0.01, 10))
def test_probability_and_severity_behave(value, sigma):
    judged = judge_value(value, sigma, LIMITS, "below")
    assert 0 <= judged.probability <= 1 and 0 <= judged.severity <= 5
    worse = judge_value(value - 1, sigma, LIMITS, "below")
    assert worse.probability >= judged.probability and worse.severity >= judged.severity
    order = {Verdict.CLEAR: 0, Verdict.UNKNOWN: 1, Verdict.WATCH: 2, Verdict.FAULT: 3}
    assert order[worse.verdict] >= order[judged.verdict]
    mirror = judge_value(-value, sigma, Limits(-4.0, 1.5, 2.0), "above")
    assert (mirror.verdict, mirror.past) == (judged.verdict, judged.past)


@pytest.mark.parametrize(("z", "share"), [(0.0, 0.5), (1.2816, 0.9), (1.6449, 0.95), (2.3263, 0.99)])
def test_tails_against_the_table(z, share):
    """Quantiles of the normal distribution as every table has them."""
    assert normal(z) == pytest.approx(share, abs=2e-5)
    assert judge_value(-1.5 - z, 1.0, LIMITS, "below").probability == pytest.approx(share, abs=2e-5)


def test_several_checks_are_put_together_by_what_the_trade_asks():
    fault, watch, clear, unknown = Verdict.FAULT, Verdict.WATCH, Verdict.CLEAR, Verdict.UNKNOWN
    assert (fault, watch, unknown, clear) == ANY and (clear, unknown, watch) == ALL
    for one in Verdict:
        for other in Verdict:
            assert together([one, other], "any") is min(one, other, key=ANY.index)
    assert together([watch, fault], "all") is fault
    assert together([watch, watch], "all") is watch
    assert together([unknown, fault], "all") is unknown
    assert together([clear, unknown, fault], "all") is clear
    assert together([], "all") is together([], "any") is unknown


@pytest.mark.parametrize("correlation", [0.0, 0.7, 1.0])
def test_false_faults_stay_rare_however_checks_hang_together(correlation):
    """Monte Carlo: a truth right at the half-margin line is a fault in 0.05 % a check, two in 0.1 %."""
    rng = np.random.default_rng(3)
    shared, own = rng.normal(0, 1, (40_000, 1)), rng.normal(0, 1, (40_000, 2))
    error = np.sqrt(correlation) * shared + np.sqrt(1 - correlation) * own
    found = [
        together([judge_value(-2.5 + e, 1.0, LIMITS, "below").verdict for e in pair], "any") for pair in error
    ]
    # z is 1 there already: 3.3 asks for 2.3 sigma more (0.0107 by the table).
    share = np.mean([v is Verdict.FAULT for v in found])
    assert 0.008 < share < 2 * 0.0107 + 0.002
    assert (share < 0.014) == (correlation == 1.0)


# One fault.


def test_never_clear_because_one_of_two_was_clear():
    """Half way back is clear and the top is not told: then nothing is said of the sway."""
    clear = {("pelvis_shift", "half_back"): (0.0, 0.3)}
    finding = of(clear, "sway")
    assert finding.verdict is Verdict.UNKNOWN and finding.why is Why.MISSING and finding.decided is None
    assert "Nobody has marked it" in sentence(finding, known().school("centred"))
    both = of(clear | {("pelvis_shift", "top"): (0.0, 0.3)}, "sway")
    assert both.verdict is Verdict.CLEAR
    grave = of(clear | {("pelvis_shift", "top"): (-9.0, 0.3)}, "sway")
    assert (grave.verdict, grave.checkpoint) == (Verdict.FAULT, "top")


def test_a_window_open_on_the_counting_side_asks_nothing():
    """Only the forward school wants hips and hands put forward (common practice, no source)."""
    told = {("pelvis_in_stance", "address"): (-1.0, 0.5), ("hands_in_stance", "address"): (5.0, 0.5)}
    finding = of(told, "no_preset", "centred")
    assert finding.why is Why.SCHOOL and not finding.asked
    assert "says nothing about" in sentence(finding, known().school("centred"))
    assert of(told, "no_preset", "forward").verdict is Verdict.FAULT
    assert of(told, "no_preset", "forward", club=Club.DRIVER).why is Why.SCHOOL


def test_no_verdict_from_a_view_that_cannot_show_it():
    told = {("pelvis_thrust", at): (9.0, 0.3) for at in ("delivery", "impact")}
    assert of(told, "early_extension", views=(View.DOWN_THE_LINE,)).verdict is Verdict.FAULT
    blind = of(told, "early_extension", views=(View.FACE_ON,))
    assert (blind.verdict, blind.why) == (Verdict.UNKNOWN, Why.VIEW)
    # A knee's flex is seen face-on as well, but not well enough to judge by.
    flex = {("trail_knee_flex", "top"): (1.0, 0.5), ("trail_knee_flex_change", "top"): (-25.0, 0.5)}
    assert of(flex, "trail_knee_lock", views=(View.FACE_ON,)).why is Why.VIEW
    assert of(flex, "trail_knee_lock", views=(View.DOWN_THE_LINE,)).verdict is Verdict.FAULT


def test_each_kind_is_asked_for_what_it_reaches():
    """A half swing's top is no top; a punch does 80 to 85 % of a full swing (common practice, no source)."""
    turned = {("pelvis_turn", "top"): (-29.0, 1.0)}
    assert of(turned, "short_turn").verdict is Verdict.FAULT
    assert of(turned, "short_turn", kind=Kind.PUNCH).verdict is Verdict.CLEAR
    assert of(turned, "short_turn", kind=Kind.HALF).why is Why.KIND
    behind = {("pelvis_shift", at): (-9.0, 0.3) for at in ("half_back", "top")}
    for kind in (Kind.HALF, Kind.PUNCH, Kind.THREE_QUARTER, Kind.BACKSWING, Kind.REHEARSAL):
        found = of(behind, "sway", kind=kind)
        assert found.verdict is Verdict.FAULT and (found.checkpoint == "top" or kind is Kind.HALF), kind
    went = {("pelvis_shift", "delivery"): (4.0, 0.3), ("pelvis_shift", "half_down"): (5.0, 0.3)}
    assert of(went, "no_shift").verdict is Verdict.FAULT
    assert of(went, "no_shift", kind=Kind.HALF).verdict is Verdict.CLEAR
    assert of(went, "no_shift", kind=Kind.BACKSWING).why is Why.KIND
    # What must at most be stays: a half swing may not slide farther than a full one.
    past = {("pelvis_shift", "impact"): (19.0, 0.3), ("lead_stack_hip", "impact"): (9.0, 0.3)}
    assert of(past, "slide", kind=Kind.HALF).window == of(past, "slide").window


def test_a_drill_is_asked_for_its_own_numbers_and_an_exaggeration_for_going_far_enough():
    """The stick outside the trail thigh is about the sway; exaggerated it goes past the window on purpose."""
    told = {("pelvis_shift", at): (-4.0, 0.3) for at in ("half_back", "top")}
    told |= {("pelvis_tilt", "top"): (0.0, 0.5), ("trail_knee_flex", "top"): (20.0, 1.0)}
    swing = Swing(kind=Kind.DRILL, drill="turn_inside_the_gate")
    drill = aimed_of(swing)
    assert of(told, "sway", kind=Kind.DRILL, aimed=drill).checkpoint == "top"
    flat = of(told, "flat_turn", kind=Kind.DRILL, aimed=drill)
    assert flat.why is Why.KIND and "not about it" in sentence(flat, known().school("centred"))
    assert of(told, "flat_turn", kind=Kind.DRILL).verdict is Verdict.FAULT  # nobody said which drill
    # The window that the drill has itself stands before the school's.
    own = Aimed({("pelvis_shift", "top"): ("below",)}, (Window("pelvis_shift", ("top",), 2.0, -6.0),))
    assert of(told, "sway", kind=Kind.DRILL, aimed=own).verdict is Verdict.CLEAR

    def over(shift):
        values = {("pelvis_shift", at): (shift, 0.3) for at in ("half_back", "top")}
        values |= dict.fromkeys(AT_ITS_LINE, (-0.5, 0.05))
        aimed = aimed_of(Swing(kind=Kind.EXAGGERATION, drill="sway"))
        finding = of(values, "sway", kind=Kind.EXAGGERATION, aimed=aimed)
        return finding.verdict, sentence(finding, known().school("centred"))

    assert over(0.0)[0] is Verdict.WATCH and over(0.0)[1].startswith("Not yet far enough: +0.0")
    assert over(7.0)[0] is Verdict.CLEAR and over(7.0)[1].startswith("Far enough: ")
    assert of(told, "sway", kind=Kind.EXAGGERATION).why is Why.KIND
    assert aimed_of(Swing(kind=Kind.FULL, drill="sway")) is None


def test_all_at_one_checkpoint():
    """Unopened and shifted must meet at one checkpoint, from half way down on."""
    closed = {("pelvis_turn", at): (value, 0.5) for at, value in (("half_down", -45.0), ("delivery", 20.0))}
    closed |= {("pelvis_turn", "impact"): (40.0, 0.5)}
    far = {("pelvis_shift", at): (value, 0.3) for at, value in (("half_down", 5.0), ("delivery", 14.0))}
    far |= {("pelvis_shift", "impact"): (14.0, 0.3)}
    assert of(closed | far, "unopened_shift").verdict is Verdict.CLEAR
    both = of(closed | far | {("pelvis_shift", "half_down"): (12.0, 0.3)}, "unopened_shift")
    assert both.verdict is Verdict.FAULT and both.checkpoint == "half_down"
    # Ten centimetres of early shift by themselves are praised, not blamed (common practice, no source).
    opened = {("pelvis_turn", at): (value, 0.5) for at, value in (("half_down", -14.0), ("delivery", 9.0))}
    opened |= {("pelvis_turn", "impact"): (36.0, 0.5)}
    early = {("pelvis_shift", at): (10.0, 0.3) for at in ("half_down", "delivery", "impact")}
    for fault in ("unopened_shift", "no_shift"):
        assert of(opened | early, fault).verdict is Verdict.CLEAR
    assert of(early | {("lead_stack_hip", "impact"): (0.0, 0.5)}, "slide").verdict is Verdict.CLEAR


def test_all_means_all():
    """Both knees straighten: one that only may, makes it a watch; one that does not, rules it out."""
    views = (View.DOWN_THE_LINE,)

    def knees(lead, trail):
        told = {
            ("lead_knee_flex_change", "top"): (lead, 1.0),
            ("trail_knee_flex_change", "top"): (trail, 1.0),
        }
        return of(told, "both_knees_straighten", views=views).verdict

    assert knees(-12.0, -12.0) is Verdict.FAULT
    assert knees(-12.0, -6.5) is Verdict.FAULT  # one fault, the other at least watch
    assert knees(-7.0, -7.0) is Verdict.WATCH
    assert knees(-12.0, 0.0) is Verdict.CLEAR
    load = {("pelvis_shift", "impact"): (20.0, 0.5), ("trunk_bend", "impact"): (30.0, 1.0)}
    assert of(load, "low_back_load", views=(View.FACE_ON,)).verdict is Verdict.UNKNOWN
    assert of(load | {("trail_hip_flex", "impact"): (10.0, 1.0)}, "low_back_load").verdict is Verdict.FAULT


def test_windows_scale_with_the_body_and_hang_on_the_club():
    """Windows in cm are of 1.75 m: a child of 1.25 m sways by less."""
    told = {("pelvis_shift", at): (-2.3, 0.2) for at in ("half_back", "top")}
    assert of(told, "sway").verdict is Verdict.CLEAR
    small = of(told, "sway", size=125 / 175)
    assert small.verdict is Verdict.FAULT and small.window[0] == pytest.approx(-1.5 * 125 / 175)
    degrees = {("side_tilt", "top"): (1.0, 0.5)}
    assert of(degrees, "reverse_pivot", size=0.7).window[0] == 0.0
    # A driver's reverse pivot shows from the takeaway on; with irons nothing is asked there.
    early = {("side_tilt", "takeaway"): (-9.0, 0.5), ("side_tilt", "top"): (4.0, 0.5)}
    early[("side_tilt", "half_back")] = (2.0, 0.5)
    assert of(early, "reverse_pivot", club=Club.DRIVER).checkpoint == "takeaway"
    assert of(early, "reverse_pivot").verdict is Verdict.CLEAR


def test_support_raises_rank_and_words_but_does_not_decide():
    told = {("pelvis_thrust", "delivery"): (5.0, 0.5), ("pelvis_thrust", "impact"): (6.5, 0.5)}
    alone = of(told, "early_extension")
    lost = of(told | {("posture_loss", "impact"): (9.0, 1.0)}, "early_extension")
    kept = of(told | {("posture_loss", "impact"): (-4.0, 1.0)}, "early_extension")
    assert alone.verdict is lost.verdict is kept.verdict is Verdict.FAULT
    assert lost.severity == alone.severity and lost.supports[0].speaks and not kept.supports[0].speaks
    assert "lost 9 ± 1°" in reasons(lost)[0] and not reasons(kept)
    within = {("pelvis_thrust", at): (0.0, 0.5) for at in ("delivery", "impact")}
    assert of(within | {("posture_loss", "impact"): (9.0, 1.0)}, "early_extension").verdict is Verdict.CLEAR


# Chains and roots.

SWAY = {("pelvis_shift", "half_back"): (-7.0, 0.3), ("pelvis_shift", "top"): (-7.0, 0.3)}
TIPPED = {("side_tilt", "top"): (-9.0, 1.0)}
UPRIGHT = {("side_tilt", "top"): (5.0, 1.0)}
FLIPPED = {("shaft_lean", "impact"): (-14.0, 2.0)}


def test_the_earliest_link_leads_and_the_rest_hangs_under_it():
    """Sway → reverse pivot → flip is one thing to work on, not three (common practice, no source)."""
    reading = read(SWAY | TIPPED | FLIPPED)
    assert reading.priority == ("sway",)
    assert [(f.key, depth) for f, depth in reading.chain] == [("sway", 0), ("reverse_pivot", 1), ("flip", 2)]
    sway, flip = reading.of("sway"), reading.of("flip")
    assert sway.root and sway.explains == ("reverse_pivot", "flip") and sway.credit == 2
    # A sway leads to a flip by itself too: it hangs under what comes between, where that is at work.
    assert flip.because == "reverse_pivot" and not flip.root
    assert work_on(reading).startswith("Work on first: sway. It leads to reverse pivot and flip")
    assert place(flip, reading) == "It comes from: reverse pivot."


def test_credit_passes_what_cannot_be_told_and_stops_at_what_is_ruled_out():
    unseen = read(SWAY | FLIPPED)
    assert unseen.of("flip").because == "sway" and unseen.priority == ("sway",)
    # Both knees lead over a head that rises to lost posture, and no other way.
    legs = {(f"{side}_knee_flex_change", "top"): (-14.0, 0.5) for side in ("lead", "trail")}
    legs |= {("trail_knee_flex", "top"): (20.0, 1.0), ("posture_loss", "impact"): (25.0, 1.0)}
    line = (View.DOWN_THE_LINE,)
    assert read(legs, views=line).of("posture_loss").because == "both_knees_straighten"
    level = {("head_lift", at): (0.0, 0.3) for at in ("half_back", "top", "half_down")}
    ruled_out = read(legs | level, views=line)
    assert ruled_out.of("posture_loss").because == ""
    assert set(ruled_out.priority) == {"both_knees_straighten", "posture_loss"}


def test_a_watch_does_not_take_the_fault_it_leads_to_off_the_list():
    doubtful = {key: (value, 4.0) for key, (value, _) in SWAY.items()}
    reading = read(doubtful | {("side_tilt", "top"): (-15.0, 1.0)})
    assert reading.of("sway").verdict is Verdict.WATCH
    assert reading.priority == ("reverse_pivot",)
    assert reading.of("reverse_pivot").root and reading.of("reverse_pivot").because == "sway"
    assert "may come from: sway" in place(reading.of("reverse_pivot"), reading)


def test_at_most_two_and_consequences_never():
    many = {
        **SWAY,
        **{("head_lift", at): (9.0, 0.3) for at in ("half_back", "top", "half_down")},
        ("pelvis_lift", "impact"): (-9.0, 0.2),
        ("knee_gap", "address"): (0.3, 0.01),
        ("hands_to_plane", "half_down"): (60.0, 1.0),
    }
    reading = read(many)
    over = reading.of("over_the_top")
    assert over.verdict is Verdict.FAULT and not over.root and "over_the_top" not in reading.priority
    assert len(reading.found(Verdict.FAULT)) >= 4 and len(reading.priority) == 2


def test_a_cure_that_makes_it_worse_is_not_proposed():
    """Straightening the lead leg early makes an early extender worse (common practice, no source)."""
    bent = {("lead_knee_flex_change", "impact"): (20.0, 1.0)}
    assert read(bent, views=(View.DOWN_THE_LINE,)).priority == ("bent_lead_leg",)
    thrust = {("pelvis_thrust", at): (9.0, 0.3) for at in ("delivery", "impact")}
    assert read(bent | thrust, views=(View.DOWN_THE_LINE,)).priority == ("early_extension",)


def test_misses_raise_and_lower_roots():
    """A short turn slices and a head that rises tops the ball; neither leads to the other."""
    told = {("head_lift", at): (8.0, 0.3) for at in ("half_back", "top", "half_down")}
    told[("pelvis_turn", "top")] = (-15.0, 3.0)
    for miss, first in (("slice", "short_turn"), ("topped", "head_rise")):
        reading = read(told, brief=Brief(misses=frozenset({miss})))
        assert reading.priority[0] == first
        assert reading.of(first).fits == (miss,)
        assert f"would explain the {miss} shots" in place(reading.of(first), reading)
        other = {"short_turn": "head_rise", "head_rise": "short_turn"}[first]
        assert f"not explain the {miss} shots" in place(reading.of(other), reading)


def test_the_instructor_has_the_last_word():
    base = SWAY | TIPPED | FLIPPED

    def said(**words):
        return read(base, brief=Brief({k: Override(k, v, "seen it before") for k, v in words.items()}))

    rejected = said(sway="rejected")
    assert rejected.priority == ("reverse_pivot",) and rejected.of("sway").verdict is Verdict.CLEAR
    text = sentence(rejected.of("sway"), rejected.school)
    assert text.startswith("Overruled: no sway. Seen it before. The numbers say: the pelvis has drifted")
    left = said(sway="left")
    assert left.priority == () and left.of("flip").because == "reverse_pivot"
    assert "Known and left: seen it before." in place(left.of("sway"), left)
    added = said(stiff_legs="added")
    assert added.priority[0] == "stiff_legs" and added.of("sway").because == "stiff_legs"


@pytest.mark.parametrize(
    ("text", "misses"),
    [
        ("", set()),
        ("Fat with the irons, a block now and then", {"fat", "push"}),
        ("never a hook, but topped", {"topped"}),
        ("hits it off the toe and weak", {"toe", "weak"}),
    ],
)
def test_what_a_student_tells(text, misses):
    assert misses_in(text) == misses


# Whole swings.


def swing_of(simulate, scale=None, **plan):
    rows, _ = simulate(**plan)
    return analyse(rows.times_s, from_rows(rows), Setup(scale=scale or Stature(176.0)))


def test_reference_travel_of_a_centred_pattern_is_clear():
    """Pelvis in inches at the checkpoints of a skilled centred swing (common practice, no source)."""
    travel = {"half_back": -0.2, "top": 0.5, "half_down": 2.7, "delivery": 3.5, "impact": 3.6}
    told = {("pelvis_shift", at): (inches * INCH, 0.4) for at, inches in travel.items()}
    told[("lead_stack_hip", "impact")] = (0.0, 1.0)
    for fault in ("sway", "slide", "no_shift"):
        assert of(told, fault).verdict is Verdict.CLEAR, fault


def test_other_figures_of_the_trade_are_clear():
    """Common practice, no source: bend 30°, turn 45°, lean 12° with a mid-iron, feet flared 30 and 15°."""
    told = {
        ("forward_bend", "address"): (30.0, 1.0),
        ("pelvis_turn", "top"): (-45.0, 3.0),
        ("shaft_lean", "impact"): (12.0, 2.0),
        ("lead_foot_flare", "address"): (30.0, 3.0),
        ("trail_foot_flare", "address"): (15.0, 3.0),
    }
    for fault in ("sitting", "short_turn", "over_turn", "flip", "toes_straight"):
        assert of(told, fault).verdict is Verdict.CLEAR, fault


@pytest.mark.parametrize(
    ("sway", "centred", "loading", "braced"),
    [(0.0, "clear", "clear", "clear"), (4.2, "watch", "clear", "fault"), (8.0, "fault", "fault", "fault")],
)
def test_schools_differ_where_the_trade_does(simulate, sway, centred, loading, braced):
    """2.5 to 4 cm back are allowed by loading, not by centred (common practice, no source)."""
    study = swing_of(simulate, sway=sway, noise=0.5)
    readings = {key: judge(study, known().school(key)) for key in ("centred", "loading", "braced")}
    for key, verdict in (("centred", centred), ("loading", loading), ("braced", braced)):
        assert readings[key].of("sway").verdict == verdict, key
    told = differences(readings["centred"], readings["loading"])
    assert any(t.startswith(f"Sway: {centred} under centred") for t in told) == (centred != loading)


@pytest.mark.parametrize("key", ["centred", "loading", "forward", "braced"])
def test_each_school_clears_its_own_clean_swing(simulate, key):
    """The simulator's clean swing of a school, seen through a camera, shows no fault under that school."""
    reading = judge(swing_of(simulate, pattern=key, noise=0.5), known().school(key))
    assert not reading.found(Verdict.FAULT) and reading.priority == ()
    assert reading.of("sway").verdict is Verdict.CLEAR
    assert done_well(reading).startswith("Done well: ")


def test_finding_carries_its_reasons(simulate):
    reading = judge(swing_of(simulate, sway=7.0), known().school("centred"))
    sway = reading.of("sway")
    assert "sway" in reading.priority and sway.root
    assert sway.checkpoint in ("top", "half_back")
    size = 176 / 175
    assert sway.window[0] == pytest.approx({"top": -1.5, "half_back": -2.0}[sway.checkpoint] * size)
    assert sway.severity == pytest.approx((sway.window[0] - sway.value) / (2.0 * size))
    text = sentence(sway, reading.school)
    assert "has drifted" in text and "cm away from the target" in text and "centred school allows" in text
    assert "of the thigh’s width" in reasons(sway)[0]


def test_judged_alike_without_scale(simulate):
    """In stance widths the verdicts stay, and the window follows the unit."""
    for sway, verdict in ((0.0, "clear"), (9.0, "fault")):
        finding = judge(swing_of(simulate, NoScale(), sway=sway), known().school("centred")).of("sway")
        assert (finding.verdict, finding.unit) == (verdict, "stance")
        assert abs(finding.window[0]) < 0.2
    # One stance is the way from ankle to ankle at address.
    in_cm, in_stances = (swing_of(simulate, scale, sway=9.0) for scale in (None, NoScale()))
    feet = [
        in_cm.tracks[f"{side}_ankle"].xy[in_cm.checkpoints["address"].shown] for side in ("left", "right")
    ]
    wide = np.linalg.norm(feet[0] - feet[1]) * in_cm.scale.per_px
    apart = in_cm.at("pelvis_shift", "top").value / in_stances.at("pelvis_shift", "top").value
    assert apart == pytest.approx(wide, rel=0.03)


def test_the_document_brings_club_misses_and_overrides(simulate):
    study = swing_of(simulate, sway=7.0)
    swing = Swing(club=Club.DRIVER, flight="fat", overrides=(Override("slide", "added", "saw it"),))
    reading = judge(study, known().school("centred"), swing)
    assert reading.of("slide").verdict is Verdict.FAULT
    assert reading.of("sway").fits == ("fat",)


def test_a_dragged_mark_judges_the_chosen_fault_alone(simulate):
    before, after = swing_of(simulate, sway=7.0), swing_of(simulate, sway=0.0)
    reading = judge(before, known().school("centred"))
    renewed = reading.renewed(OfSwing(after, Club.IRON), "sway")
    assert renewed.of("sway").verdict is Verdict.CLEAR and renewed.of("sway").root == reading.of("sway").root
    assert [f for f in renewed.findings if f.key != "sway"] == [
        f for f in reading.findings if f.key != "sway"
    ]


# The knowledge itself.


def test_knowledge_is_whole():
    """Every fault has words, a deciding witness, a view, a school that asks, and a cause or is one itself."""
    everything = shipped()
    assert set(everything.schools) == {"centred", "loading", "forward", "braced"}
    assert len(everything.faults) >= 45
    caused = {k for fault in everything.faults.values() for k in fault.explains}
    for key, fault in everything.faults.items():
        assert all((fault.title, fault.seen, fault.why, fault.roots, fault.good, fault.care)), key
        assert "medical professional" in fault.care, key
        assert (
            fault.explains
            or key in caused
            or "oot itself" in fault.roots
            or fault.consequence
            or (fault.roots)
        ), key
        assert set(fault.misses) <= set(MISSES), key
        for check in fault.check:
            assert set(check.views) <= set(REGISTRY[check.measure].views), key
            limits = [
                check.own or school.find(check.measure, at, club)
                for school in everything.schools.values()
                for at in check.at
                for club in Club
            ]
            sides = {"below": ("lo",), "above": ("hi",), "outside": ("lo", "hi")}[check.side]
            assert any(w and getattr(w, side) is not None for w in limits for side in sides), (key, check)
    for school in everything.schools.values():
        assert school.title and school.creed
        assert all(w.margin > 0 and w.standing for w in school.window)
    with pytest.raises(UsageError, match="no school"):
        everything.school("nonesuch")


def test_causes_stand_before_what_they_lead_to():
    everything = shipped()
    for key, fault in everything.faults.items():
        for other in fault.explains:
            assert everything.order.index(key) < everything.order.index(other)


FAULT = """
[bad]
title = "Bad"
phase = "backswing"
seen = "s"
why = "w"
roots = "r"
good = "g"
check = [{{ measure = "{measure}", at = ["{at}"], side = "below", says = "{says}" }}]
explains = {explains}
"""


def fault_text(measure="pelvis_shift", at="top", says="is {size}", explains="[]"):
    return FAULT.format(measure=measure, at=at, says=says, explains=explains)


def school_text(window, key="bad", more=""):
    return f"key = '{key}'\ntitle = 't'\ncreed = 'c'\n{more}\nwindow = [\n  {{ {window} }},\n]\n"


@pytest.mark.parametrize(
    ("folder", "text", "said"),
    [
        ("schools", "key = 'bad'", "line 1"),
        ("schools", "not toml [", "not valid"),
        (
            "schools",
            school_text("measure='nothing', at=['top'], lo=0.0, margin=1.0"),
            "line 6: there is no measure",
        ),
        (
            "schools",
            school_text("measure='pelvis_shift', at=['noon'], lo=0.0, margin=1.0"),
            "not told at noon",
        ),
        ("schools", school_text("measure='tempo', at=['top'], lo=0.0, margin=1.0"), "not told at top"),
        ("schools", school_text("measure='pelvis_shift', at=['top'], lo=3.0, hi=1.0, margin=1.0"), "empty"),
        ("schools", school_text("measure='pelvis_shift', at=['top'], margin=1.0"), "no limit"),
        ("schools", school_text("measure='pelvis_shift', at=['top'], lo=0.0, margin=0.0"), "above zero"),
        (
            "schools",
            school_text("measure='pelvis_shift', at=['top'], lo=0.0, margin=1.0", key="other"),
            "calls itself",
        ),
        (
            "schools",
            school_text("measure='pelvis_shift', at=['top'], lo=0.0, margin=1.0", more="based_on = 'none'"),
            "to stand on",
        ),
        ("faults", fault_text(measure="nothing"), "there is no measure nothing"),
        ("faults", fault_text(at="noon"), "not told at noon"),
        ("faults", fault_text(says="is {colour}"), "asks for 'colour'"),
        ("faults", fault_text(explains='["unheard"]'), "line 10: bad speaks of an unknown fault, unheard"),
        ("faults", fault_text(explains='["bad"]'), "ring"),
        ("faults", fault_text() + "colour = 'red'", "line"),
    ],
)
def test_broken_knowledge_is_refused_with_file_and_line(tmp_path, folder, text, said):
    (tmp_path / folder).mkdir()
    (tmp_path / folder / "bad.toml").write_text(text)
    with pytest.raises(KnowledgeError, match=said) as error:
        load(tmp_path)
    assert f"{folder}/bad.toml" in str(error.value) and "mend the file" in str(error.value)


def test_an_instructors_own_files_stand_over_the_shipped(tmp_path):
    for folder in ("schools", "faults"):
        (tmp_path / folder).mkdir()
    window = "measure='pelvis_shift', at=['top'], lo=-9.0, margin=3.0, standing='mine'"
    (tmp_path / "schools" / "mine.toml").write_text(school_text(window, "mine", "based_on = 'centred'"))
    (tmp_path / "faults" / "own.toml").write_text(fault_text(explains='["sway"]'))
    everything = load(tmp_path)
    mine, centred = everything.school("mine"), everything.school("centred")
    assert mine.find("pelvis_shift", "top").lo == -9.0
    assert mine.find("pelvis_shift", "half_back") == centred.find("pelvis_shift", "half_back")
    assert mine.find("knee_gap", "top") == centred.find("knee_gap", "top")
    assert everything.order.index("bad") < everything.order.index("sway")
    assert "bad" not in shipped().faults


def test_one_window_of_a_school_for_all_clubs_stands_for_every_club():
    """The forward school's own window for driver stays beside its own for all; a base's club window goes."""
    forward = known().school("forward")
    assert forward.find("side_tilt", "top", Club.DRIVER).lo == -3.5
    assert forward.find("side_tilt", "top", Club.WEDGE).lo == -5.0
    assert known().school("centred").find("lead_knee_to_ball", "top", Club.DRIVER).lo == -9.0


def test_the_program_reads_an_instructors_folder(tmp_path, monkeypatch):
    (tmp_path / "schools").mkdir()
    (tmp_path / "schools" / "bad.toml").write_text("key = 1")
    monkeypatch.setattr(knowledge, "own_folder", lambda: tmp_path)
    known.cache_clear()
    try:
        with pytest.raises(KnowledgeError, match=r"schools/bad.toml, line 1"):
            known()
        at_hand.cache_clear()
        judged_by, trouble = at_hand()
        assert judged_by is shipped() and "schools/bad.toml, line 1" in trouble and "came with" in trouble
    finally:
        known.cache_clear()
        at_hand.cache_clear()


def test_scaled_errors_move_verdicts_as_they_should():
    """Halved errors settle more, doubled ones less; the value's side of the limit never changes."""
    told = {("pelvis_shift", at): (-4.0, 0.9) for at in ("half_back", "top")}
    half = {key: (value, sigma / 2) for key, (value, sigma) in told.items()}
    twice = {key: (value, sigma * 4) for key, (value, sigma) in told.items()}
    assert [of(t, "sway").verdict.value for t in (half, told, twice)] == ["fault", "watch", "unknown"]
    assert replace(of(told, "sway"), swings=(1,)).swings == (1,)


def test_turns_are_said_upward_and_limits_as_they_are_broken():
    """“Turned by 30°, 5° short of the 35° asked”; a tilt keeps its sign."""
    short = of({("pelvis_turn", "top"): (-24.0, 2.0)}, "short_turn")
    text = sentence(short, known().school("centred"))
    assert "11° short of what the centred school asks (at least 35°)" in text, text
    tipped = of({("side_tilt", "top"): (-9.0, 1.0)}, "reverse_pivot", "loading")
    assert "no more than 2° toward the target" in sentence(tipped, known().school("loading"))
    late = of({("pelvis_shift", at): (2.0, 0.3) for at in ("half_down", "delivery", "impact")}, "no_shift")
    assert "short of what the centred school asks" in sentence(late, known().school("centred"))
    past = of({("pelvis_shift", at): (-2.2, 0.3) for at in ("half_back", "top")}, "sway")
    assert past.verdict is Verdict.CLEAR and "too little past" in sentence(past, known().school("centred"))


def test_praise_goes_to_what_leads_to_most_and_is_earned():
    told = {("pelvis_shift", at): (0.5, 0.3) for at in ("half_back", "top")}
    told |= {("head_lift", at): (-2.0, 0.3) for at in ("half_back", "top", "half_down")}
    told |= {("pelvis_shift", at): (7.0, 0.3) for at in ("half_down", "delivery", "impact")}
    well = [f.key for f in read(told).well]
    assert well.index("sway") < well.index("head_rise"), well
    # A fault that asks several things at once is no merit where one of them is missing.
    assert "unopened_shift" not in well and read(told).of("unopened_shift").verdict is Verdict.CLEAR


def test_what_may_be_led_to_counts_half():
    """Sway with a sure reverse pivot outweighs one with what may be one."""
    sure = read(SWAY | {("side_tilt", "top"): (-9.0, 1.0)}).of("sway")
    may = read(SWAY | {("side_tilt", "top"): (-6.0, 5.0)})
    assert may.of("reverse_pivot").verdict is Verdict.WATCH
    assert (sure.credit, may.of("sway").credit) == (1.0, 0.5)


def test_a_body_read_off_a_wrong_scale_stays_human(simulate):
    """Without a stature windows follow the legs, but never to a giant or a doll."""
    rows, truth = simulate(sway=4.0)
    for times, size in ((1.0, 176 / 175), (4.0, 1.3), (0.2, 0.6)):
        scale = TypedScale(truth.cm_per_px * times)
        study = analyse(rows.times_s, from_rows(rows), Setup(scale=scale))
        assert OfSwing(study, Club.IRON).size == pytest.approx(size, rel=0.03), times


@given(st.one_of(st.none(), st.floats(-9, 0)), st.one_of(st.none(), st.floats(0, 9)), st.floats(-20, 20))
def test_how_far_outside_is_the_distance_to_what_is_allowed(lo, hi, value):
    """Open sides hold nobody; what is inside is nowhere near outside."""
    inside = np.clip(value, -np.inf if lo is None else lo, np.inf if hi is None else hi)
    assert Limits(lo, hi, 1.0).outside(value) == pytest.approx(abs(value - inside), abs=1e-12)
