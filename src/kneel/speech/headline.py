"""What a reading says first, in one sentence of two lines at most: what to do now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from kneel.judge.finding import Finding, Why
from kneel.judge.reading import Reading
from kneel.judge.verdict import FAULT_Z, Verdict
from kneel.model import Kind, View
from kneel.motion.advice import next_mark
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.measures import REGISTRY
from kneel.motion.study import Study
from kneel.speech.findings import sentence, work_on
from kneel.speech.questions import asked
from kneel.speech.words import FROM, capital, checkpoint_words, listed, small


def headline(reading: Reading, study: Study | None, *, bound: str = "", main: str = "") -> str:
    """What to work on; or what cannot be told and what would tell it; or what decides everything else.

    ``bound`` is what the last lesson left, as long as that binds; ``main`` is the fault that a running plan
    is about, which is asked for before any other.
    """
    if study is not None and study.no_swing:
        return f"No golf swing shows in this clip: {study.no_swing}."
    if reading.question:
        return asked(reading.question)
    special = _of_its_kind(reading, study)
    if special:
        return special
    told = next((f for f in reading.findings if f.key == main), None)
    if told is not None and told.verdict is Verdict.UNKNOWN and told.asked:
        return _untold(told, study)
    if bound:
        return bound
    said = work_on(reading)
    if said or reading.untold is None:
        return said or _nothing(reading)
    return _untold(reading.untold, study)


def _of_its_kind(reading: Reading, study: Study | None) -> str:
    """What an exaggeration came to, or what has to be said before it is judged; else empty."""
    if study is None:
        return ""
    if reading.aimed is not None:
        told = next((f for f in reading.findings if f.asked and f.decided), None)
        return sentence(told, reading.school) if told and study.kind is Kind.EXAGGERATION else ""
    if study.kind is Kind.EXAGGERATION:
        return "Say what is exaggerated: it is judged for going far enough."
    return ""


def film_from(finding: Finding) -> str:
    """From where a fault would be seen, as one films it."""
    return film_views(check.measure for check in finding.fault.check)


def film_views(measures: Iterable[str]) -> str:
    """From where measures are seen, as one films them.

    >>> film_views(["pelvis_shift"]), film_views(["pelvis_thrust"])
    ('face-on', 'down the line')
    """
    views: list[View] = list(dict.fromkeys(view for one in measures for view in REGISTRY[one].views))
    usual = [view for view in views if view is not View.REAR] or views
    return " or ".join(FROM[view] for view in usual)


def _untold(finding: Finding, study: Study | None) -> str:
    """What cannot be told, and the one thing that would tell it."""
    title = finding.fault.title
    if finding.why is Why.VIEW:
        return f"{title} cannot be told from this camera: film {film_from(finding)}."
    do = _mark(finding, study)
    if do:
        return f"{title} cannot be told: {do}."
    if finding.reason:
        return f"{title} cannot be told. {capital(finding.reason)}"
    return f"{title} cannot be told: its number is too near the limit for its error."


def _mark(finding: Finding, study: Study | None) -> str:
    """Which mark would help, in words; empty where none does."""
    if study is None or finding.measure is None or finding.checkpoint is None:
        return ""
    advice = next_mark(study, finding.measure, finding.checkpoint)
    if advice is None or not advice.much:
        return ""
    frames = [frame_words(study.checkpoints, frame) for frame in advice.frames]
    return f"mark {advice.words} {listed(frames)}"


def frame_words(points: Mapping[str, Checkpoint], frame: int) -> str:
    """A frame in words: the checkpoint it is, or its number."""
    here = [name for name, c in points.items() if c.shown == frame]
    return f"at {checkpoint_words(here[0])}" if here else f"on frame {frame}"


def _nothing(reading: Reading) -> str:
    """Where nothing is at work: how much of what was asked is fine."""
    fine = len(reading.found(Verdict.CLEAR))
    if not fine:
        return ""
    open_ = sum(f.asked for f in reading.found(Verdict.UNKNOWN))
    first = f"Nothing to mend: {fine} of {fine + open_} things asked are fine"
    return f"{first}, {open_} cannot be told." if open_ else f"{first}."


def missing_for_fault(finding: Finding) -> str:
    """Why what is past its limit is not called a fault; empty where nothing is missing."""
    if finding.verdict is not Verdict.WATCH or finding.override is not None:
        return ""
    if finding.question:
        return f"Called a fault once this is answered: {small(asked(finding.question))}"
    chance = finding.probability
    if chance is None:
        return ""
    words = "almost surely" if chance > 0.995 else f"with {100 * chance:.0f} %"
    if finding.fault.need == "all":
        return f"The deciding number is past its limit {words}; a fault needs all of its numbers to be."
    return (
        f"Past the limit {words}. So many numbers are asked of one swing that a fault is named only "
        f"where {FAULT_Z:g} of its errors lie past."
    )
