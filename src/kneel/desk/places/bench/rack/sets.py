"""Swings judged together, beside the desk: what each shows, and what those of one view and club show
together.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from kneel.compare.lesson import Balls, Filmed, JudgedLesson, judge_lesson
from kneel.compare.sets import Spread
from kneel.compare.views import judge_views
from kneel.desk.swing.intake import parted
from kneel.documents.glance_file import Glance, save_glance
from kneel.evidence.kept import kept_swing, whole_swing
from kneel.judge import Reading, Verdict, at_hand
from kneel.judge.numbers import OfSwing
from kneel.model import Ball, Club, Kind, KneelError, View
from kneel.motion.study import Study
from kneel.speech.lesson import chains_across


@dataclass(frozen=True)
class SetTold:
    """What the swings of one view, club and kind show together.

    ``shows`` of ``count`` show the fault called ``title``; ``mean``, ``sigma`` and ``spread`` are those of
    its measure in ``unit`` (None where it is not told); ``typical`` is the document of the swing nearest the
    mean; ``unsure`` whether what may well be at fault cannot be told.
    """

    view: View
    club: Club
    kind: Kind
    documents: tuple[Path, ...]
    title: str = ""
    shows: int = 0
    mean: float | None = None
    sigma: float = 0.0
    spread: float | None = None
    unit: str = ""
    typical: Path | None = None
    unsure: bool = False

    @property
    def count(self) -> int:
        return len(self.documents)


@dataclass(frozen=True)
class Join:
    """A root in the clips of one view, and what it explains in those of another.

    Faults are told by their keys; of the two sides there are the view, all documents, and the one to look at
    with the checkpoint there.
    """

    root: str
    effect: str
    views: tuple[View, View]
    documents: tuple[tuple[Path, ...], tuple[Path, ...]]
    typical: tuple[Path, Path]
    checkpoints: tuple[str, str]

    def side_of(self, document: Path | None) -> int | None:
        """0 where a document shows the root, 1 where it shows what that explains; None where neither."""
        return next((k for k, some in enumerate(self.documents) if document in some), None)


@dataclass(frozen=True)
class BallOfDocument:
    """What a ball did that one of the documents struck."""

    document: Path
    club: Club
    ball: Ball


@dataclass(frozen=True)
class LessonTold:
    """What each document shows, the sets, how clips of two views hang together, and the balls."""

    glances: dict[Path, Glance]
    sets: tuple[SetTold, ...]
    joins: tuple[Join, ...] = ()
    balls: tuple[BallOfDocument, ...] = ()

    def other_balls(self, document: Path | None, club: Club) -> tuple[Ball, ...]:
        """The balls of the set that other swings with this club struck."""
        return tuple(one.ball for one in self.balls if one.document != document and one.club is club)


def glance_of(study: Study | None, reading: Reading | None) -> Glance:
    """What a swing shows, for a rack."""
    if study is None or reading is None:
        return Glance(unsure=True)
    address = study.checkpoints.get("address")
    verdicts = [finding.verdict for finding in reading.findings]
    chain = reading.chain
    return Glance(
        address=address.shown if address else None,
        faults=verdicts.count(Verdict.FAULT),
        watches=verdicts.count(Verdict.WATCH),
        root=chain[0][0].fault.title if chain else "",
        unsure=not reading.told or reading.untold is not None,
        view=study.setup.view,
    )


def read_lesson(
    documents: Sequence[Path],
    school: str,
    unread: Sequence[Path] = (),
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,
    stopped: Callable[[], bool] = lambda: False,
) -> LessonTold:
    """Judge the swings of a lesson from what is kept of them; those of ``unread`` are looked through where
    nothing is kept yet, each swing of a long clip by itself, and ``part`` is told of which a document came
    to be. Runs beside the desk, in another process.
    """
    knowledge, _ = at_hand()
    chosen = knowledge.school(school)
    filmed: list[Filmed] = []
    paths: list[Path] = []
    glances: dict[Path, Glance] = {}
    waiting, read = list(documents), {*unread}
    for k, document in enumerate(waiting):
        progress(k, len(waiting))
        if stopped():
            break
        known = None
        with contextlib.suppress(KneelError, OSError):
            if document in unread:
                _, *others = parted(document, stopped)
                waiting[k + 1 : k + 1] = others
                read |= {*others}
                if others:
                    part(tuple(others))
            known = whole_swing(document, stopped) if document in read else kept_swing(document)
        if known is None:
            continue
        swing, study = known.swing, known.study
        reading = judge_views(known.studies, chosen, swing, knowledge)
        glances[document] = glance_of(study, reading)
        save_glance(document, glances[document])
        if document in read:
            part(())
        if reading.told:
            filmed.append(Filmed(swing, OfSwing(study, swing.club), reading))
            paths.append(document)
    if not filmed:
        return LessonTold(glances, ())
    lesson = judge_lesson(filmed, chosen, knowledge)
    every = {balls: _told(balls, lesson, paths) for balls in lesson.sets}
    return LessonTold(
        glances,
        tuple(told for told in every.values() if told.count > 1),
        tuple(_joins(lesson, every)),
        tuple(
            BallOfDocument(path, one.swing.club, one.swing.ball)
            for path, one in zip(paths, filmed, strict=True)
            if one.swing.ball is not None and one.swing.ball.noted
        ),
    )


def _joins(lesson: JudgedLesson, every: Mapping[Balls, SetTold]) -> Iterator[Join]:
    """Roots of one view with what they explain in another, and where to look at both."""
    for root, effect in chains_across(lesson):
        sets = [lesson.set_of(one) for one in (root, effect)]
        if sets[0] is None or sets[1] is None or root.checkpoint is None or effect.checkpoint is None:
            continue
        one, other = every[sets[0]], every[sets[1]]
        yield Join(
            root.key,
            effect.key,
            (one.view, other.view),
            (one.documents, other.documents),
            (one.typical or one.documents[0], other.typical or other.documents[0]),
            (root.checkpoint, effect.checkpoint),
        )


def _told(balls: Balls, lesson: JudgedLesson, paths: Sequence[Path]) -> SetTold:
    documents = tuple(paths[k] for k in balls.swings)
    plain = SetTold(balls.view, balls.club, balls.kind, documents)
    chain = balls.reading.chain
    if not chain:
        unsure = balls.reading.untold is not None
        return SetTold(**{**plain.__dict__, "typical": documents[0], "unsure": unsure})
    finding = chain[0][0]
    shows = len(balls.shows[finding.key])
    told = {"title": finding.fault.title, "shows": shows, "typical": documents[0]}
    if finding.measure is not None and finding.decided is not None:
        over = balls.numbers.over(finding.measure, finding.decided.at)
        if isinstance(over, Spread):
            told |= {
                "mean": over.mean.value,
                "sigma": over.mean.sigma,
                "spread": over.spread,
                "unit": over.mean.unit,
            }
            values = [
                lesson.swings[k].numbers.tell(finding.measure, finding.decided.at) for k in balls.swings
            ]
            off = [abs(getattr(v, "value", np.inf) - over.mean.value) for v in values]
            told["typical"] = documents[int(np.argmin(off))]
    return SetTold(**{**plain.__dict__, **told})
