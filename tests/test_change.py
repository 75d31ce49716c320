"""Did it change? Against published formulas, a reference library, and swings of a simulated student."""

from __future__ import annotations

import json
import math
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from kneel.cli.main import main
from kneel.judge import known
from kneel.judge.change import (
    Between,
    Change,
    Changed,
    compare,
    detectable,
    effective_freedom,
    judged_alone,
    judged_together,
)
from kneel.judge.compared import Asked, compare_all
from kneel.model import NoScale
from kneel.motion.quantity import Single
from kneel.practice.answer import Outcome, answered
from kneel.speech.change import answer_sentence, change_sentence
from tests.test_lesson import CENTRED, filmed, rows_of, write
from tests.test_practice import plan

SHIFT = Asked("pelvis_shift", "top", 2.5)
SAME = Between(lessons=False, stood=True)


class Told:
    """Numbers of a swing of which only one value is known, with an error that nothing shares."""

    def __init__(self, value, sigma=0.0):
        self.value, self.sigma = value, sigma
        self.study = SimpleNamespace(setup=SimpleNamespace(guessed=frozenset(), scale=NoScale()))

    def tell(self, measure, at):
        return Single.plain(measure, "cm", self.value, self.sigma)


def sides(first, second, sigma=0.0):
    return [[Told(v, sigma) for v in side] for side in (first, second)]


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
    one = compare(*sides([3.0], [4.0], sem), "pelvis_shift", "top", SAME)
    assert one.detectable == pytest.approx(2.7987, abs=1e-3)
    assert detectable(1.0, math.inf) == pytest.approx(1.96, abs=1e-3)


@given(
    st.lists(st.floats(-9, 9), min_size=2, max_size=6),
    st.lists(st.floats(-9, 9), min_size=2, max_size=6),
)
def test_without_shared_errors_it_is_the_test_of_student(first, second):
    """p and the interval's half-width are those of SciPy's t test of two samples of one variance."""
    if min(np.var(first), np.var(second)) < 1e-3:
        return
    change = compare(*sides(first, second), "pelvis_shift", "top", SAME)
    reference = stats.ttest_ind(second, first)
    interval = reference.confidence_interval(0.95)
    assert change.p == pytest.approx(reference.pvalue, rel=1e-6, abs=1e-9)
    assert change.detectable == pytest.approx((interval.high - interval.low) / 2, rel=1e-6)
    swapped = compare(*sides(second, first), "pelvis_shift", "top", SAME)
    assert swapped.difference == pytest.approx(-change.difference) and swapped.p == pytest.approx(change.p)


def test_effective_freedom_is_that_of_the_guide():
    """GUM H.1.6: 25 nm (18), 9.7 (25.6), 2.9 (50) and 16.6 (2) beside 31.7 nm in all have 16.7."""
    parts = [(25.0**2, 18.0), (9.7**2, 25.6), (2.9**2, 50.0), (16.6**2, 2.0)]
    total = sum(v for v, _ in parts)
    by_hand = total**2 / sum(v**2 / f for v, f in parts)
    assert effective_freedom(parts) == pytest.approx(by_hand)
    # The guide's own budget: 31.7 nm, 16.7.
    guide = 31.7**4 / (25.0**4 / 18 + 9.7**4 / 25.6 + 2.9**4 / 50 + 16.6**4 / 2)
    assert guide == pytest.approx(16.7, abs=0.4)
    assert effective_freedom([(1.0, math.inf), (0.0, 4.0)]) == math.inf


def changes_with(*ps):
    return [Change("m", str(k), "cm", 0.0, 1.0, 0.5, 0.5, 4.0, 1.4, 0.5, (3, 3), p) for k, p in enumerate(ps)]


def test_others_are_asked_together_by_holm():
    """Of 0.01, 0.04, 0.03 and 0.005 at 5 % the first and the last count (Holm 1979; example from memory)."""
    found = judged_together(changes_with(0.01, 0.04, 0.03, 0.005), [1.0] * 4, 0.05)
    assert [one.verdict is Changed.CHANGED for one in found] == [True, False, False, True]
    # Asked of more, each has to be surer.
    many = judged_together(changes_with(0.01, *[0.5] * 9), [1.0] * 10, 0.05)
    assert all(one.verdict is Changed.CANNOT_TELL for one in many)


def test_one_swing_given_thrice_is_no_surer_than_it_is_told():
    """Three that agree to the last digit have no spread; their own errors stay."""
    thrice = compare(*sides([1.0] * 3, [2.0] * 3, 0.9), "pelvis_shift", "top", SAME)
    assert thrice.sigma >= 0.9 * math.sqrt(2 / 3) - 1e-9
    assert judged_alone(thrice, 2.5).verdict is Changed.CANNOT_TELL


def test_nothing_is_said_of_a_student_by_two_swings():
    far, near = (
        judged_alone(compare(*sides([1.0, 1.1], [v, v + 0.1], 0.1), "m", "top", SAME), 1.0) for v in (9, 1)
    )
    assert far.verdict is Changed.DIFFER and near.verdict is Changed.ALIKE
    assert "film three a side" in change_sentence(
        judged_alone(compare(*sides([1.0], [9.0], 0.1), "pelvis_shift", "top", SAME), 1.0)
    )


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
        compare(before, same, "pelvis_shift", "top", Between(*how))
        for how in ((False, True), (False, False), (True, False))
    )
    assert stood.sigma <= moved.sigma <= later.sigma
    one = compare(before[:1], same[:1], "pelvis_tilt", "top", Between(lessons=True))
    three = compare(before, same, "pelvis_tilt", "top", Between(lessons=True))
    assert one.sigma / 3 < one.sigma / math.sqrt(3) < three.sigma + 1e-9 < one.sigma * 1.5


def test_a_real_change_is_called_and_none_where_there_is_none(student):
    before, same, better = student
    still = compare_all(before, same, CENTRED, Between(), prescribed=SHIFT)
    assert still.prescribed.verdict is not Changed.CHANGED and not still.claimed
    moved = compare_all(before, better, CENTRED, Between(), prescribed=SHIFT)
    assert moved.prescribed.verdict is Changed.CHANGED and moved.prescribed.difference > 3
    assert len(moved.others) > 15


def test_the_check_in_says_what_to_do(student):
    before, same, better = student
    made = plan()
    outcomes = [answered(made, before, after, CENTRED, Between()) for after in (better, same, before[:2])]
    assert outcomes[0].outcome is Outcome.HOLDS and "real change" in answer_sentence(outcomes[0])
    assert outcomes[1].outcome in (Outcome.CANNOT_TELL, Outcome.NOT_MOVED)
    assert outcomes[2].outcome is Outcome.FEW and "film three" in answer_sentence(outcomes[2])
    back = answered(made, better, before, CENTRED, Between())
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
    told = json.loads(capsys.readouterr().out)
    assert told["prescribed"]["verdict"] == "changed" and told["before"] == told["after"] == 3
    assert main([*asked, "--measure", "pelvis_thrust@top"]) == 2
    assert main(["changed", *files["before"], "--after", files["before"][0], "--view", "face-on"]) == 2
    assert "give each swing once" in capsys.readouterr().err
    assert known().schools


def test_schools_ask_each_number_once(student):
    from kneel.judge.compared import asked_by

    asked = asked_by(CENTRED, student[0][0])
    keys = [(one.measure, one.at) for one in asked]
    assert (
        len(keys) == len(set(keys))
        and ("pelvis_shift", "top") in keys
        and all(one.worth > 0 for one in asked)
    )
