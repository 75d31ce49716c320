"""What drills, plans and check-ins say, all from the data of :mod:`kneel.practice`."""

from __future__ import annotations

import datetime
from collections.abc import Mapping, Sequence

from kneel.judge import Fault
from kneel.judge.records import CARE as USUAL
from kneel.model import RUNGS, Aim, Guard, Plan, Rung
from kneel.motion.measures import REGISTRY
from kneel.practice.choice import Cause, DrillChoice, Reason
from kneel.practice.dose import Amount
from kneel.practice.drill import CARE, Drill
from kneel.speech.limits import allowed_words
from kneel.speech.words import capital, checkpoint_words, length_words, listed, small

RUNG_TITLES = {
    Rung.NO_BALL: "No ball, slow",
    Rung.HALF: "Half swings",
    Rung.THREE_QUARTER: "Three-quarter at 80 %",
    Rung.FULL: "Full, two rehearsals",
}

WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MONTHS = (
    *("January", "February", "March", "April", "May", "June"),
    *("July", "August", "September", "October", "November", "December"),
)

_AN = ("a", "e", "i", "o", "u")


def day_words(day: datetime.date) -> str:
    """A date as one says it, whatever the machine's language.

    >>> day_words(datetime.date(2026, 11, 24))
    '24 November'
    """
    return f"{day.day} {MONTHS[day.month - 1]}"


def brief_day(day: datetime.date, today: datetime.date) -> str:
    """A date in few letters; the year only where it is another one.

    >>> brief_day(datetime.date(2026, 11, 3), datetime.date(2026, 11, 27))
    '3 Nov'
    >>> brief_day(datetime.date(2025, 6, 30), datetime.date(2026, 11, 27))
    '30 Jun 2025'
    """
    words = f"{day.day} {MONTHS[day.month - 1][:3]}"
    return words if day.year == today.year else f"{words} {day.year}"


NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven")


def count_words(days: int) -> str:
    """How many days, in words.

    >>> count_words(4), count_words(1)
    ('four days', 'one day')
    """
    return f"{NUMBERS[days]} day{'' if days == 1 else 's'}"


def props_words(drill: Drill) -> str:
    """What a drill is done with.

    >>> from kneel.practice import known_drills
    >>> [props_words(known_drills().get(key)) for key in ("pocket_on_the_chair", "lead_side_grows_long")]
    ['a chair or a wall', 'no prop']
    """
    return listed([_either(group) for group in drill.props]) or "no prop"


def _either(group: Sequence[str]) -> str:
    return " or ".join(_one(prop) for prop in group)


def _one(prop: str) -> str:
    return f"{'an' if prop.startswith(_AN) else 'a'} {prop}"


def standing_words(choice: DrillChoice, faults: Mapping[str, Fault]) -> str:
    """Why a drill does not simply fit, in a few words."""
    return "; ".join(_reason(reason, faults) for reason in choice.reasons)


def _reason(reason: Reason, faults: Mapping[str, Fault]) -> str:
    about = listed([faults[one].title.lower() if one in faults else one for one in reason.about])
    match reason.cause:
        case Cause.LOADS:
            return f"loads the {about}: ask first"
        case Cause.MAY_BE_WRONG:
            return f"wrong if it is {about}, which may be at work"
        case Cause.PROP:
            return f"needs {_either(reason.about)}"
        case Cause.PLACE:
            return f"is done at {listed(list(reason.about))}"
        case Cause.FIRST:
            return f"later: first {about}"
        case Cause.WRONG:
            return f"wrong while {about} is at work"
    return f"not with {_flagged(reason.about)}"


def _flagged(flags: Sequence[str]) -> str:
    """Flags as one says them of a person."""
    people = ("junior", "senior", "beginner")
    return listed([f"a {flag}" if flag in people else f"a {flag} that has to be spared" for flag in flags])


def warning_words(choice: DrillChoice) -> str:
    """The sentence that goes with a drill which loads what has to be spared; empty where it does not."""
    loaded = [part for reason in choice.reasons if reason.cause is Cause.LOADS for part in reason.about]
    if not loaded:
        return ""
    return (
        f"This drill loads the {listed(loaded)}, which has to be spared: begin it only after a licensed "
        "medical professional has said that it may be done."
    )


def cautions(drill: Drill, fault: Fault | None, warning: str = "") -> tuple[str, ...]:
    """All cautions that go with a drill: warning, the drill’s and the fault’s own, what always holds."""
    own = fault.care if fault is not None and fault.care != USUAL else ""
    return tuple(text for text in (warning, *drill.care, own, CARE) if text)


def dose_words(amount: Amount) -> str:
    """How much is done in a session.

    >>> dose_words(Amount(Rung.NO_BALL, 2, 12, 0)), dose_words(Amount(Rung.THREE_QUARTER, 0, 0, 15))
    ('2 × 12, no ball', 'three-quarter 15, at most 80\xa0%')
    """
    match amount.rung:
        case Rung.NO_BALL:
            return f"{amount.sets} × {amount.repetitions}, no ball"
        case Rung.HALF:
            return f"half swings {amount.balls}"
        case Rung.THREE_QUARTER:
            return f"three-quarter {amount.balls}, at most {amount.per_cent}\N{NO-BREAK SPACE}%"
    return f"full {amount.balls}, two rehearsals"


def dose_sentence(amount: Amount) -> str:
    """The same as a whole sentence."""
    if amount.rung is Rung.NO_BALL:
        times = "one set" if amount.sets == 1 else f"{amount.sets} sets"
        return f"{capital(times)} of {amount.repetitions} without a ball, slowly, a breath between each."
    speed = "" if amount.rung is Rung.FULL else f" at no more than {amount.per_cent} % of full speed"
    kind = amount.rung.value
    return f"{amount.balls} {kind} swings at a ball{speed}, {amount.rehearsals} rehearsals before each."


def measure_words(measure: str, at: str) -> str:
    """A number's name and where it is read.

    >>> measure_words("pelvis_shift", "top"), measure_words("tempo", "once")
    ('pelvis shift at the top', 'tempo')
    """
    title = small(REGISTRY[measure].title)
    return title if at == "once" else f"{title} at {checkpoint_words(at)}"


def limit_words(aim: Aim, limit: float | None = None) -> str:
    """Where a number has to be.

    >>> limit_words(Aim("pelvis_shift", "top", "cm", "up", -1.5, 2.5))
    'no more than 1.5 cm away from the target'
    """
    edge = aim.limit if limit is None else limit
    low, high = (edge, None) if aim.way == "up" else (None, edge)
    return allowed_words(aim.measure, low, high, aim.unit)


def start_words(one: Aim | Guard) -> str:
    """A number when the plan was made; empty where it could not be told."""
    if one.start is None or one.sigma is None:
        return ""
    return length_words(one.start, one.sigma, one.unit)


def aim_sentence(aim: Aim) -> str:
    """The number that must change, from where to where."""
    start = start_words(aim)
    now = f", now {start}," if start else ""
    by = length_words(aim.by, None, aim.unit)
    return (
        f"{capital(measure_words(aim.measure, aim.at))}{now} has to come to {limit_words(aim)}; "
        f"{by} the right way is the least that counts."
    )


def guard_sentence(guard: Guard) -> str:
    """A number that must not get worse."""
    way = "gain" if guard.way == "up" else "lose"
    start = start_words(guard)
    now = f" (now {start})" if start else ""
    by = length_words(guard.by, None, guard.unit)
    sign = REGISTRY[guard.measure].positive
    return (
        f"{capital(measure_words(guard.measure, guard.at))}{now} must not {way} more than {by} (+ is {sign})."
    )


def success_sentence(plan: Plan) -> str:
    """What counts as success at the check-in."""
    return (
        f"{capital(measure_words(plan.aim.measure, plan.aim.at))} {limit_words(plan.aim)}, "
        "by more than its error, in three swings filmed as before."
    )


def if_not_sentence(plan: Plan) -> str:
    """What to do otherwise."""
    by = length_words(plan.aim.by, None, plan.aim.unit)
    return (
        "Within its error: cannot tell, film more. "
        f"Not moved by {by}: change the drill, not the dose. A guard worse: stop this drill."
    )


def after_sentence(plan: Plan, faults: Mapping[str, Fault]) -> str:
    """What comes once it holds; empty where nothing is queued."""
    titles = [faults[one.fault].title.lower() for one in plan.queued if one.fault in faults]
    mine = faults[plan.fault].title.lower() if plan.fault in faults else ""
    other = [title for title in dict.fromkeys(titles) if title != mine]
    if other:
        return f"Once it holds, the next thing is {listed(other)}."
    return "Once it holds, a second drill waits for the same thing." if titles else ""


def film_sentence(plan: Plan) -> str:
    """What to film at the check-in."""
    kind = "swings" if plan.kind.value == "full" else f"{plan.kind.value} swings"
    return f"Three {plan.view.value} {kind} with the {plan.club.value}, camera in the same place."


def rung_words(plan: Plan, rung: Rung) -> str:
    """What a rung asks of the number."""
    return (
        f"{small(REGISTRY[plan.aim.measure].short)} {limit_words(plan.aim, plan.ladder[RUNGS.index(rung)])}"
    )


def drill_lines(drill: Drill) -> list[tuple[str, str]]:
    """A drill's parts as pairs of a heading and its text, for page and panel."""
    return [
        ("Feel", drill.feel),
        ("Avoid", " ".join(drill.mistakes)),
        ("Before it", drill.before),
        ("Wrong for", drill.wrong),
        ("Where it is felt", f"{drill.felt} {drill.sore}"),
        ("Pain", drill.pain),
        ("Ground", f"{drill.surface} {carry_words(drill)}"),
        ("On film", drill.film),
    ]


def carry_words(drill: Drill) -> str:
    """With which club, how far, how long a swing."""
    low, high = drill.carry
    clubs = " or ".join(club.value for club in drill.clubs)
    return f"{capital(clubs)}, {low} to {high} m of carry, {drill.length} swings at most."


def work_on_first(choice: DrillChoice) -> str:
    """The line under the root: which drill, and with what."""
    return f"{choice.drill.title} · {props_words(choice.drill)}"
