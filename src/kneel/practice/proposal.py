"""From a reading to what is proposed: the root, its drills, the one to begin with, and what is queued."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kneel.judge import Finding, Reading
from kneel.judge.numbers import Numbers
from kneel.model import FileRef, Plan, Queued, UsageError
from kneel.practice.catalogue import Drills
from kneel.practice.choice import DrillChoice, Stands, Wish, choices, first_choice
from kneel.practice.planning import PracticeDays, make_plan


@dataclass(frozen=True)
class Proposal:
    """The fault to work on, its drills, best first, and the one to begin with, if any may be begun. ``among``
    is of how many numbers at work its number was chosen.
    """

    finding: Finding
    drills: tuple[DrillChoice, ...]
    chosen: DrillChoice | None
    queued: tuple[Queued, ...]
    among: int = 1


def propose(
    reading: Reading, wish: Wish, drills: Drills, *, fault: str = "", drill: str = ""
) -> Proposal | None:
    """What to work on first, or on ``fault``; None where nothing is at work.

    Raises :class:`UsageError` for a fault or a drill that there is not, and for a drill that is not for the
    fault or is forbidden to this student.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> from kneel.practice.catalogue import known_drills
    >>> propose(reading, Wish(), known_drills()).finding.key
    'sway'
    """
    key = fault or next(iter(reading.priority), "")
    if not key:
        return None
    finding = _finding(reading, key)
    # A consequence is never worked on by itself.
    found = (
        ()
        if finding.fault.consequence
        else choices(key, reading, wish, drills, measure=finding.measure or "")
    )
    chosen = _wanted(drill, found, finding, drills) if drill else first_choice(found)
    rest = [other for other in reading.priority if other != key]
    queued = [Queued(other, _first(other, reading, wish, drills)) for other in rest]
    if chosen is not None:
        # What waits until the first thing holds is the second phase.
        queued += [Queued(key, one.drill.key) for one in found if one.stands is Stands.WAITS][:1]
    queued += _second_phase(finding, reading, wish, drills)
    among = sum(one.verdict.at_work and not one.fault.consequence for one in reading.findings)
    return Proposal(finding, found, chosen, tuple(queued), max(among, 1))


def _second_phase(finding: Finding, reading: Reading, wish: Wish, drills: Drills) -> list[Queued]:
    """What arms or club do under the root may have a drill of its own once that holds: the nearest."""
    for key in finding.explains:
        if reading.of(key).fault.consequence:
            found = choices(key, reading, wish, drills, measure=reading.of(key).measure or "")
            chosen = first_choice(found)
            if chosen is not None:
                return [Queued(key, chosen.drill.key)]
    return []


def plan_of(
    proposal: Proposal, numbers: Numbers, wanted: PracticeDays, *, school: str, before: Sequence[FileRef] = ()
) -> Plan:
    """The plan for what is proposed. Raises :class:`UsageError` where no drill may be begun.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> from kneel.judge.numbers import OfSwing
    >>> import datetime
    >>> from kneel.practice.catalogue import known_drills
    >>> proposal = propose(reading, Wish(), known_drills())
    >>> days = PracticeDays(datetime.date(2026, 11, 5))
    >>> plan_of(proposal, OfSwing(example()), days, school="centred").aim.measure
    'pelvis_shift'
    """
    if proposal.chosen is None:
        title = proposal.finding.fault.title
        if not proposal.drills:
            raise UsageError(
                f"{title} is a consequence and has no drill of its own: work on what it hangs under."
            )
        raise UsageError(
            f"None of the {len(proposal.drills)} drills for {title.lower()} can be begun with what is "
            "at hand and what has to be spared; say other props or places, or name a drill."
        )
    return make_plan(
        proposal.finding,
        proposal.chosen.drill,
        numbers,
        wanted,
        school=school,
        queued=proposal.queued,
        before=before,
        among=proposal.among,
    )


def _finding(reading: Reading, key: str) -> Finding:
    try:
        return reading.of(key)
    except KeyError:
        known = ", ".join(f.key for f in reading.findings)
        raise UsageError(f"There is no fault “{key}”; choose one of {known}.") from None


def _wanted(drill: str, found: Sequence[DrillChoice], finding: Finding, drills: Drills) -> DrillChoice:
    """The drill that was asked for, whatever speaks against it but a prohibition."""
    known = drills.get(drill)
    one = next((one for one in found if one.drill.key == drill), None)
    title = finding.fault.title.lower()
    if one is None:
        raise UsageError(f"The drill “{known.title}” is not one for {title}.")
    if one.forbidden:
        raise UsageError(
            f"The drill “{known.title}” is not given to somebody who has such a flag; choose another."
        )
    return one


def _first(fault: str, reading: Reading, wish: Wish, drills: Drills) -> str:
    one = first_choice(choices(fault, reading, wish, drills))
    return one.drill.key if one else ""
