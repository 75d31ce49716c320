"""What a finding says: one sentence with value, error and window; its reasons; and the chain it stands in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from kneel.judge.finding import Finding, Supported, Weighed, Why
from kneel.judge.kinds import ONCE
from kneel.judge.reading import Reading
from kneel.judge.records import School
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.judge.verdict import Verdict
from kneel.model import Kind
from kneel.motion.measures import REGISTRY
from kneel.speech.balls import explained
from kneel.speech.limits import allowed_words
from kneel.speech.words import capital, checkpoint_words, length_words, listed, number, small, window_words

LED = 3
"""So many consequences are named with what to work on."""


def sentence(finding: Finding, school: School) -> str:
    """What is seen, how far past what is allowed; or why it cannot be told."""
    if finding.override is not None and finding.override.verdict in (REJECTED, ADDED):
        return _spoken(finding, school)
    return _judged(finding, school)


def _judged(finding: Finding, school: School) -> str:
    weighed = finding.decided
    if weighed is None or weighed.told is None or weighed.judged is None or weighed.limits is None:
        return _untold(finding, school)
    if weighed.beyond:
        return _far_enough(weighed, finding.verdict)
    words, limit, past = said_of(weighed), _limit(weighed), max(weighed.judged.past, 0.0)
    match finding.verdict:
        case Verdict.FAULT:
            amount = length_words(past, None, weighed.told.unit)
            return f"{capital(words)}, {amount} {_beyond(weighed, school)} ({limit})."
        case Verdict.WATCH:
            return f"It may be that {words}; {_demands(weighed, school)} {limit}."
        case Verdict.CLEAR:
            value = f"{_value(weighed)}{_where(weighed.at)}"
            if past > 0:
                return f"{finding.fault.good}: {value}, too little past what is allowed ({limit}) to matter."
            return f"{finding.fault.good}: {value}, allowed {limit}."
    # Two numbers at most: the value with its error, and the limit it is too unsure against.
    return f"It cannot be told: {words}, which is too unsure against {limit}."


def _far_enough(weighed: Weighed, verdict: Verdict) -> str:
    """Whether an exaggeration went past the window on purpose: its value, and how far it was to go."""
    asked = f"{_value(weighed)}{_where(weighed.at)}, to be {_limit(weighed)}"
    match verdict:
        case Verdict.CLEAR:
            return f"Far enough: {asked}."
        case Verdict.WATCH:
            return f"Not yet far enough: {asked}."
    return f"It cannot be told whether it is far enough: {asked}."


def said_of(weighed: Weighed) -> str:
    """What a check says of its value, as a clause."""
    told = weighed.told
    assert told is not None
    return weighed.check.says.format(
        size=length_words(abs(told.value), told.sigma, told.unit, signed=False),
        value=_value(weighed),
        checkpoint=checkpoint_words(weighed.at),
    )


def _spoken(finding: Finding, school: School) -> str:
    """What the instructor says, and what the numbers say beside it."""
    assert finding.override is not None
    reason = f" {capital(finding.override.reason.rstrip('.'))}." if finding.override.reason else ""
    title = small(finding.fault.title)
    said = (
        f"Overruled: no {title}."
        if finding.override.verdict == REJECTED
        else f"Seen by the instructor: {title}."
    )
    numbers = _judged(replace(finding, verdict=finding.judged), school)
    return f"{said}{reason} The numbers say: {small(numbers)}"


def _untold(finding: Finding, school: School) -> str:
    match finding.why:
        case Why.VIEW:
            return f"It cannot be seen from here: {finding.reason or _views(finding)} shows it."
        case Why.SCHOOL:
            return f"The {school.title.lower()} school says nothing about it."
        case Why.KIND:
            return _not_of_this_kind(finding.reason)
        case Why.PLATE:
            return "Only a pressure plate or a typed value tells it."
    if "cannot be told" in finding.reason:
        return finding.reason
    return f"It cannot be told. {finding.reason}".strip()


def _not_of_this_kind(reason: str) -> str:
    """Why a kind of swing is not asked for something; ``reason`` is the kind, or why it shows it not."""
    match reason:
        case Kind.DRILL.value:
            return "The drill is not about it."
        case Kind.EXAGGERATION.value:
            return "It is not what was exaggerated."
        case Kind.HELD.value:
            return "A held pose does not show it."
    if reason in [kind.value for kind in Kind]:
        return f"A {reason} swing does not show it as a full one does."
    return reason if reason.endswith("in this swing.") else f"A held pose does not show it: {small(reason)}"


def _views(finding: Finding) -> str:
    return next((w.reason for w in finding.weighed if w.why is Why.VIEW and w.reason), "another view")


def _beyond(weighed: Weighed, school: School) -> str:
    """What a value is past: more than is allowed, or short of what is asked."""
    low, _ = _limits(weighed)
    short = (
        low is not None and low > 0 and _facing(weighed) * (weighed.told.value if weighed.told else 0.0) < low
    )
    if weighed.usual:
        return "short of what is usual" if short else "more than is usual"
    name = f"the {school.title.lower()} school"
    return f"short of what {name} asks" if short else f"more than {name} allows"


def _demands(weighed: Weighed, school: School) -> str:
    if weighed.usual:
        return "usual is"
    low, high = _limits(weighed)
    return f"the {school.title.lower()} school {'asks' if high is None and low and low > 0 else 'allows'}"


def _limit(weighed: Weighed) -> str:
    """The limit that counts, in words."""
    assert weighed.told is not None
    limits = _limits(weighed)
    if _facing(weighed) < 0:
        return window_words(*limits, weighed.told.unit)
    return allowed_words(weighed.check.measure, *limits, weighed.told.unit)


def _limits(weighed: Weighed) -> tuple[float | None, float | None]:
    """The limits that count, as they are said."""
    assert weighed.limits is not None
    low, high = weighed.limits.counted(weighed.check.side)
    if _facing(weighed) > 0:
        return low, high
    return None if high is None else -high, None if low is None else -low


def _facing(weighed: Weighed) -> int:
    """-1 for a turn away from the target, which everybody counts upward: “turned by 45°”."""
    assert weighed.limits is not None and weighed.told is not None
    away = all(one is None or one < 0 for one in weighed.limits.counted(weighed.check.side))
    turned = REGISTRY[weighed.check.measure].turned
    return -1 if turned and away and weighed.told.value < 0 else 1


def _value(weighed: Weighed) -> str:
    assert weighed.told is not None
    told = weighed.told
    return length_words(_facing(weighed) * told.value, told.sigma, told.unit)


def _where(at: str) -> str:
    return "" if at == ONCE else f" at {checkpoint_words(at)}"


def reasons(finding: Finding) -> tuple[str, ...]:
    """What stands beside a finding: supporting numbers where something is seen."""
    if not finding.verdict.at_work:
        return ()
    # A number is not explained by itself.
    others = (one for one in finding.supports if (one.support.measure, one.at) != _deciding(finding))
    return tuple(_supported(one) for one in others if one.speaks or one.support.lo is None)


def _deciding(finding: Finding) -> tuple[str | None, str | None]:
    return finding.measure, finding.checkpoint


def _supported(one: Supported) -> str:
    share = f", {number(one.share.value, one.share.unit)} {one.support.of}" if one.share else ""
    return one.support.says.format(
        size=length_words(abs(one.told.value), one.told.sigma, one.told.unit, signed=False),
        value=length_words(one.told.value, one.told.sigma, one.told.unit),
        checkpoint=checkpoint_words(one.at),
        share=share,
    )


def place(finding: Finding, reading: Reading) -> str:
    """Where a finding stands in the chain, in a sentence; empty where it stands alone."""
    titles = {f.key: f.fault.title.lower() for f in reading.findings}
    parts = []
    if finding.because:
        above = reading.of(finding.because)
        may = "" if above.verdict is Verdict.FAULT else "may "
        comes = "come" if may else "comes"
        parts.append(f"It {may}{comes} from: {titles[finding.because]}.")
    if finding.explains:
        parts.append(f"It leads to: {listed([titles[k] for k in finding.explains])}.")
    if finding.fits:
        parts.append(f"It would explain the {listed(finding.fits)} shots.")
    if finding.root and reading.balls:
        parts.append(explained(finding.balls, reading))
    if finding.root and finding.strange:
        parts.append(f"It would not explain the {listed(finding.strange)} shots.")
    if finding.override is not None and finding.override.verdict == LEFT:
        reason = finding.override.reason.rstrip(".")
        parts.append(f"Known and left{': ' + reason if reason else ''}.")
    return " ".join(part for part in parts if part)


def work_on(reading: Reading) -> str:
    """What to work on, and why that first."""
    if not reading.priority:
        watched = [f for f in reading.found(Verdict.WATCH) if f.root]
        if watched:
            titles = listed([f.fault.title.lower() for f in watched[:2]])
            return f"Nothing surely at fault. Worth watching: {titles}."
        return ""
    first = reading.of(reading.priority[0])
    text = f"Work on first: {first.fault.title.lower()}."
    if first.explains:
        led = [reading.of(k).fault.title.lower() for k in first.explains]
        shown = led if len(led) <= LED else [*led[: LED - 1], f"{len(led) - LED + 1} more"]
        text += f" It leads to {listed(shown)}: mend it, and look at {_them(led)} again."
    if len(reading.priority) > 1:
        text += f" After that: {reading.of(reading.priority[1]).fault.title.lower()}."
    return text


def _them(titles: Sequence[str]) -> str:
    return "that" if len(titles) == 1 else "those"


def done_well(reading: Reading) -> str:
    """What is done well, said first."""
    if not reading.well:
        return ""
    goods = [f.fault.good for f in reading.well]
    first, *rest = goods
    return f"Done well: {listed([small(first), *(small(one) for one in rest)])}."


def differences(one: Reading, other: Reading) -> tuple[str, ...]:
    """Where two schools see one swing otherwise, a sentence each; what one cannot tell is no difference."""
    told = []
    for finding in one.findings:
        second = other.of(finding.key)
        if finding.verdict is second.verdict or Verdict.UNKNOWN in (finding.verdict, second.verdict):
            continue
        sentences = (
            f"{finding.fault.title}: {finding.verdict.value} under {one.school.title.lower()}"
            f"{_asked(finding)}, {second.verdict.value} under {other.school.title.lower()}{_asked(second)}."
        )
        told.append(sentences)
    return tuple(told)


def _asked(finding: Finding) -> str:
    return f" ({_limit(finding.decided)})" if finding.decided and finding.decided.limits else ""
