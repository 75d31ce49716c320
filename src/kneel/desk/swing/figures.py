"""The figures of a swing: tracks, measures and verdicts, computed from document and evidence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from kneel.compare.views import OfViews, judge_views
from kneel.evidence import Evidence, Stretch, analysed
from kneel.judge import Finding, Reading, Verdict, Why, at_hand
from kneel.judge.numbers import OfSwing
from kneel.judge.records import School
from kneel.model import Ball, Mark, Sighting, Swing, UsageError
from kneel.motion.advice import Advice, next_mark
from kneel.motion.measures import lanes_of
from kneel.motion.space.advice import IN_SPACE, next_mark_by_two
from kneel.motion.space.linked import MISFIT, Linked, followed, link, retold, told_by_two
from kneel.motion.study import Study
from kneel.speech.space import misfit_words
from kneel.vision import fused, on_the_body

BETWEEN = 16
"""So many moments between the checkpoints are told of a body in space, for it to move smoothly."""


USUAL_LANES = 3
"""Measures on the ribbon until others are chosen."""

LED = 4
"""So many findings stand there, each with its course, before “and 3 more”."""

UNKNOWN_YET = "In one of the two clips no moment of the swing is found yet."


def unsure(finding: Finding | None, reading: Reading | None) -> Finding | None:
    """What a mark should make surer: a chosen finding, or where that is fine the first in doubt."""
    if finding is None or reading is None or finding.verdict is not Verdict.CLEAR:
        return finding
    return reading.untold or next((f for f in reading.findings if f.why is Why.DOUBT), None)


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
    own: Study | None = None
    """What this take's camera tells alone; ``analysis`` is that with what both tell together."""

    beside: Study | None = None
    """What the second take's camera tells alone, where it is there."""

    linked: Linked | None = None
    """The swing by both cameras."""

    second: Study | None = None
    """Of such a swing what the second take's camera tells, with what both tell together."""

    apart: str = ""
    """Why the second take is not of this swing, in a sentence."""

    _advised: dict[tuple[str, str], Advice | None] = field(
        default_factory=dict, init=False, compare=False, repr=False
    )

    def ahead(self) -> Figures:
        """The same, with what the Bench asks of it first told already: for workers."""
        analysis, reading = self.analysis, self.reading
        if analysis is None or reading is None:
            return self
        led = (finding.measure for finding, _ in reading.chain[:LED])
        for key in (*lanes_of(analysis.setup.view)[:USUAL_LANES], *led):
            if key is not None:
                analysis.measure(key)
        finding = unsure(reading.first, reading)
        if finding is not None and finding.measure is not None and finding.checkpoint is not None:
            self.advice(finding.measure, finding.checkpoint)
        return self

    def dragged(self, mark: Mark, before: Mark | None, fault: str | None = None) -> Figures | None:
        """The same with one mark moved, or set anew, in a few ms, and the one chosen fault judged anew.

        None where there is no track of the point.
        """
        if self.analysis is None or self.reading is None:
            return None
        analysis = self.analysis.dragged(mark, before)
        return None if analysis is None else self._renewed(analysis, self.second, fault)

    def beside_dragged(self, second: Study, fault: str | None) -> Figures | None:
        """The same with a mark of the second take under the hand; ``second`` as :attr:`second` is."""
        if self.analysis is None or self.reading is None:
            return None
        return self._renewed(self.analysis, second, fault)

    def _renewed(self, analysis: Study, second: Study | None, fault: str | None) -> Figures:
        assert self.reading is not None
        linked = followed(self.linked, analysis, second) if self.linked and second else None
        studies = [analysis]
        if linked is not None and second is not None:
            studies = [retold(study, linked) for study in (analysis, second)]
        reading = self.reading.renewed(
            OfViews(tuple(OfSwing(study, self.swing.club) for study in studies)), fault
        )
        return replace(
            self, analysis=studies[0], second=studies[-1] if linked else None, linked=linked, reading=reading
        )

    def under(self, school: School) -> Reading | None:
        """The reading of the same numbers under another school; None where there are none."""
        if self.analysis is None:
            return None
        studies = [self.analysis, *([self.second] if self.linked is not None and self.second else [])]
        return judge_views(studies, school, self.swing, at_hand()[0])

    def advice(self, measure: str, checkpoint: str) -> Advice | None:
        """The mark that would tell most about a measure at a checkpoint."""
        if self.analysis is None:
            return None
        if (measure, checkpoint) not in self._advised:
            by_two = self.linked is not None and self.second is not None and measure in IN_SPACE
            self._advised[measure, checkpoint] = (
                next_mark_by_two(self.linked, (self.analysis, self.second), measure, checkpoint)
                if by_two
                else next_mark(self.analysis, measure, checkpoint)
            )
        return self._advised[measure, checkpoint]

    def exchanged(self, first: Figures) -> tuple[Figures, Figures]:
        """These of the second take beside those of the ``first``, as they are where the second is worked on:
        of the first, and of this one.
        """
        there = replace(first, analysis=first.own, linked=None, beside=None, second=None)
        if first.linked is None or first.own is None or self.own is None:
            return there, self
        linked = first.linked.seen_from_second()
        analysis = told_by_two(self.own, linked)
        told = replace(self, analysis=analysis, reading=first.reading, other=first.other, beside=first.own)
        return there, replace(told, linked=linked, second=first.analysis)

    @staticmethod
    def of(
        swing: Swing,
        stretch: Stretch,
        evidence: Evidence,
        balls: Sequence[Ball] = (),
        beside: Study | None = None,
    ) -> Figures:
        """Compute them, ``balls`` being others of the set, ``beside`` what the second take tells alone; takes
        a few hundredths of a second, with a second take two tenths.
        """
        analysis = analysed(swing, stretch, evidence)
        _, trouble = at_hand()
        made = Figures(
            spots=on_the_body(fused(evidence.followed.spots), evidence.looked.sightings),
            notes=(*([trouble] if trouble else []), *evidence.notes, *analysis.warnings, *analysis.spoilt()),
            swing=swing,
            own=analysis,
        )
        return made.joined(beside, balls)

    def joined(self, beside: Study | None, balls: Sequence[Ball] = ()) -> Figures:
        """The same judged with what the second take's camera tells, or without it."""
        own = self.own
        if own is None:
            return self
        linked, apart = None, ""
        if beside is not None and not (beside.checkpoints and own.checkpoints):
            apart = UNKNOWN_YET
        elif beside is not None:
            try:
                linked = link(own, beside, between=BETWEEN, agreed=True)
            except UsageError as error:
                apart = str(error)
        knowledge, _ = at_hand()
        schools = self.swing.school, "loading" if self.swing.school == "centred" else "centred"
        studies = _together(own, beside, linked)
        readings = [
            judge_views(studies, knowledge.school(name), self.swing, knowledge, balls=balls)
            for name in schools
        ]
        wide = linked.body.misfit if linked is not None else 0.0
        notes = (*self.notes, misfit_words(wide)) if wide > MISFIT else self.notes
        return replace(
            self,
            notes=notes,
            analysis=studies[0],
            reading=readings[0],
            other=readings[1],
            beside=beside,
            linked=linked,
            second=studies[1] if len(studies) > 1 else None,
            apart=apart,
        )


def _together(own: Study, beside: Study | None, linked: Linked | None) -> list[Study]:
    """What is judged: one camera's, or both with what they tell together."""
    if linked is None or beside is None:
        return [own]
    return [told_by_two(study, linked) for study in (own, beside)]
