"""Windows from good swings: read, offered, and taken into the school."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from kneel.compare.good_swings import Proposed, proposed
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.schools.course import columns_of
from kneel.desk.places.schools.reading import read_good_swings
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import several, tr
from kneel.documents.swing_file import SUFFIX
from kneel.judge.kinds import ONCE
from kneel.judge.shaping import UNCHANGED, shaped
from kneel.motion.failure import Failed
from kneel.speech.words import capital, checkpoint_words, number, window_words

if TYPE_CHECKING:
    from kneel.desk.places.schools.actions import SchoolActions
    from kneel.desk.places.schools.view import SchoolsPlace


class GoodWindows:
    """Makes windows on the measure on show from swings that somebody calls good."""

    def __init__(self, actions: SchoolActions, place: SchoolsPlace) -> None:
        self._actions, self._place = actions, place
        self._readers = Lane(place, place.context.jobs, tr("reading the good swings"), newest=True)

    def choose_swings(self) -> None:
        """Windows on the measure from swings that somebody calls good."""
        if self._place.fault or self._place.kind:
            self._place.said.emit(tr("Choose the number itself first, for a full swing"))
            return
        words = tr("Good swings, by their documents")
        names, _ = QFileDialog.getOpenFileNames(self._place, words, "", f"{tr('Swings')} (*{SUFFIX})")
        if names:
            self.read_swings([Path(name) for name in names])

    def read_swings(self, paths: Sequence[Path]) -> None:
        """Read swings, and offer the windows that come of them."""
        place = self._place
        measure, columns = place.measure, columns_of(place.measure)

        def work(task: Task) -> tuple[list[Proposed], str]:
            swings = read_good_swings(paths, measure, task)
            found = [proposed(swings, measure, at) for at in columns]
            told = [one for one in found if isinstance(one, Proposed)]
            fewest = next((one.reason for one in found if isinstance(one, Failed)), "")
            return told, fewest

        def done(found: tuple[list[Proposed], str]) -> None:
            told, reason = found
            if told:
                self.offer_proposed(measure, told)
            else:
                place.failed.emit(f"{reason} {UNCHANGED}")

        self._readers.start(
            Operation(
                subject=lambda: place.measure,
                work=work,
                done=done,
                failed=lambda error: place.failed.emit(f"{error} {UNCHANGED}"),
            )
        )

    def offer_proposed(self, measure: str, told: Sequence[Proposed]) -> Chooser:
        """Let windows be taken, one by one or all."""
        place, shown = self._place, self._place.canvas.shown
        assert shown is not None

        def take(some: Sequence[Proposed]) -> None:
            def put() -> None:
                mine, whole = self._actions.mine(), place.school
                for one in some:
                    lo, hi = round(one.interval.lo, 1), round(one.interval.hi, 1)
                    mine = shaped(
                        mine, whole, measure, one.at, place.club, lo=lo, hi=hi, standing=one.standing
                    )
                place.shelf.put(tr("Windows from good swings"), mine)

            self._actions.attempt(put)

        first = told[0]
        whose = first.own or several(first.students, "one student", "%d students")
        choices = [Choice(tr("Take all of them"), lambda: take(told))] if len(told) > 1 else []
        for one in told:
            window = window_words(one.interval.lo, one.interval.hi, shown.unit)
            edge = tr("either end ± %s") % number(one.interval.edge, shown.unit, signed=False)
            name = tr("once a swing") if one.at == ONCE else checkpoint_words(one.at)
            choices.append(Choice(f"{capital(name)}: {window}", lambda o=one: take([o]), detail=edge))
        return self._actions.offer(
            tr("From %d good swings of %s: nine in ten inside") % (first.swings, whose), choices
        )
