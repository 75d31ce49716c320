"""Plans of weeks and their ladder by properties, from a swing to a plan, and cues."""

from __future__ import annotations

import datetime
import itertools
from dataclasses import replace

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.cli.main import main
from kneel.contract.plan import PlanResult
from kneel.judge import known
from kneel.model import (
    RUNGS,
    Aim,
    Cue,
    Flag,
    Plan,
    Practised,
    Prop,
    Rung,
    UsageError,
)
from kneel.practice import PracticeDays, Wish, known_drills, plan_of, propose, sessions, standing
from kneel.practice.cues import tried
from kneel.practice.dose import LEAST_BALLS, amount
from kneel.practice.ladder import rung_limits
from kneel.practice.schedule import State, check_in_day, check_ins, planned_days
from tests.test_cli import points_file
from tests.test_lesson import filmed

DRILLS = known_drills()
FAULTS = known().faults
START = datetime.date(2026, 11, 3)
DAY = datetime.timedelta(days=1)
AIM = Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5, -6.5, 0.7)


# Plans.


def plan(**changes):
    weekdays = changes.pop("weekdays", (0, 2, 5))
    start, days = changes.pop("start", START), changes.pop("days", 21)
    given_ = {
        "fault": "sway",
        "drill": "turn_inside_the_gate",
        "aim": AIM,
        "ladder": rung_limits(AIM),
        "minutes": 15,
        "check_in": check_in_day(start, days, weekdays),
    }
    return Plan(start=start, days=days, weekdays=weekdays, **(given_ | changes))


logs = st.lists(
    st.builds(
        Practised,
        date=st.integers(0, 29).map(lambda k: START + k * DAY),
        rung=st.sampled_from(RUNGS),
        held=st.sampled_from([None, True, False]),
    ),
    max_size=12,
    unique_by=lambda one: one.date,
)
plans = st.builds(
    lambda days, weekdays, minutes, log: plan(
        days=days, weekdays=tuple(sorted(weekdays)), minutes=minutes, log=tuple(log)
    ),
    st.integers(7, 30),
    st.sets(st.integers(0, 6), min_size=1),
    st.integers(5, 90),
    logs,
)


@given(plans, st.integers(-3, 40))
def test_a_plan_keeps_its_days_its_bounds_and_its_check_in(made, later):
    today = START + later * DAY
    found = sessions(made, today)
    filmed_on = check_ins(made)
    assert filmed_on[0] == made.check_in and 7 <= (made.check_in - START).days <= 14
    assert all(7 <= (b - a).days <= 14 for a, b in itertools.pairwise(filmed_on))
    # The last clip comes when the plan is over, or within its last week.
    assert (filmed_on[-1] - START).days > made.days - 7
    ahead = [one for one in found if one.state in (State.TODAY, State.AHEAD)]
    for one in ahead:
        assert one.date.weekday() in made.weekdays and one.date >= max(today, START)
        assert one.date not in filmed_on and (one.date - START).days < 30
    assert len({one.date for one in found}) == len(found)
    assert [one.date for one in found] == sorted(one.date for one in found)
    assert {one.date for one in found if one.state is State.DONE} == {one.date for one in made.log}
    # Rungs ahead never go down, and begin where somebody stands.
    numbers = [RUNGS.index(one.rung) for one in ahead]
    assert numbers == sorted(numbers) and (not numbers or numbers[0] == standing(made).number)
    drill = DRILLS.get(made.drill)
    for one in ahead:
        much = amount(drill, one.rung, made.minutes)
        assert much.balls == 0 if one.rung is Rung.NO_BALL else 5 <= much.balls <= 25
        assert one.rung is not Rung.NO_BALL or drill.dose.low <= much.repetitions <= drill.dose.high
        assert much.sets <= drill.dose.sets and (one.rung is not Rung.THREE_QUARTER or much.per_cent <= 80)


@given(st.integers(7, 30), st.sets(st.integers(0, 6), min_size=1), st.integers(0, 8))
def test_what_is_missed_moves_on_and_the_check_in_does_not(days, weekdays, missed):
    """As many sessions lie ahead as before, as long as the month has days for them."""
    made = plan(days=days, weekdays=tuple(sorted(weekdays)))
    planned = planned_days(made)
    if missed >= len(planned):
        return
    today = planned[missed]
    found = sessions(made, today)
    gone = [one for one in found if one.state is State.MISSED]
    ahead = [one for one in found if one.state in (State.TODAY, State.AHEAD)]
    assert len(gone) == missed and all(one.moved == today for one in gone)
    room = [
        d
        for k in range((today - START).days, 30)
        if (d := START + k * DAY).weekday() in weekdays and d not in check_ins(made)
    ]
    assert len(ahead) == min(len(planned), len(room))
    assert check_ins(made) == check_ins(plan(days=days, weekdays=tuple(sorted(weekdays)), log=made.log))


def test_less_is_done_by_who_has_to_be_spared():
    drill = DRILLS.get("lead_leg_first_then_strike")
    for rung in RUNGS:
        usual, gentle = (amount(drill, rung, 60, flags) for flags in ((), (Flag.KNEE,)))
        assert gentle.total < usual.total


# The ladder.


def filmed_as(number, value, day):
    return Practised(START + day * DAY, RUNGS[number], value=value, sigma=0.5)


def test_rungs_are_climbed_when_their_number_holds_and_left_again_when_not():
    """−6.5 has to come to −1.5: 2 cm of the way are asked without a ball, 3 of half swings."""
    limits = rung_limits(AIM)
    assert limits == pytest.approx((-4.5, -3.5, -2.5, -1.5))
    climbed = plan(log=(filmed_as(0, -3.9, 1),))
    assert standing(climbed).rung is Rung.HALF
    # Between limit and error nothing is told; past it the other way the rung is left.
    unsure = plan(log=(*climbed.log, filmed_as(1, -3.6, 3)))
    assert standing(unsure).rung is Rung.HALF and standing(unsure).last == (-3.6, 0.5)
    back = plan(log=(*unsure.log, filmed_as(1, -4.2, 5)))
    assert standing(back).rung is Rung.NO_BALL
    # What a student says has to come twice running, and a word against it starts anew.
    said = [Practised(START + k * DAY, Rung.NO_BALL, held=h) for k, h in enumerate((True, False, True, True))]
    assert [standing(plan(log=tuple(said[:k]))).number for k in range(5)] == [0, 0, 0, 0, 1]
    top = plan(log=tuple(filmed_as(k, -0.5, k) for k in range(4)))
    assert standing(top).done and standing(top).rung is Rung.FULL


@given(logs, st.sampled_from([True, False]))
def test_a_session_more_moves_a_rung_the_way_it_went(log, held):
    made = plan(log=tuple(log))
    now = standing(made)
    more = Practised(START + 60 * DAY, now.rung, held=held)
    then = standing(plan(log=(*made.log, more)))
    assert then.number - now.number in ((0, 1) if held else (0, -1))


def test_set_up_has_one_limit_on_all_rungs():
    flare = Aim("trail_foot_flare", "address", "deg", "up", 3.0, 8.0, -6.0, 3.0)
    assert set(rung_limits(flare)) == {3.0}


# From a swing to a plan.


@pytest.fixture(scope="module")
def swaying():
    return filmed(3, sway=7.0)


def test_a_plan_hangs_on_the_number_that_decided_the_fault(swaying):
    wish = Wish(props=(Prop.STICK,))
    proposal = propose(swaying.reading, wish, DRILLS)
    made = plan_of(proposal, swaying.numbers, PracticeDays(START), school="centred")
    finding = swaying.reading.of(swaying.reading.priority[0])
    assert (made.fault, made.aim.measure, made.aim.at) == (finding.key, finding.measure, finding.checkpoint)
    assert (made.aim.start, made.aim.limit, made.aim.way) == (finding.value, finding.window[0], "up")
    assert made.aim.inside(made.aim.start) < 0 < made.aim.inside(made.aim.limit + 1)
    seen = [guard for guard in made.guards if guard.start is not None]
    assert seen and all(guard.sigma > 0 for guard in seen)
    assert "medical professional" in " ".join(FAULTS[made.fault].care.split())
    with pytest.raises(UsageError, match="is not one for sway"):
        propose(swaying.reading, wish, DRILLS, drill="lead_side_grows_long")
    with pytest.raises(UsageError, match="no number in this view"):
        plan_of(
            propose(swaying.reading, wish, DRILLS, fault="posture_loss"),
            swaying.numbers,
            PracticeDays(START),
            school="",
        )
    assert propose(replace(swaying.reading, priority=()), wish, DRILLS) is None


def test_a_forbidden_drill_is_not_given_even_when_asked_for(swaying):
    with pytest.raises(UsageError, match="flag"):
        propose(swaying.reading, Wish(flags=(Flag.ANKLE,)), DRILLS, fault="sway", drill="outer_edge_up")


def test_the_command_line_makes_a_plan_and_a_calendar(tmp_path, simulate, capsys):
    """Keys of the contract; the calendar is read by the library that knows the format (RFC 5545)."""
    from icalendar import Calendar

    path, ics = points_file(tmp_path / "p.csv", simulate(sway=7.0), sigma=1.0), tmp_path / "plan.ics"
    asked = ["plan", str(path), "--view", "face-on", "--stature", "176", "--start", "2026-11-03"]
    more = ["--days", "mon,wed,sat", "--weeks", "3", "--json", "-", "--ics", str(ics), "--flag", "hip"]
    assert main([*asked, *more]) == 0
    told = msgspec.json.decode(capsys.readouterr().out, type=PlanResult, strict=True)
    assert told.root == "sway" and told.success.limit == told.ladder[-1].limit
    assert told.check_in == datetime.date(2026, 11, 16) and len(told.ladder) == 4
    assert all(one.date.weekday() in (0, 2, 5) for one in told.sessions)
    assert any("spared" in caution for caution in told.cautions) is any(
        one.drill == told.drill and one.standing == "warned" for one in told.choices
    )
    calendar = Calendar.from_ical(ics.read_bytes())
    assert max(len(line) for line in ics.read_bytes().split(b"\r\n")) <= 75
    events = [part for part in calendar.walk("VEVENT") if not part.errors]
    days = [event.decoded("dtstart") for event in events]
    assert sorted(days) == sorted([*(one.date for one in told.sessions), *told.check_ins])
    assert len({str(event["uid"]) for event in events}) == len(events)
    assert all(event.decoded("dtend") - event.decoded("dtstart") == DAY for event in events)


@pytest.mark.parametrize(
    ("more", "word"),
    [
        (["--days", "9"], "--days"),
        (["--days", "mon,mon"], "--days"),
        (["--weeks", "9"], "--weeks"),
        (["--minutes", "2"], "--minutes"),
        (["--start", "soon"], "--start"),
        (["--fault", "yips"], "no fault"),
        (["--drill", "yoga"], "no drill"),
        (["--fault", "over_the_top"], "consequence"),
        (["--place", "course", "--fault", "sway"], "at hand"),
    ],
)
def test_a_plan_that_cannot_be_made_is_refused_in_one_line(tmp_path, simulate, capsys, more, word):
    path = points_file(tmp_path / "p.csv", simulate(sway=7.0, rate=60.0), sigma=1.0)
    assert main(["plan", str(path), "--view", "face-on", "--stature", "176", *more]) == 2
    said = capsys.readouterr()
    assert word in said.err and said.err.count("\n") == 1 and not said.out


# Cues.


def cue(words, before, after, sigma=0.5, fault="sway"):
    return Cue(words, START, fault, "pelvis_shift", "top", "cm", "up", before, sigma, after, sigma)


def test_the_cue_that_worked_stands_first():
    said = (
        cue("Pocket back", -6.0, -5.9),
        cue("Stay in the barrel", -6.0, -3.0),
        cue("stay in  the barrel.", -5.5, -3.4),
        cue("Pocket back", -6.0, -6.4),
        cue("Knee still", -6.0, -2.0, sigma=2.5),
        cue("Rise", -6.0, 0.0, fault="no_rise"),
    )
    found = tried(said, "sway")
    assert found[0].words == "stay in  the barrel." and found[0].times == 2 and found[0].worked
    # Four centimetres within an error of three and a half are no proof.
    assert not next(one for one in found if one.words == "Knee still").worked
    assert {one.fault for one in found} == {"sway"} and len(tried(said)) == 4
    assert found[0].moved == pytest.approx((3.0 + 2.1) / 2)


def test_a_short_session_has_a_set_all_the_same():
    """Less than what a set takes is one set, and the fewer repetitions; with a ball never fewer than some."""
    drill = known_drills().get("turn_inside_the_gate")
    short = amount(drill, Rung.NO_BALL, 5)
    assert (short.sets, short.repetitions) == (1, drill.dose.low)
    assert amount(drill, Rung.FULL, 5).balls == LEAST_BALLS
