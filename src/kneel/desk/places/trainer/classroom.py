"""A round for a class: made, answered under one's name, its answers kept in its folder, its sheet."""

from __future__ import annotations

import datetime
import random
import uuid
from collections.abc import Callable, Sequence
from datetime import UTC
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PyQt6.QtWidgets import QFileDialog

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.disk import shown, write_bytes
from kneel.documents.swing_file import why
from kneel.trainer.classroom import (
    LONGEST_NAME,
    OpenClass,
    Paper,
    bring_papers,
    papers,
    read_class,
    take_seat,
    write_class,
    write_paper,
)
from kneel.trainer.due import Due
from kneel.trainer.records import Answer
from kneel.trainer.rounds import choose
from kneel.trainer.sheet import sheet_of

if TYPE_CHECKING:
    from kneel.desk.places.trainer.view import TrainerPlace

DESK = "trainer/desk"


class Classroom:
    """The deeds for a class."""

    def __init__(self, place: TrainerPlace) -> None:
        self._place = place
        self._lane = Lane(place, place.context.jobs, tr("the round for a class"))
        self._writer = Lane(place)
        self.open: OpenClass | None = None
        self.paper: Paper | None = None
        place.round.answered.connect(self._keep)

    def choose(self) -> Chooser:
        """What can be done for a class."""
        place = self._place
        choices = [
            Choice(tr("Make a round …"), self.ask_title, detail=tr("a folder that any desk can open")),
            Choice(tr("Answer a round …"), self.browse_round, detail=tr("open a folder, under your name")),
            Choice(tr("Sheet of scores …"), self.browse_sheet, detail=tr("of all who answered, PDF or CSV")),
            Choice(tr("Bring answers in …"), self.browse_answers, detail=tr("files that were sent to you")),
        ]
        chooser = Chooser(place, place.context.look, tr("For a class"), choices)
        chooser.open(None)
        return chooser

    # Making one

    def ask_title(self) -> Entry:
        """A round of as many swings as the settings have, by a title."""
        place = self._place
        entry = Entry(
            place, place.context.look, tr("What is the round called?"), self._ask_folder,
            words=tr("Round of %s") % datetime.date.today().isoformat(), most=LONGEST_NAME,
        )  # fmt: skip
        entry.open(None)
        return entry

    def _ask_folder(self, title: object) -> None:
        name, _ = QFileDialog.getSaveFileName(self._place, tr("A new folder for the round"), str(title))
        if name:
            self.make(Path(name), str(title))

    def make(self, folder: Path, title: str) -> None:
        """Make the folder of a round with what fits the settings."""
        place = self._place
        settings = place.settings
        swings = choose(
            place.stock.swings, settings, (), Due({}), datetime.datetime.now(UTC), random.randrange(2**31)
        )
        if not swings:
            place.failed.emit(tr("No swing like that is there yet; choose more freely, or wait a minute."))
            return
        said = tr("A round of %d swings lies in %s: copy it to every desk, or where all can open it")

        def work(task: Task) -> object:
            return write_class(
                folder, title, swings, settings, datetime.date.today(), task.progress, task.stopped
            )

        self._start(work, lambda made: made and place.said.emit(said % (len(swings), shown(folder.name))))

    # Answering one

    def browse_round(self) -> None:
        """Open a folder of a round."""
        name = QFileDialog.getExistingDirectory(self._place, tr("The folder of the round"))
        if name:
            self.read(Path(name), self.ask_name)

    def read(self, folder: Path, done: Callable[[OpenClass], object]) -> None:
        """Read the folder of a round."""
        self._start(lambda _: read_class(folder), done)

    def ask_name(self, opened: OpenClass) -> Entry:
        """Who answers."""
        place = self._place
        entry = Entry(
            place, place.context.look, tr("Who answers “%s”?") % opened.round.title,
            lambda name: self.sit(opened, str(name)), most=LONGEST_NAME,
        )  # fmt: skip
        entry.open(None)
        return entry

    def sit(self, opened: OpenClass, name: str) -> None:
        """Begin answering under a name, or go on where one was."""
        desk = self._desk()

        def done(paper: Paper) -> None:
            place = self._place
            answered = {one.swing for one in paper.answers}
            left = [one for one in opened.swings if one.id not in answered]
            if not left:
                place.said.emit(tr("%s has answered all of it") % paper.by)
                return
            self.open, self.paper = opened, paper
            place.run(left, opened.round.settings, paper.by)

        self._start(lambda _: take_seat(opened, name, desk), done)

    def _desk(self) -> str:
        """This desk's own word, so that nobody goes on with another's answers."""
        settings = self._place.context.settings
        held = str(settings.value(DESK) or "")
        if not held:
            held = uuid.uuid4().hex
            settings.setValue(DESK, held)
        return held

    def _keep(self, answer: Answer) -> None:
        """Keep an answer of a class where the class lies."""
        paper, opened = self.paper, self.open
        if not answer.by or paper is None or opened is None or paper.by != answer.by:
            return
        self.paper = paper = replace(paper, answers=(*paper.answers, answer))
        self._writer.start(
            Operation(
                work=lambda _: write_paper(opened.folder, paper),
                failed=lambda error: self._place.failed.emit(str(error)),
            )
        )

    # What came of it

    def browse_sheet(self) -> None:
        """The sheet of a round, of all that lies in its folder."""
        name = QFileDialog.getExistingDirectory(self._place, tr("The folder of the round"))
        if name:
            self.read(Path(name), self._ask_sheet)

    def _ask_sheet(self, opened: OpenClass) -> None:
        filters = f"{tr('Page to print')} (*.pdf);;{tr('Table')} (*.csv)"
        name, _ = QFileDialog.getSaveFileName(
            self._place, tr("Save the sheet of scores"), str(opened.folder / "scores.pdf"), filters
        )
        if name:
            target = Path(name)
            # A sheet takes the place of no file of the round.
            plain = target.suffix.lower() in (".pdf", ".csv")
            self.write_sheet(opened, target if plain else target.with_name(f"{target.name}.pdf"))

    def write_sheet(self, opened: OpenClass, target: Path) -> None:
        """Write the sheet, as a table where its name ends so, else as a page."""
        place = self._place

        def work(_: Task) -> tuple[int, list[str]]:
            every, wrong = papers(opened)
            write_bytes(target, sheet_of(opened, every, table=target.suffix.lower() == ".csv"))
            return len(every), wrong

        def done(told: tuple[int, list[str]]) -> None:
            count, wrong = told
            place.said.emit(tr("The sheet of %d is saved as %s") % (count, shown(target.name)))
            if wrong:
                place.failed.emit(" ".join(wrong[:2]))

        self._start(work, done)

    def browse_answers(self) -> None:
        """Take in answers that were sent."""
        names, _ = QFileDialog.getOpenFileNames(
            self._place, tr("Answers that were sent"), "", f"{tr('Answers')} (*.json)"
        )
        folder = names and QFileDialog.getExistingDirectory(self._place, tr("The folder of the round"))
        if folder:
            self.bring(Path(folder), [Path(name) for name in names])

    def bring(self, folder: Path, paths: Sequence[Path]) -> None:
        """Take answers into the folder of their round."""
        place = self._place

        def done(told: tuple[int, list[str]]) -> None:
            count, wrong = told
            place.said.emit(tr("%d taken in; the sheet has them now") % count)
            if wrong:
                place.failed.emit(" ".join(wrong[:2]))

        self._start(lambda _: bring_papers(read_class(folder), paths), done)

    def _start(self, work: Callable[[Task], Any], done: Callable[[Any], object]) -> None:
        def failed(error: Exception) -> None:
            self._place.failed.emit(why(error))

        self._lane.start(Operation(work=work, done=lambda made: done(made) and None, failed=failed))
