"""What the trainer says: of an answer, of an eye, of what comes next. All from data."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import datetime

from kneel.judge.knowledge import shipped
from kneel.model import View
from kneel.speech.practice import brief_day
from kneel.speech.words import number, with_unit
from kneel.trainer.asked import asked_faults
from kneel.trainer.detection import LEAST, Detection
from kneel.trainer.records import Answer, Settings, Shot, Sure
from kneel.trainer.scores import LEAST_SURE, Scores, SizeError, unit_of

SURE = {Sure.GUESS: "a guess", Sure.HALF: "half", Sure.RATHER: "rather", Sure.CERTAIN: "certain"}
SHOWN = {
    "steps": ("once, half speed", "then frame by frame"),
    "half": ("once, half speed", "and no more"),
    "full": ("once, full speed", "and no more"),
}
VIEWS = {None: "both views", View.FACE_ON: "face-on", View.DOWN_THE_LINE: "down the line"}
CLOTHES = {None: "any", "close": "close", "loose": "loose", "wide": "wide, or a skirt"}
LIGHTS = {None: "any", "good": "good", "poor": "poor"}
MOST = {1: "one, or none", 2: "one, two, or none"}


def title_of(key: str) -> str:
    """A fault's name, as everywhere.

    >>> title_of("reverse_pivot")
    'Reverse pivot'
    """
    return shipped().faults[key].title


def listed(keys: Sequence[str]) -> str:
    """Faults as they stand in a sentence.

    >>> listed(["sway", "slide"])
    'sway and slide'
    """
    words = [title_of(key).lower() for key in keys]
    return " and ".join(words) if words else "nothing wrong"


def sized(key: str, value: float) -> str:
    """A size as it is spoken of.

    >>> sized("sway", -6.04), sized("sitting", 30.2)
    ('−6.0 cm', '30°')
    """
    unit = unit_of(key)
    return with_unit(number(value, unit), unit)


def size_words(size: float) -> str:
    """How large faults are made.

    >>> size_words(1.5)
    '1.5 × what counts'
    """
    return f"{size:g} × what counts"


def verdict(answer: Answer) -> str:
    """The one sentence that stands first after an answer."""
    missed, false = answer.missed, answer.false
    if answer.right:
        near = [key for key in answer.named if key not in (*answer.present, *answer.absent)]
        if near:
            words = "past its limit by less than half a step, neither right nor wrong"
            return f"{listed(near).capitalize()}: {words}."
        return "Right: nothing is wrong." if not answer.present else f"Right: {listed(answer.present)}."
    if missed and false:
        return f"Missed: {listed(missed)}. Not there: {listed(false)}."
    if missed:
        return f"Missed: {listed(missed)}."
    beside = f" beside {listed(answer.present)}" if answer.present else ""
    return f"Not there{beside}: {listed(false)}."


def size_verdict(answer: Answer, key: str) -> str:
    """What became of the size of a fault that was named or is there."""
    if key not in answer.true:
        return ""
    true = sized(key, answer.true[key])
    if key not in answer.said:
        return f"It is {true}."
    off = abs(answer.said[key] - answer.true[key])
    unit = unit_of(key)
    error = with_unit(number(off, unit, signed=False), unit)
    return f"You said {sized(key, answer.said[key])}, it is {true}: {error} off."


def d_words(told: Detection) -> str:
    """A d′ with its interval, or how many of the swings it takes are there."""
    if not told.enough:
        total = told.total
        return f"{total.signals if total.signals < LEAST else total.noises} of {LEAST}"
    low, high = told.d_prime_between
    return f"d′ {told.d_prime:.1f} ({low:.1f} to {high:.1f})".replace("-", "−")


def lean_words(told: Detection) -> str:
    """Whether a thing is named too readily or too seldom, where that is more than chance."""
    if not told.enough:
        return ""
    low, high = told.criterion_between
    sure = f" (c {told.criterion:+.2f}, {low:+.2f} to {high:+.2f})".replace("-", "−")
    if low > 0:
        return f"You call too little a fault: say it sooner{sure}."
    return f"You call too much a fault: wait for more{sure}." if high < 0 else ""


def size_error_words(view: View, error: SizeError) -> str:
    """How sizes of one view are taken."""
    where = VIEWS[view]
    unit = error.unit
    about = with_unit(number(abs(error.bias), unit, signed=False), unit)
    typical = with_unit(number(error.typical, unit, signed=False), unit)
    things = "distances" if unit == "cm" else "angles"
    if error.biased:
        more = "too much" if error.bias > 0 else "too little"
        return f"{things.capitalize()} {where}: you say {about} {more}; {typical} off as a rule."
    return f"{things.capitalize()} {where}: {typical} off as a rule, neither too much nor too little."


def sure_words(scores: Scores) -> list[str]:
    """How sure an eye is against how often it is right."""
    out = []
    for one in scores.sure:
        if one.count >= LEAST_SURE:
            out.append(f"{SURE[one.sure]}: right {one.right} of {one.count}")
    certain = next((one for one in scores.sure if one.sure is Sure.CERTAIN), None)
    if certain is not None and certain.count >= LEAST_SURE and certain.between[1] < 0.9:
        out.append("You are certain more often than you are right.")
    return out


def taken_words(scores: Scores) -> list[str]:
    """What is taken for what, each with the one hint where to look."""
    return [
        f"{title_of(one.fault)} is called {title_of(one.named).lower()} in {one.count} of {one.of}. "
        f"{asked_faults()[one.fault].look}"
        for one in scores.taken
    ]


def due_words(keys: Sequence[str], later: Sequence[tuple[str, datetime]], now: datetime) -> str:
    """What should be seen next, and when what comes after it.

    >>> from datetime import UTC
    >>> now = datetime(2026, 9, 1, 18, tzinfo=UTC)
    >>> [due_words([], [("sway", now.replace(day=day))], now) for day in (1, 2, 4)]
    ['Next: sway, today.', 'Next: sway, tomorrow.', 'Next: sway, 4 Sep.']
    """
    if keys:
        return f"Next: {listed(keys[:2])}, today."
    if later:
        key, when = later[0]
        days = (when.date() - now.date()).days
        day = "today" if days <= 0 else "tomorrow" if days == 1 else brief_day(when.date(), now.date())
        return f"Next: {listed([key])}, {day}."
    return ""


def round_words(answers: Sequence[Answer]) -> str:
    """A round in one sentence."""
    right = sum(one.right for one in answers)
    return f"{right} of {len(answers)} right."


def missed_words(answers: Sequence[Answer]) -> list[str]:
    """What was missed in a round, and what was named that is not there, each as often as it was."""
    missed = Counter(key for one in answers for key in one.missed)
    false = Counter(key for one in answers for key in one.false)
    out = []
    for head, counted in (("Missed", missed), ("Named, and not there", false)):
        if counted:
            told = (f"{title_of(key).lower()} {count}" for key, count in counted.most_common())
            out.append(f"{head}: {', '.join(told)}.")
    return out


def shot_words(shot: Shot) -> str:
    """What a swing was made to be."""
    return f"{VIEWS[shot.view]}, {shot.hand.value}-handed"


def level_words(settings: Settings) -> str:
    """What scores are of."""
    speed, then = SHOWN[settings.shown]
    return f"{size_words(settings.size)}, shown {speed} {then}"
