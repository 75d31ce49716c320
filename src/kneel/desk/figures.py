"""The figures of a swing: tracks, measures and verdicts, computed from document and evidence."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from kneel.evidence import Evidence, Stretch, analysed
from kneel.judge import Reading, judge, school
from kneel.model import Sighting, Swing
from kneel.motion.analysis import Analysis
from kneel.vision import fused, on_the_body


@dataclass(frozen=True)
class Figures:
    """What one document and its evidence come to.

    ``spots`` are points followed by their colour, ``notes`` plain words on what spoils the numbers.
    """

    analysis: Analysis | None = None
    reading: Reading | None = None
    other: Reading | None = None
    spots: Mapping[str, Sighting] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    @staticmethod
    def of(swing: Swing, stretch: Stretch, evidence: Evidence) -> Figures:
        """Compute them; takes a few hundredths of a second."""
        analysis = analysed(swing, stretch, evidence)
        second = "loading" if swing.school == "centred" else "centred"
        return Figures(
            analysis,
            judge(analysis, school(swing.school)),
            judge(analysis, school(second)),
            on_the_body(fused(evidence.followed.spots), evidence.looked.sightings),
            (*evidence.notes, *analysis.warnings, *analysis.spoilt()),
        )
