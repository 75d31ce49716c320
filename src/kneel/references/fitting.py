"""Which reference suits a swing: of its view, showing what is wanted, of a body and club like it."""

from __future__ import annotations

from collections.abc import Sequence

from kneel.judge import Finding, Reading, Verdict
from kneel.model import Club, Hand, View
from kneel.references.shelf import Reference

ALIKE_CM = 40.0
"""Two statures so far apart count as much as another hand or another club."""

CLUBS = tuple(Club)


def fitting(
    references: Sequence[Reference], view: View, fault: str | None, hand: Hand, club: Club, stature_cm: float
) -> list[Reference]:
    """Those of a view, the best suited first: what shows the wanted thing before all that does not, then the
    nearest by hand, club and build. ``fault`` is what it has to be clear of, ``stature_cm`` 0 for unknown.
    """
    return sorted(
        (one for one in references if one.swing.view is view),
        key=lambda one: (
            fault is not None and fault not in one.card.shows,
            _unlike(one, hand, club, stature_cm),
        ),
    )


def _unlike(one: Reference, hand: Hand, club: Club, stature_cm: float) -> float:
    tall = one.card.stature_cm
    apart = abs(tall - stature_cm) / ALIKE_CM if tall and stature_cm else 0.5
    across = abs(CLUBS.index(one.swing.club) - CLUBS.index(club)) / (len(CLUBS) - 1)
    return float(one.swing.hand is not hand) + across + apart


def shown_by(reading: Reading) -> tuple[str, ...]:
    """The faults a swing is clear of, by their keys: by all that is told of each, if not all is told.

    >>> from kneel.judge import judge
    >>> from kneel.judge.knowledge import shipped
    >>> from kneel.motion.example import example
    >>> clear = [shown_by(judge(example(shift), shipped().school("centred"))) for shift in (-9.0, 0.0)]
    >>> ["sway" in keys for keys in clear]
    [False, True]
    """
    return tuple(sorted(one.key for one in reading.findings if _clear(one)))


def _clear(finding: Finding) -> bool:
    told = [one.judged.verdict for one in finding.weighed if one.judged is not None]
    unheard = finding.verdict is Verdict.UNKNOWN and bool(told) and {*told} == {Verdict.CLEAR}
    return finding.verdict is Verdict.CLEAR or unheard
