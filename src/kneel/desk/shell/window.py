"""The window: a frame round the places, which it switches between; it holds menus, keys and status bar."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtGui import QAction, QCloseEvent, QResizeEvent

from kneel.desk.places.bench.view import Bench
from kneel.desk.places.book.filing import Filing
from kneel.desk.places.book.telling import Telling
from kneel.desk.places.book.view import BookPlace
from kneel.desk.places.context import Context
from kneel.desk.places.handout.view import HandoutPlace
from kneel.desk.places.pair.view import PairPlace
from kneel.desk.places.place import Handlers, Place
from kneel.desk.places.plan.view import PlanPlace
from kneel.desk.places.review.view import ReviewPlace
from kneel.desk.places.schools.view import SchoolsPlace
from kneel.desk.places.trainer.view import TrainerPlace
from kneel.desk.records import Which
from kneel.desk.records.housekeeping import Housekeeping, leave_house
from kneel.desk.records.practice import Practice
from kneel.desk.records.traces import forget_in_log, forget_in_settings
from kneel.desk.shell.drops import DropWindow
from kneel.desk.shell.exception_hook import log_file
from kneel.desk.shell.files import Files
from kneel.desk.shell.frame import Frame
from kneel.desk.shell.guide import Guide
from kneel.desk.shell.help import help_handlers
from kneel.desk.shell.menus import Menus
from kneel.desk.shell.offers import offers_of
from kneel.desk.shell.opener import Opener
from kneel.desk.shell.preferences import Preferences
from kneel.desk.shell.reviewing import Reviewing
from kneel.desk.shell.status_bar import StatusBar
from kneel.desk.shell.ticks import ticks_of
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.theme import Look
from kneel.disk import shown
from kneel.documents.swing_file import SUFFIX

SMALLEST = 840, 520
"""A screen of 1280 by 800 at one and a half times the usual size, px."""

CLOSING_S = 2.0
"""How long a recording may take to be kept once the window is closed."""


def forget_everywhere(settings: QSettings, words: Sequence[str]) -> None:
    """Take what was deleted out of the log and the desk's settings."""
    forget_in_log(log_file(), words)
    forget_in_settings(settings, words)


class Window(DropWindow):
    """Switches between places and hands actions on; holds no numbers of its own."""

    def __init__(self, look: Look, settings: QSettings) -> None:
        super().__init__()
        self._look, self._settings = look, settings
        context = self._context = Context(look, settings)
        self.jobs = context.jobs
        self.on_desk = OpenSwing(context.jobs)
        self.takes = TwoTakes(self.on_desk, context.jobs)
        for swing in (self.on_desk, self.takes.second):
            swing.gathering.looking.beside = context.beside
        self.practice = Practice(self.on_desk, context.records)
        self.bench = Bench(self.takes, context, self.practice)
        self.plan = PlanPlace(self.on_desk, context, self.practice)
        self.book = BookPlace(self.on_desk, context, self.practice)
        self.filing = Filing(self.on_desk, context)
        self.telling = Telling(self.on_desk, context, self.practice)
        self.house = Housekeeping(context.records.books, self)
        self.handout = HandoutPlace(self.on_desk, context, self.practice)
        self.pair = PairPlace(self.on_desk, context, self.practice)
        self.pair.offers = lambda: offers_of(self.bench.rack.entries, self.on_desk)
        self.review = ReviewPlace(self.on_desk, context, self.practice)
        self.schools = SchoolsPlace(self.on_desk, context, self.practice)
        self.trainer = TrainerPlace(self.on_desk, context, self.practice)
        self.reviewing = Reviewing(self.takes, self.bench, self.review, context)
        self.places: tuple[Place, ...] = (
            self.bench, self.pair, self.review, self.plan, self.book, self.schools,
            self.trainer, self.handout,
        )  # fmt: skip
        self.status_bar = StatusBar(context)
        self.opener = Opener(self.takes, context)
        self.opener.parted.connect(lambda found: self.bench.cutting.narrow(found.first, len(found.others)))
        self.files = Files(self, context, self.on_desk, self.opener, self.bench.rack, self.status_bar)
        self.guide = Guide(self, context, self.bench)
        self.preferences = Preferences(self, context, self.on_desk, self.practice)
        self.frame = Frame(self.places, self.status_bar)
        self._leaving = self.again = False
        self.actions_by_key: dict[str, QAction] = {}
        self.dropped.connect(self._take_dropped)
        self.setMinimumSize(*SMALLEST)
        self.setCentralWidget(self.frame)
        self.menus = Menus(
            self,
            self.frame.menus,
            self.places,
            self._own_handlers(),
            self.actions_by_key,
            lambda: ticks_of(self.on_desk, self.bench, self.book, self.preferences, look),
            lambda: self.place,
        )
        self._connect()
        self._restore()
        self._refresh()

    @property
    def place(self) -> Place:
        """The place on show."""
        return self.frame.place

    def go_to(self, place: Place) -> None:
        """Show another place."""

        def changed() -> None:
            self.guide.put_by(place is not self.bench)
            self.reviewing.left(place)
            self.status_bar.turn_page()
            self._refresh()

        self.frame.show_place(place, changed)

    def _own_handlers(self) -> Handlers:
        """What the window itself does, whichever place is on show."""
        handlers: Handlers = {
            "open": self.files.browse,
            "open_folder": self.files.browse_folder,
            "watch": self.files.browse_watched,
            "demo": self.open_demo,
            "save": self._save,
            "save_elsewhere": self.files.save_elsewhere,
            "recover": lambda: self.opener.look_for_left_over(asked=True),
            "quit": self.close,
            "undo": self.undo,
            "redo": self.redo,
            "to_bench": lambda: self.go_to(self.bench),
            "to_plan": lambda: self.go_to(self.plan),
            "to_book": lambda: self.go_to(self.book),
            "to_home": lambda: self.go_to(self.handout),
            "to_pair": lambda: self.go_to(self.pair),
            "to_schools": lambda: self.go_to(self.schools),
            "to_trainer": lambda: self.go_to(self.trainer),
            "stop_jobs": self.jobs.stop,
            "read_knowledge": self.preferences.read_knowledge,
            "inches": self.preferences.switch_inches,
            "light": self.preferences.switch_look,
            "text_size": self.preferences.choose_size,
        }
        handlers |= self.reviewing.handlers()
        return handlers | help_handlers(self, self._look, self.actions_by_key, self.guide.start)

    def _connect(self) -> None:
        self._connect_sentences()
        on_desk, bench, records = self.on_desk, self.bench, self._context.records
        for changed in (on_desk.opened, on_desk.document.changed, self.files.moved, self._look.changed):
            changed.connect(self._refresh)
        for stepped in (records.stepped, self.book.stepped, self.practice.changed):
            stepped.connect(self._refresh_undo)
        for named in (self.book.student_page.changed, self.practice.changed):
            named.connect(self._refresh_subjects)
        for told in (self._look.changed, on_desk.numbers.renewed, self.book.student_page.changed):
            self.preferences.told_anew.connect(told)
        self.files.leaving.connect(self._leave)
        bench.hinted.connect(self._hint)
        self.trainer.hinted.connect(self._hint)
        bench.demo_wanted.connect(self.open_demo)
        bench.alone_changed.connect(self.frame.alone)
        bench.rack.read.connect(self.filing.file_others)
        bench.reading.plan_wanted.connect(lambda: self.go_to(self.plan))
        bench.reading.book_wanted.connect(lambda: self.go_to(self.book))
        self.plan.name_wanted.connect(bench.name_golfer)
        records.changed.connect(self.practice.record.reload)
        for room in (self.handout, self.pair):
            room.wanted.connect(lambda room=room: self.go_to(room))
        self.book.lesson_wanted.connect(self._open_lesson)
        self.book.beside_wanted.connect(self.pair.hold_of)
        self.book.clip_wanted.connect(lambda whose: self.files.browse(whose) and self.go_to(self.bench))
        self.book.subjects.wanted.connect(lambda: self.go_to(self.book))
        self.frame.wanted.connect(self.go_to)
        self.reviewing.wanted.connect(self.go_to)
        self.schools.kept.connect(lambda: self.preferences.read_knowledge(quiet=True))
        self.schools.shelf.changed.connect(self._refresh_undo)
        self.reviewing.opens.connect(self.open_path)
        self.frame.named.connect(self.actions_by_key["name_golfer"].trigger)
        self.preferences.again.connect(self._start_again)

    def _connect_sentences(self) -> None:
        """What is said, what went wrong and what is well again goes to the status bar."""
        on_desk, status_bar, records = self.on_desk, self.status_bar, self._context.records
        status_bar.follow(on_desk)
        said = (
            self.opener.told,
            self.reviewing.said,
            records.said,
            self.bench.rack.said,
            self.preferences.said,
        )
        for told in (*said, *(place.said for place in self.places)):
            told.connect(status_bar.tell)
        wrong = (on_desk.failed, on_desk.document.refused, self.opener.said, self.practice.failed)
        rooms = (self.filing, records, self.book, self.house, self.handout, self.pair, self.preferences)
        rooms += (self.reviewing, self.schools, self.trainer)
        for failed in (*wrong, *(room.failed for room in rooms)):
            failed.connect(status_bar.complain)
        for mended in (records.mended, self.filing.mended):
            mended.connect(status_bar.withdraw)

    # Opening

    def open_path(self, path: Path) -> None:
        """Open a clip or a swing file in the background."""
        self.files.open_path(path)

    def open_several(self, paths: Sequence[Path]) -> None:
        """Open the first of several clips, or of a folder's; all of them stand on the rack."""
        self.files.open_several(paths)

    def _open_lesson(self, path: Path) -> None:
        """Open a swing of the Book on the Bench."""
        self.go_to(self.bench)
        self.open_path(path)

    def open_demo(self) -> None:
        """Open the demo lesson; for the first time with a guide."""
        self.guide.offer()
        self.opener.open_demo()

    def undo(self) -> None:
        """Take back the last step of the place on show."""
        self.place.undo()

    def redo(self) -> None:
        self.place.redo()

    def _save(self) -> None:
        if not self.on_desk.autosave.dirty:
            self.status_bar.tell(tr("All is saved already"))
        self.on_desk.save()

    def _take_dropped(self, files: Sequence[Path]) -> None:
        """Open what was dropped; on a student's page it is theirs."""
        golfer = self.book.student_name if self.place is self.book else ""
        if self.book.student_page.which is Which.DEMO:
            # Nobody's own clip is of somebody made up.
            golfer = ""
        self.go_to(self.bench)
        self.files.open_several(files, golfer)

    def _leave(self) -> None:
        self._leaving = True
        self.close()

    # Telling

    def _refresh(self) -> None:
        self._refresh_title()
        self._hint()
        self.menus.allow(swing=self.on_desk.store is not None)
        self._refresh_undo()
        self._refresh_subjects()

    def _refresh_subjects(self) -> None:
        """Say in the menu whom an action of the Book means, and on every place whether it is the demo."""
        which = self.book.student_page.which if self.place is self.book else self.practice.record.which
        self.frame.demo.setVisible(which is Which.DEMO)
        self.menus.say_subjects(self.book.subjects.titles())

    def _refresh_title(self) -> None:
        path, golfer = self.on_desk.path, self.on_desk.swing.golfer or tr("No name yet")
        named = (shown(golfer), shown(path.name.removesuffix(SUFFIX))) if path is not None else ("", "")
        self.frame.show_title(*named)

    def _refresh_undo(self) -> None:
        self.menus.say_steps(self.place.steps())

    def _hint(self) -> None:
        self.status_bar.hint(self.place.hints())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.actions_by_key:
            self._refresh_title()
        for panel in self.findChildren(Panel):
            if panel.isVisible():
                panel.place()

    # The window itself

    def _start_again(self) -> None:
        self.again = True
        if not self.close():
            self.again = False

    def _restore(self) -> None:
        geometry = self._settings.value("geometry")
        if geometry:
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)
        self.setWindowTitle("Kneel")
        self.preferences.take_up()
        self.files.watch_again()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.reviewing.close_down(CLOSING_S)
        self.files.close_down()
        self.bench.player.pause()
        self.opener.stop()
        if self.bench.student.on:
            self.bench.student.show(False)
        self.takes.close()
        for swing in (self.pair.other, self.on_desk):
            if not swing.close(losing=self._leaving):
                event.ignore()
                self.files.cannot_keep(swing)
                return
        for place in self.places:
            place.close_down()
        self.filing.close_down()
        self._context.beside.end()
        self.house.close_down()
        # What was deleted is gone for good once nobody can take it back; nobody has to watch that.
        self.hide()
        records = self._context.records
        records.close()
        leave_house(records.books, records.deleted, lambda words: forget_everywhere(self._settings, words))
        records.books.close()
        self._settings.setValue("geometry", self.saveGeometry())
        super().closeEvent(event)
