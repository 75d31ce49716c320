"""Do two sides differ? Against published formulas, a reference library, people's days, simulated swings."""

from __future__ import annotations

import json
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace as replace_fields
from scipy import stats

from kneel.cli.main import main
from kneel.compare.check_in import Outcome, answered
from kneel.compare.difference import (
    ChangeWord,
    Difference,
    detectable,
    difference,
    effective_freedom,
    two_sides,
)
from kneel.compare.errors import Member, OneNumber, told_by
from kneel.compare.family import AskedNumber, asked_by, compare_all, judged_alone, judged_together
from kneel.compare.sets import OfSet, mean_sigma, of_one_lesson
from kneel.compare.spread import Days, Swings, days_apart, days_of
from kneel.compare.trend import practised_of
from kneel.model import Guard
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single
from kneel.speech.change import answer_sentence, change_sentence
from tests.test_lesson import CENTRED, filmed, rows_of, write
from tests.test_practice import plan

SHIFT = AskedNumber("pelvis_shift", "top", 2.5)
OTHER_DAY = {"lessons": True, "stood": False}
SAME_DAY = {"lessons": False, "stood": True}


def number(value, causes=None, source=("stature", 175.0), unit="cm"):
    causes = causes or {}
    sigma = math.sqrt(sum(moved**2 for moved in causes.values()))
    return OneNumber("top", Single.given("pelvis_shift", unit, value, sigma, causes), source)


def sides(first, second, sigma=0.0, **how):
    own = {("place", "lead_hip"): sigma} if sigma else {}
    return two_sides(*([number(v, own) for v in side] for side in (first, second)), **(how or SAME_DAY))


def told(first, second, sigma=0.0, days=None, **how):
    found = difference(*sides(first, second, sigma, **how), "pelvis_shift", "top", days)
    assert isinstance(found, Difference)
    return found


def test_the_least_change_is_the_published_one():
    """1.96 × √2 × SEM (Weir, J. Strength Cond. Res. 19, 2005, from memory). The SEM of consistency of the
    table of Shrout and Fleiss (Psychol. Bull. 86, 1979) is the root of its mean square error, 1.0194: 2.7987.
    """
    table = np.array(
        [[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]], float
    )
    left = table - table.mean(1, keepdims=True) - table.mean(0) + table.mean()
    sem = math.sqrt((left**2).sum() / 15)
    assert sem == pytest.approx(1.0097, abs=5e-5)
    assert told([3.0], [4.0], sem).detectable_alone == pytest.approx(2.7987, abs=1e-3)
    assert detectable(1.0, math.inf) == pytest.approx(1.96, abs=1e-3)


@given(
    st.lists(st.floats(-9, 9), min_size=2, max_size=9),
    st.lists(st.floats(-9, 9), min_size=2, max_size=9),
)
def test_without_shared_errors_it_is_the_test_of_welch(first, second):
    """p and the interval's half-width are those of SciPy's t test of two samples of unlike variance."""
    if min(np.var(first), np.var(second)) < 1e-3:
        return
    change = told(first, second)
    reference = stats.ttest_ind(second, first, equal_var=False)
    interval = reference.confidence_interval(0.95)
    assert change.p == pytest.approx(reference.pvalue, rel=1e-6, abs=1e-9)
    assert change.detectable_alone == pytest.approx((interval.high - interval.low) / 2, rel=1e-6)
    swapped = told(second, first)
    assert swapped.difference == pytest.approx(-change.difference) and swapped.p == pytest.approx(change.p)


def test_effective_freedom_is_that_of_the_guide():
    """GUM H.1.6: 25 nm (18), 9.7 (25.6), 2.9 (50) and 16.6 (2) beside 31.7 nm in all have 16.7."""
    parts = [(25.0**2, 18.0), (9.7**2, 25.6), (2.9**2, 50.0), (16.6**2, 2.0)]
    rest = 31.7**2 - sum(v for v, _ in parts)
    assert effective_freedom([*parts, (rest, math.inf)]) == pytest.approx(16.7, abs=0.4)
    assert effective_freedom([(1.0, math.inf), (0.0, 4.0)]) == math.inf


CANCELS = {
    # What is the clip's own never does; the rest where what it hangs on is the same: lesson, camera, scale.
    ("place", "lead_hip"): (False, False, False),
    ("time", "top"): (False, False, False),
    ("paths", "tempo"): (False, False, False),
    ("pelvis_shift",): (False, False, False),
    ("lasts", "lead_hip", "x", "0"): (True, True, False),
    ("yaw",): (True, False, False),
    ("nearer", "pelvis"): (True, False, False),
    ("deep", "pelvis"): (True, True, True),
    ("definition",): (True, True, True),
    ("scale",): (True, True, True),
    ("whole", "tempo"): (True, False, False),
}


@pytest.mark.parametrize(("cause", "cancels"), CANCELS.items())
def test_a_cause_goes_out_of_a_difference_only_where_both_sides_have_it_alike(cause, cancels):
    """One lesson by a camera that stood, by one that moved, and another lesson."""
    for how, gone in zip((SAME_DAY, {"lessons": False, "stood": False}, OTHER_DAY), cancels, strict=True):
        one, other = number(1.0, {cause: 0.5}), number(2.0, {cause: 0.5})
        found = difference(*two_sides([one], [other], **how), "pelvis_shift", "top")
        assert found.sigma == pytest.approx(0.0 if gone else 0.5 * math.sqrt(2), abs=1e-9)
    apart = two_sides([number(1.0, {("scale",): 0.5})], [number(2.0, {("scale",): 0.5}, ("typed", 0.0))])
    assert difference(*apart, "pelvis_shift", "top").sigma == pytest.approx(0.5 * math.sqrt(2))


def test_what_comes_again_with_the_pose_is_partly_the_golfers():
    pose = {("pose", "lead_hip"): 0.5}
    same, other = (
        difference(*two_sides([number(1.0, pose)], [number(2.0, pose)], **how), "pelvis_shift", "top").sigma
        for how in (SAME_DAY, OTHER_DAY)
    )
    assert same == pytest.approx(0.0, abs=1e-9) and 0.0 < other < 0.5 * math.sqrt(2) / 2 < 0.5
    many = told_by(of_one_lesson([number(1.0, pose)] * 9), "pelvis_shift", "top")
    assert mean_sigma(many, Swings.of(many)) == pytest.approx(0.5), "nine looks at it are no surer"


def test_what_the_body_model_sees_is_as_sure_as_its_errors_are_right():
    """Errors right to a fifth have 12.5 degrees of freedom (GUM, JCGM 100:2008, equation G.3)."""
    causes = {("pose", "lead_hip"): 0.5, ("place", "lead_hip"): 0.2}
    for count in (1, 3):
        one = difference(
            *two_sides([number(1.0, causes)] * count, [number(2.0, causes)] * count, **OTHER_DAY),
            "pelvis_shift",
            "top",
        )
        assert one.freedom == pytest.approx(12.5)
        assert one.detectable_alone == pytest.approx(stats.t.ppf(0.975, 12.5) * one.sigma)
    assert told([1.0], [2.0], 0.5).freedom == math.inf, "by hand"


def changes_with(*ps):
    plain = told([0.0] * 3, [1.0] * 3, 0.5)
    return [replace(plain, at=str(k), p=p) for k, p in enumerate(ps)]


def test_others_are_asked_together_by_holm():
    """Of 0.01, 0.04, 0.03 and 0.005 at 5 % the first and the last count (Holm 1979; example from memory)."""
    found = judged_together(changes_with(0.01, 0.04, 0.03, 0.005), [1.0] * 4, 0.05)
    assert [one.verdict is ChangeWord.CHANGED for one in found] == [True, False, False, True]
    # Asked of more, each has to be surer, and what it takes is said: the limit of Holm's first step.
    many = judged_together(changes_with(0.01, *[0.5] * 9), [1.0] * 10, 0.05)
    assert all(one.verdict is ChangeWord.CANNOT_TELL for one in many)
    one = many[0]
    assert one.detectable == pytest.approx(stats.t.ppf(1 - 0.0025, one.freedom) * one.sigma, rel=1e-6)
    assert one.detectable > one.detectable_alone


def test_one_swing_given_thrice_is_no_surer_than_it_is_told():
    """Three that agree to the last digit have no spread; their own errors stay."""
    thrice = told([1.0] * 3, [2.0] * 3, 0.9)
    assert thrice.sigma >= 0.9 * math.sqrt(2 / 3) - 1e-9
    assert judged_alone(thrice, 0.5).verdict is ChangeWord.CANNOT_TELL
    assert judged_alone(thrice, 2.5).verdict is ChangeWord.UNCHANGED, (
        "less than is worth the name at any rate"
    )


def test_nothing_is_said_of_a_student_by_few_swings():
    for count in (1, 2):
        first = [1.0, 1.1][:count]
        far, near = (judged_alone(told(first, [v + x for x in first], 0.1), 1.0) for v in (9, 0))
        assert far.verdict is ChangeWord.DIFFER and near.verdict is ChangeWord.ALIKE and not far.of_student
        assert "film three a side" in change_sentence(far)
    assert isinstance(difference(*sides([1.0], []), "pelvis_shift", "top"), Failed)
    mixed = two_sides([number(1.0)], [number(1.0, unit="stance")])
    assert "different units" in difference(*mixed, "pelvis_shift", "top").reason


# People's days.


def claims(rng, counts, spreads, day, *, tries=1500, shift=0.0, **how):
    """Share of claims about a golfer whose lessons lie ``day`` apart; ``shift`` in limits of each pair."""
    said = 0
    for _ in range(tries):
        first, second = (
            rng.normal(rng.normal(0, day), spread, n) for n, spread in zip(counts, spreads, strict=True)
        )
        found = told(first, second, **(how or OTHER_DAY))
        if shift:
            found = told(first, second + shift * found.detectable_alone, **(how or OTHER_DAY))
        said += judged_alone(found, 0.0).verdict is ChangeWord.CHANGED
    return said / tries


@pytest.mark.parametrize("counts", [(3, 3), (3, 12), (24, 3)])
@pytest.mark.parametrize("spreads", [(1.0, 1.0), (0.6, 1.5)])
def test_a_golfers_days_are_no_change(counts, spreads):
    """Lessons as far apart as nothing, half, and all of the swings' spread: at most one false claim of
    twenty, give or take what 1500 tries leave.
    """
    rng = np.random.default_rng(7)
    mean = math.sqrt((spreads[0] ** 2 + spreads[1] ** 2) / 2)
    for day in (0.0, 0.5 * mean, mean):
        assert claims(rng, counts, spreads, day) <= 0.05 + 3 * math.sqrt(0.05 * 0.95 / 1500), day


def test_without_days_half_of_the_claims_would_be_false_and_a_change_is_found():
    rng = np.random.default_rng(8)
    assert claims(rng, (12, 12), (1, 1), 1.0, lessons=False, stood=True, tries=300) > 0.3
    assert claims(rng, (12, 12), (1, 1), 1.0, tries=300) < 0.1
    assert claims(rng, (4, 4), (1, 1), 0.5, shift=1.4, tries=300) > 0.9


def lessons_at(values, variance=0.09, count=3):
    return [Swings(v, variance, 2.0, variance**0.5, count, {f"day {k}": 1.0}) for k, v in enumerate(values)]


def test_a_students_own_lessons_tell_how_far_days_lie_apart():
    rng = np.random.default_rng(5)
    apart = days_of(lessons_at(rng.normal(0, 1.5, 400)))
    assert apart.variance == pytest.approx(1.5**2 - 0.09 / 3, rel=0.2) and apart.prior_share < 0.05
    slow = days_of(lessons_at(np.linspace(0, 40, 400) + rng.normal(0, 0.3, 400)))
    assert slow.variance < 0.12, "a slow change over many lessons is no spread"
    few = days_of(lessons_at([0.0, 5.0, 0.0]))
    assert few == Days() and few.prior_share == 1.0
    # The step that is asked about does not count.
    steps = lessons_at([0.0, 0.1, 0.0, 0.1, 9.0])
    assert days_of(steps).variance > 5
    assert days_of(steps, (steps[3], steps[4])).variance < 0.1
    steady, jumpy = (told([0.0, 0.3, 0.6], [2.0, 2.3, 2.6], days=Days(v, 200.0), **OTHER_DAY) for v in (0, 9))
    assert steady.sigma < told([0.0, 0.3, 0.6], [2.0, 2.3, 2.6], **OTHER_DAY).sigma < jumpy.sigma
    assert told([0.0, 0.3, 0.6], [2.0, 2.3, 2.6], days=Days(9.0, 200.0)).sigma < 1, "one lesson has no days"


def test_what_days_bring_is_by_the_formula():
    """Prior and own lessons by their weights, all of both sides' days, half of it the side after; freedom of
    four steps 2 · 4² / (3 · 4 − 1) (von Neumann and others, from memory).
    """
    own_days = days_of(lessons_at([0.0, 1.0, 0.0, 1.0, 0.0]))
    assert own_days.freedom == pytest.approx(32 / 11) and own_days.variance == pytest.approx(0.5 - 0.09 / 3)
    first, second = [0.0, 1.0, 2.0], [5.0, 7.0, 9.0, 7.0]
    v1, v2, days = np.var(first, ddof=1), np.var(second, ddof=1), Days(2.5, 6.0)
    prior = 4 / (4 + 6) * 1.1**2
    own = (1 - 4 / (4 + 6)) * 2.5
    found = told(first, second, days=days, **OTHER_DAY)
    assert found.sigma**2 == pytest.approx((1 / 3 + prior) * v1 + (1 / 4 + prior) * v2 + 2 * own)
    assert found.after_sigma**2 == pytest.approx(v2 / 4 + prior * (v1 + v2) / 2 + own)
    # With days in it the freedom of what swings tell is at most twice that of the side of fewer.
    wide = told([0.0, 0.1, 0.2], list(np.linspace(0, 9, 30)), **OTHER_DAY)
    assert wide.freedom == pytest.approx(4.0)
    causes = [{("yaw",): 3.0}, {("roll",): 0.4, ("place", "lead_hip"): 0.3}]
    one = difference(*two_sides([number(1.0, causes[0])], [number(2.0, causes[1])]), "pelvis_shift", "top")
    assert one.after_sigma == pytest.approx(0.5) and one.sigma == pytest.approx(math.hypot(3.0, 0.5))


def test_the_worst_of_many_was_so_by_chance_too():
    """Of six numbers the lowest is asked again: as one of six it is falsely claimed within 5 %."""
    rng = np.random.default_rng(11)
    alone = among = 0
    for _ in range(600):
        first = rng.normal(rng.normal(0, 1, (6, 1)), 1, (6, 12))
        worst = int(first.mean(axis=1).argmin())
        found = told(first[worst], rng.normal(rng.normal(0, 1), 1, 12), **OTHER_DAY)
        alone += judged_alone(found, 0.0).verdict is ChangeWord.CHANGED
        among += judged_alone(found, 0.0, among=6).verdict is ChangeWord.CHANGED
    assert among / 600 <= 0.05 < alone / 600


# Simulated swings.


@pytest.fixture(scope="module")
def student():
    """Before, the same again, and a student who sways less: three swings each."""

    def three(first, **faults):
        return [filmed(seed, **faults).numbers for seed in range(first, first + 3)]

    return three(20, sway=6.0), three(40, sway=6.0), three(60, sway=0.5)


def test_what_the_sides_share_goes_out_and_what_they_do_not_stays(student):
    """A camera that stood, one lesson, two lessons: the error grows; a shared part is not divided by n."""
    before, same, _ = student
    stood, moved, later = (
        difference(*two_sides(before, same, lessons=one, stood=still), "pelvis_tilt", "top")
        for one, still in ((False, True), (False, False), (True, False))
    )
    assert stood.sigma < moved.sigma < later.sigma
    one, three = (difference(*two_sides(before[:n], same[:n]), "pelvis_tilt", "top").sigma for n in (1, 3))
    assert one / 3 < one / math.sqrt(3) < three + 1e-9 < one * 1.5


def test_a_set_is_as_sure_as_its_swings_are_alike(student):
    """Its mean holds s/√n, by t where s is known badly; what is shared does not fall."""
    before = student[0]
    told_ = told_by(of_one_lesson(before), "pelvis_shift", "top")
    shared = sum(moved**2 for key, moved in told_[0].single.causes.items() if key[0] != "place")
    wide = [
        Member(OneNumber("top", replace(one.single, value=v), one.member.numbers.source), "one", "one")
        for one, v in zip(told_, (-8.0, -2.0, 4.0), strict=True)
    ]
    over = told_by(wide, "pelvis_shift", "top")
    assert mean_sigma(over, Swings.of(over)) > 6.0 / math.sqrt(3) * 1.5
    close = OfSet(tuple(before)).over("pelvis_shift", "top")
    assert math.sqrt(shared) * 0.5 < close.mean.sigma <= told_[0].single.sigma * 1.05


def test_a_whole_swings_number_shares_what_its_lesson_shares(student):
    one = student[0][0]
    single = one.tell("shift_share", "once")
    parts = single.causes
    assert {key[0] for key in parts} == {"paths", "whole"} and min(parts.values()) > 0
    assert sum(moved**2 for moved in parts.values()) == pytest.approx(single.sigma**2)
    four = told_by(of_one_lesson([one] * 4), "shift_share", "once")
    assert mean_sigma(four, Swings.of(four)) > single.sigma / 2 * 1.01


def test_a_real_change_is_called_and_none_where_there_is_none(student):
    before, same, better = student
    asked = asked_by(CENTRED, before[0])
    still = compare_all(*two_sides(before, same), asked, prescribed=SHIFT)
    assert still.prescribed.verdict is not ChangeWord.CHANGED and not still.claimed
    moved = compare_all(*two_sides(before, better), asked, prescribed=SHIFT)
    assert moved.prescribed.verdict is ChangeWord.CHANGED and moved.prescribed.difference > 3
    assert len(moved.others) > 15 and all(o.detectable > o.detectable_alone for o in moved.others)
    keys = [(one.measure, one.at) for one in asked]
    assert len(keys) == len(set(keys)) and ("pelvis_shift", "top") in keys and all(a.worth > 0 for a in asked)


def test_the_check_in_says_what_to_do(student):
    before, same, better = student
    made, asked = plan(), asked_by(CENTRED, before[0])

    def answer(first, second):
        return answered(made, *two_sides(first, second), asked)

    outcomes = [answer(before, after) for after in (better, same, before[:2])]
    assert outcomes[0].outcome is Outcome.HOLDS and "real change" in answer_sentence(outcomes[0])
    assert outcomes[1].outcome in (Outcome.CANNOT_TELL, Outcome.NOT_MOVED)
    assert outcomes[2].outcome is Outcome.FEW and "film three" in answer_sentence(outcomes[2])
    # A guard speaks where it moved its bad way by more than it may, beyond error; else it is silent.
    guards = [Guard("trail_hip_cross", "top", "cm", way, by) for way, by in (("down", 1.0), ("up", 1.0))]
    still = Guard("head_lift", "top", "cm", "up", 1.0)
    worse = [
        answered(replace_fields(made, guards=(guard,)), *two_sides(before, better), asked)
        for guard in (*guards, still)
    ]
    assert [one.outcome for one in worse].count(Outcome.WORSE) == 1 and not worse[2].worse
    assert [len(one.worse) for one in worse[:2]] in ([1, 0], [0, 1])
    back = answer(better, before)
    assert back.outcome is Outcome.WORSE and "stop this drill" in answer_sentence(back)


def test_the_command_line_answers(tmp_path, capsys):
    files = {}
    for name, first, sway in (("before", 20, 6.0), ("after", 60, 0.5)):
        files[name] = []
        for seed in range(first, first + 3):
            path = tmp_path / f"{name}{seed}.csv"
            files[name].append(write(path, rows_of(seed, sway=sway)))
    asked = ["changed", *files["before"], "--after", *files["after"], "--view", "face-on", "--stature", "175"]
    assert main([*asked, "--measure", "pelvis_shift@top", "--least", "2.5", "--json", "-"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert result["prescribed"]["verdict"] == "changed" and result["before"] == result["after"] == 3
    assert all(other["detectable"] > other["detectable_alone"] for other in result["others"])
    assert main([*asked, "--measure", "pelvis_thrust@top"]) == 2
    assert main(["changed", *files["before"], "--after", files["before"][0], "--view", "face-on"]) == 2
    assert "give each swing once" in capsys.readouterr().err


def test_days_lie_apart_by_the_share_that_each_side_has_of_them():
    """Two lessons: 2; one of two lessons on both sides in unlike shares: what is left of it, squared."""
    parts = {"mean": 0.0, "variance": 1.0, "freedom": 2.0, "spread": 1.0, "count": 4}
    one, half = Swings(lessons={"a": 1.0}, **parts), Swings(lessons={"a": 0.5, "b": 0.5}, **parts)
    assert days_apart(one, Swings(lessons={"b": 1.0}, **parts)) == 2.0
    assert days_apart(one, half) == pytest.approx(0.5**2 + 0.5**2)
    assert days_apart(half, half) == 0.0


def test_practice_lasts_as_many_days_as_the_plan():
    """From its first day to its last, both among them; one that ended early to its last session."""
    made = plan(days=14)
    (span,) = practised_of([made])
    assert (span.last - span.first).days == 13
    (early,) = practised_of([plan(days=14, ended="It holds")])
    assert early.last == early.first == made.start
