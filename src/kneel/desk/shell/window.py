"""The window: a frame round the places. It switches between them, and holds menus, keys and the foot."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, QTime
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QIcon, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QMainWindow,
    QMenuBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.bench import Bench
from kneel.desk.places.bench.layout import Lie
from kneel.desk.places.book import BookPlace, Filing, Telling
from kneel.desk.places.context import Context
from kneel.desk.places.handout import HomePlace
from kneel.desk.places.place import Deeds, Place
from kneel.desk.places.plan import PlanPlace
from kneel.desk.records import Which
from kneel.desk.records.housekeeping import Housekeeping, leave_house
from kneel.desk.records.practice import Practice
from kneel.desk.records.traces import forget_in_log, forget_in_settings
from kneel.desk.shell.actions import ACTIONS, MENUS, TITLES, Action, Reach
from kneel.desk.shell.exception_hook import log_file
from kneel.desk.shell.files import Files
from kneel.desk.shell.guide import Guide
from kneel.desk.shell.help import help_deeds
from kneel.desk.shell.opener import Opener
from kneel.desk.shell.status_bar import Foot
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.theme.size import KEY as SIZE_KEY
from kneel.desk.widgets.theme.size import SIZES, chosen_size
from kneel.desk.widgets.theme.size import TITLES as SIZE_TITLES
from kneel.disk import shown
from kneel.documents.swing_file import SUFFIX
from kneel.practice import drills_in_use, read_drills_anew
from kneel.speech.units import tell_lengths_in

SMALLEST = 840, 520
"""A screen of 1280 by 800 at one and a half times the usual size, px."""

ROOMY, TIGHT = 1180, 960
"""From these widths on there is room for the document's name, and the golfer's, beside menus and tabs."""


class Window(QMainWindow):
    """Switches between places and hands actions on; holds no numbers of its own."""

    def __init__(self, look: Look, settings: QSettings) -> None:
        super().__init__()
        self._look, self._settings = look, settings
        context = self._context = Context(look, settings)
        self.jobs = context.jobs
        self.on_desk = OpenSwing(context.jobs)
        self.on_desk.gathering.looking.beside = context.beside
        self.practice = Practice(self.on_desk, context.records)
        self.bench = Bench(self.on_desk, context, self.practice)
        self.plan = PlanPlace(self.on_desk, context, self.practice)
        self.book = BookPlace(self.on_desk, context, self.practice)
        self.filing = Filing(self.on_desk, context)
        self.telling = Telling(self.on_desk, context, self.practice)
        self.house = Housekeeping(context.records.books, self)
        self.home = HomePlace(self.on_desk, context, self.practice)
        self.places: tuple[Place, ...] = (self.bench, self.plan, self.book, self.home)
        self.foot = Foot(context)
        self.opener = Opener(self.on_desk, context)
        self.files = Files(self, context, self.on_desk, self.opener, self.bench.rack, self.foot)
        self.guide = Guide(self, context, self.bench)
        self._knowledge = Lane(self, newest=True)
        self._leaving = self.again = False
        self._before_alone = Qt.WindowState.WindowNoState
        self.actions_by_key: dict[str, QAction] = {}
        self.setAcceptDrops(True)
        self.setMinimumSize(*SMALLEST)
        self._build()
        self._make_actions()
        self._connect()
        self._restore()
        self._refresh()

    @property
    def player(self):
        """What plays on the Bench."""
        return self.bench.player

    # Building

    def _build(self) -> None:
        self.menus = QMenuBar()
        more = self.menus.findChild(QToolButton, "qt_menubar_ext_button")
        if more is not None:
            # Qt's own picture of it is dark on dark, and says nothing to who cannot see it.
            more.setIcon(QIcon())
            more.setText("»")
            more.setToolTip(tr("More menus"))
            more.setAccessibleName(tr("More menus"))
        self._title = QPushButton()
        self._title.setProperty("role", "tab")
        self._title.setToolTip(tr("Name the student (Ctrl+G)"))
        self._title.setAccessibleName(tr("Name the student"))
        self._title.clicked.connect(self._name_golfer)
        self.demo = Label(tr("Demo"))
        self.demo.setProperty("role", "demo")
        self.demo.setToolTip(tr("Made-up students of the demo; a Book of their own holds them"))
        self._tabs = QWidget()
        tabs = QHBoxLayout(self._tabs)
        tabs.setContentsMargins(0, 0, 0, 0)
        tabs.addStretch(1)
        tabs.addWidget(self.demo, 0, Qt.AlignmentFlag.AlignVCenter)
        self._stack = QStackedWidget()
        self.tabs: list[QPushButton] = []
        for place in self.places:
            self._stack.addWidget(place.widget)
            tab = QPushButton(tr(place.title))
            tab.setProperty("role", "tab")
            tab.setCheckable(True)
            tab.setChecked(place is self.places[0])
            tab.clicked.connect(lambda _=False, p=place: self.go_to(p))
            tabs.addWidget(tab)
            self.tabs.append(tab)
        self._top = QWidget()
        grid = QGridLayout(self._top)
        grid.setContentsMargins(8, 2, 14, 2)
        grid.addWidget(self.menus, 0, 0)
        grid.addWidget(self._title, 0, 1, Qt.AlignmentFlag.AlignCenter)
        grid.addWidget(self._tabs, 0, 2)
        for column, stretch in enumerate((2, 1, 2)):
            grid.setColumnStretch(column, stretch)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self._top)
        column.addWidget(self._stack, 1)
        column.addWidget(self.foot)
        self.setCentralWidget(centre)

    @property
    def place(self) -> Place:
        """The place on show."""
        return self.places[self._stack.currentIndex()]

    def go_to(self, place: Place) -> None:
        """Show another place."""
        if place is not self.place:
            self.place.leave()
            self._stack.setCurrentWidget(place.widget)
            place.enter()
            self.guide.put_by(place is not self.bench)
            self._refresh()
        for tab, other in zip(self.tabs, self.places, strict=True):
            tab.setChecked(other is place)

    def _own_deeds(self) -> Deeds:
        """What the window itself does, whichever place is on show."""
        deeds: Deeds = {
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
            "to_home": lambda: self.go_to(self.home),
            "stop_jobs": self.jobs.stop,
            "read_knowledge": self._read_knowledge,
            "inches": self._switch_inches,
            "light": self._switch_look,
            "text_size": self.choose_size,
        }
        return deeds | help_deeds(self, self._look, self.actions_by_key, self.guide.start)

    def _make_actions(self) -> None:
        deeds, owners = self._own_deeds(), dict[str, Place]()
        for place in self.places:
            own = place.deeds()
            deeds |= own
            owners |= dict.fromkeys(own, place)
        for name in MENUS:
            menu = self.menus.addMenu(tr(name))
            menu.aboutToShow.connect(self._tick)
            group = 0
            for entry in (a for a in ACTIONS if a.menu == name):
                if entry.group != group and menu is not None:
                    menu.addSeparator()
                    group = entry.group
                action = QAction(tr(entry.title), self)
                action.setShortcuts([QKeySequence(k) for k in entry.keys])
                action.triggered.connect(lambda _=False, deed=deeds[entry.key]: deed())
                self._reach(entry, action, owners.get(entry.key, self.places[0]))
                if menu is not None:
                    menu.addAction(action)
                self.actions_by_key[entry.key] = action
        for key in self._ticks():
            self.actions_by_key[key].setCheckable(True)

    def _ticks(self) -> dict[str, bool]:
        """Which of the actions that turn something on and off have it on."""
        bench, swing = self.bench, self.on_desk.swing
        return {
            "plain": bench.stage.plain,
            "trail": bench.stage.trail,
            "layout": bench.lying.lie is Lie.UPRIGHT,
            "student_view": bench.student.on,
            "look": swing.looked and self.on_desk.store is not None,
            "unsure": bench.reading.explain.ask_unsure.isChecked(),
            "watch": bench.rack.watching.folder is not None,
            "show_archived": self.book.ledger.archived,
            "inches": self._settings.value("inches", False, type=bool),
            "light": not self._look.colours.dark,
        }

    def _tick(self) -> None:
        for key, on in self._ticks().items():
            self.actions_by_key[key].setChecked(on)

    def _reach(self, entry: Action, action: QAction, owner: Place) -> None:
        """Let an action's keys hold where they belong."""
        context = Qt.ShortcutContext
        if entry.reach is Reach.WINDOW:
            self.addAction(action)
            return
        if entry.reach is Reach.PLACE:
            action.setShortcutContext(context.WidgetWithChildrenShortcut)
            owner.widget.addAction(action)
            return
        action.setShortcutContext(context.WidgetShortcut)
        for part in owner.picture_parts():
            part.addAction(action)

    def _connect(self) -> None:
        on_desk, opener, bench = self.on_desk, self.opener, self.bench
        on_desk.opened.connect(self._refresh)
        on_desk.document.changed.connect(self._refresh)
        on_desk.failed.connect(self.foot.complain)
        on_desk.document.refused.connect(self.foot.complain)
        on_desk.filling.connect(self._on_filling)
        on_desk.autosave.saved.connect(self._on_saved)
        on_desk.autosave.troubled.connect(self.foot.warn)
        opener.said.connect(self.foot.complain)
        opener.told.connect(self.foot.tell)
        self.files.moved.connect(self._refresh)
        self.files.leaving.connect(self._leave)
        bench.hinted.connect(self._hint)
        bench.demo_wanted.connect(self.open_demo)
        bench.said.connect(self.foot.tell)
        bench.reading.plan_wanted.connect(lambda: self.go_to(self.plan))
        bench.reading.book_wanted.connect(lambda: self.go_to(self.book))
        self.plan.said.connect(self.foot.tell)
        self.plan.name_wanted.connect(bench.name_golfer)
        self.practice.failed.connect(self.foot.complain)
        self.filing.failed.connect(self.foot.complain)
        records = self._context.records
        records.changed.connect(self.practice.record.reload)
        records.failed.connect(self.foot.complain)
        records.said.connect(self.foot.tell)
        records.mended.connect(self.foot.withdraw)
        self.filing.mended.connect(self.foot.withdraw)
        records.stepped.connect(self._refresh_undo)
        self.book.said.connect(self.foot.tell)
        self.book.failed.connect(self.foot.complain)
        self.house.failed.connect(self.foot.complain)
        self.home.said.connect(self.foot.tell)
        self.home.wanted.connect(lambda: self.go_to(self.home))
        self.home.failed.connect(self.foot.complain)
        self.book.stepped.connect(self._refresh_undo)
        self.book.lesson_wanted.connect(self._open_lesson)
        self.book.clip_wanted.connect(self._open_for)
        self.book.subjects.wanted.connect(lambda: self.go_to(self.book))
        self.book.ledger.changed.connect(self._refresh_subjects)
        self.practice.changed.connect(self._refresh_subjects)
        self.practice.changed.connect(self._refresh_undo)
        bench.alone_changed.connect(self._on_alone)
        bench.rack.said.connect(self.foot.tell)
        bench.rack.read.connect(self.filing.file_others)
        self._look.changed.connect(self._refresh)

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

    def _open_for(self, golfer: str) -> None:
        """Open clips of a student whose page is open."""
        if self.files.browse(golfer):
            self.go_to(self.bench)

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
            self.foot.tell(tr("All is saved already"))
        self.on_desk.save()

    def _leave(self) -> None:
        self._leaving = True
        self.close()

    # Telling

    def _on_saved(self) -> None:
        self.foot.pass_on(tr("saved %s") % QTime.currentTime().toString("HH:mm"))

    def _on_filling(self, done: int, wanted: int) -> None:
        reading = tr("reading the clip, %d %%") % (100 * done // max(wanted, 1)) if done < wanted else ""
        self.foot.pass_on(reading)

    def _refresh(self) -> None:
        self._refresh_title()
        self._hint()
        for entry in ACTIONS:
            self.actions_by_key[entry.key].setEnabled(not entry.needs_swing or self.on_desk.store is not None)
        self._refresh_undo()
        self._refresh_subjects()

    def _refresh_subjects(self) -> None:
        """Say in the menu whom an action of the Book means, and on every place whether it is the demo."""
        which = self.book.ledger.which if self.place is self.book else self.practice.record.which
        self.demo.setVisible(which is Which.DEMO)
        for key, title in self.book.subjects.titles().items():
            action = self.actions_by_key[key]
            action.setEnabled(title is not None)
            action.setText((title or TITLES[key]).replace("&", "&&"))

    def _refresh_title(self) -> None:
        """Name golfer and document, or the golfer alone where the menus need the room."""
        on_desk = self.on_desk
        words = ""
        if on_desk.path is not None:
            golfer = on_desk.swing.golfer or tr("No name yet")
            file = on_desk.path.name.removesuffix(SUFFIX)
            words = shown(f"{golfer} · {file}" if self.width() >= ROOMY else golfer)
        self._title.setText(words.replace("&", "&&"))
        self._title.setVisible(bool(words) and self.width() >= TIGHT)

    def _refresh_undo(self) -> None:
        """Say what can be taken back in the place on show."""
        for key, what in zip(("undo", "redo"), self.place.steps(), strict=True):
            action = self.actions_by_key[key]
            action.setEnabled(what is not None)
            action.setText(f"{tr(key.title())} {what.lower()}" if what else tr(key.title()))

    def _name_golfer(self) -> None:
        self.actions_by_key["name_golfer"].trigger()

    def _hint(self) -> None:
        self.foot.hint(self.place.hints())

    def _on_alone(self, alone: bool) -> None:
        """The picture alone, or the whole desk again."""
        self._top.setVisible(not alone)
        self.foot.setVisible(not alone)
        if alone:
            self._before_alone = self.windowState()
            self.setWindowState(self._before_alone | Qt.WindowState.WindowFullScreen)
        else:
            self.setWindowState(self._before_alone)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.actions_by_key:
            self._refresh_title()
        for panel in self.findChildren(Panel):
            if panel.isVisible():
                panel.place()

    # The window itself

    def _switch_look(self) -> None:
        self._look.choose(dark=not self._look.colours.dark)
        self._settings.setValue("dark", self._look.colours.dark)

    def choose_size(self) -> Chooser:
        """Let text and all that stands beside it be larger or smaller, from the next start or at once."""
        now = chosen_size(self._settings)

        def take(size: float) -> None:
            if size != now:
                self._settings.setValue(SIZE_KEY, size)
                again = Choice(tr("Start Kneel anew now"), self._start_again)
                later = Choice(tr("From the next start on"), lambda: None)
                title = tr("The new size holds from the next start. All is saved.")
                Chooser(self, self._look, title, [again, later], typing=False).open(None)

        choices = [
            Choice(tr(title), lambda s=size: take(s), detail=f"{100 * size:.0f} %", checked=size == now)
            for size, title in zip(SIZES, SIZE_TITLES, strict=True)
        ]
        chooser = Chooser(self, self._look, tr("Text size"), choices, typing=False)
        chooser.open(None)
        return chooser

    def _start_again(self) -> None:
        self.again = True
        if not self.close():
            self.again = False

    def _switch_inches(self) -> None:
        inches = not self._settings.value("inches", False, type=bool)
        self._settings.setValue("inches", inches)
        self._tell_lengths(inches)
        self.foot.tell(tr("Lengths are told in inches") if inches else tr("Lengths are told in centimetres"))

    def _read_knowledge(self) -> None:
        """Take up what an instructor has written into files of their own, here and beside the desk."""
        beside = self._context.beside

        def read(_: Task) -> str:
            beside.close()
            return read_drills_anew()

        def done(trouble: str) -> None:
            self.practice.offer.drills = drills_in_use()
            self.on_desk.judge_anew()
            self.practice.changed.emit()
            if trouble:
                self.foot.complain(trouble)
            else:
                self.foot.tell(tr("Read anew, and judged by it."))

        self._knowledge.start(Operation(work=read, done=done))

    def _tell_lengths(self, inches: bool) -> None:
        """Have lengths said in inches or centimetres wherever they stand; nothing that is kept changes."""
        tell_lengths_in("in" if inches else "cm")
        for told_anew in (self._look.changed, self.on_desk.numbers.renewed, self.book.ledger.changed):
            told_anew.emit()

    def _restore(self) -> None:
        geometry = self._settings.value("geometry")
        if geometry:
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)
        self.setWindowTitle("Kneel")
        self._tell_lengths(self._settings.value("inches", False, type=bool))

    def closeEvent(self, event: QCloseEvent) -> None:
        self.bench.player.pause()
        self.opener.stop()
        if self.bench.student.on:
            self.bench.student.show(False)
        if not self.on_desk.close(losing=self._leaving):
            event.ignore()
            self.files.cannot_keep()
            return
        self.bench.close_down()
        self.book.close_down()
        self.home.close_down()
        self.filing.close_down()
        self._context.beside.end()
        self.house.close_down()
        # What was deleted is gone for good once nobody can take it back; nobody has to watch that.
        self.hide()
        records = self._context.records
        records.close()
        leave_house(records.books, records.deleted, self._forget_traces)
        records.books.close()
        self._settings.setValue("geometry", self.saveGeometry())
        super().closeEvent(event)

    def _forget_traces(self, words: Sequence[str]) -> None:
        forget_in_log(log_file(), words)
        forget_in_settings(self._settings, words)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        files = [Path(u.toLocalFile()) for u in data.urls() if u.toLocalFile()] if data is not None else []
        if files:
            golfer = self.book.student_name if self.place is self.book else ""
            if self.book.ledger.which is Which.DEMO:
                # Nobody's own clip is of somebody made up.
                golfer = ""
            self.go_to(self.bench)
            self.files.open_several(files, golfer)
            event.acceptProposedAction()
