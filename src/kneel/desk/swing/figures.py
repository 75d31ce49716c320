"""The figures of a swing: tracks, measures and verdicts, computed from document and evidence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from kneel.evidence import Evidence, Stretch, analysed
from kneel.judge import Reading, at_hand
from kneel.model import Ball, Mark, Sighting, Swing
from kneel.motion.study import Study
from kneel.practice.judging import judge_swing
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
    swing: Swing = field(default_factory=Swing)

    def dragged(self, mark: Mark, before: Mark | None, fault: str | None = None) -> Figures | None:
        """The same with one mark moved, or set anew, in a few ms, and the one chosen fault judged anew.

        None where there is no track of the point.
        """
        analysis = self.analysis.dragged(mark, before) if self.analysis else None
        if analysis is None or self.reading is None:
            return None
        return replace(
            self, analysis=analysis, reading=self.reading.renewed(analysis, fault, self.swing.club)
        )

    @staticmethod
    def of(swing: Swing, stretch: Stretch, evidence: Evidence, balls: Sequence[Ball] = ()) -> Figures:
        """Compute them, ``balls`` being others of the set; takes a few hundredths of a second."""
        analysis = analysed(swing, stretch, evidence)
        knowledge, trouble = at_hand()
        second = "loading" if swing.school == "centred" else "centred"
        return Figures(
            analysis,
            judge_swing(analysis, knowledge.school(swing.school), swing, knowledge, balls=balls),
            judge_swing(analysis, knowledge.school(second), swing, knowledge, balls=balls),
            on_the_body(fused(evidence.followed.spots), evidence.looked.sightings),
            (*([trouble] if trouble else []), *evidence.notes, *analysis.warnings, *analysis.spoilt()),
            swing,
        )
