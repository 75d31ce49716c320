"""The figures of a swing: tracks, measures and verdicts, computed from document and evidence."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from kneel.evidence import Evidence, Stretch, analysed
from kneel.judge import Reading, judge, school
from kneel.model import Mark, Sighting, Swing
from kneel.motion.study import Study
from kneel.vision import fused, on_the_body


@dataclass(frozen=True)
class Figures:
    """What one document and its evidence come to.

    ``spots`` are points followed by their colour, ``notes`` plain words on what spoils the numbers.
    """

    analysis: Study | None = None
    reading: Reading | None = None
    other: Reading | None = None
    spots: Mapping[str, Sighting] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    def dragged(self, mark: Mark, before: Mark | None) -> Figures | None:
        """The same with one mark moved, or set anew, in a few ms; None where there is no track of it."""
        analysis = self.analysis.dragged(mark, before) if self.analysis else None
        if analysis is None or self.reading is None:
            return None
        return replace(self, analysis=analysis, reading=judge(analysis, self.reading.school))

    @staticmethod
    def of(swing: Swing, stretch: Stretch, evidence: Evidence, *, inches: bool = False) -> Figures:
        """Compute them; takes a few hundredths of a second."""
        analysis = analysed(swing, stretch, evidence, inches=inches)
        second = "loading" if swing.school == "centred" else "centred"
        return Figures(
            analysis,
            judge(analysis, school(swing.school)),
            judge(analysis, school(second)),
            on_the_body(fused(evidence.followed.spots), evidence.looked.sightings),
            (*evidence.notes, *analysis.warnings, *analysis.spoilt()),
        )
