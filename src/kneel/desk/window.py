"""The window: a frame that places the Bench, the menus and the line at the foot."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, QThreadPool, QTime
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenuBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from kneel.demo.place import demo_lesson
from kneel.desk.actions import ACTIONS
from kneel.desk.bench import Bench
from kneel.desk.commands import Commands
from kneel.desk.help import show_about, show_care, show_crib
from kneel.desk.opening import CLIP_SUFFIXES, Opened, open_swing
from kneel.desk.player import Player
from kneel.desk.session import Session
from kneel.desk.splitting import split, worth_splitting
from kneel.desk.tasks import Task
from kneel.desk.theme import Look
from kneel.desk.words import tr

MENUS = ("Lesson", "Swing", "Points", "Look", "Help")


class Window(QMainWindow):
    """Places the parts and hands actions on; holds no numbers of its own."""

    def __init__(self, look: Look, settings: QSettings) -> None:
        super().__init__()
        self._look, self._settings = look, settings
        self.session = Session()
        self.player = Player(self.session)
        self.bench = Bench(self.session, look)
        self._pool = QThreadPool(self)
        self._opening: Task | None = None
        self._splitting: Task | None = None
        self._filling = ""
        self.actions_by_key: dict[str, QAction] = {}
        self.setAcceptDrops(True)
        self.setMinimumSize(1000, 640)
        self._build()
        self._make_actions()
        self._connect()
        self._restore()
        self._refresh()

    # Building

    def _build(self) -> None:
        self.menus = QMenuBar()
        self._title = QLabel()
        self._title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._undo_words = QLabel()
        self._undo_words.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        top = QWidget()
        grid = QGridLayout(top)
        grid.setContentsMargins(8, 2, 14, 2)
        for column, widget in enumerate((self.menus, self._title, self._undo_words)):
            grid.addWidget(widget, 0, column)
            grid.setColumnStretch(column, 1)
        self._hints = QLabel()
        self._message = QLabel()
        self._message.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._stop = QPushButton(tr("Stop"))
        self._stop.setAccessibleName(tr("Stop the work in the background"))
        self._stop.setFixedHeight(22)
        self._stop.setStyleSheet("padding: 1px 10px;")
        self._stop.clicked.connect(self._stop_work)
        self._stop.hide()
        foot = QWidget()
        row = QHBoxLayout(foot)
        row.setContentsMargins(14, 0, 14, 6)
        row.addWidget(self._hints)
        row.addStretch(1)
        row.addWidget(self._message)
        row.addWidget(self._stop)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(top)
        column.addWidget(self.bench, 1)
        column.addWidget(foot)
        self.setCentralWidget(centre)

    def _make_actions(self) -> None:
        deeds = Commands(self.session, self.bench, self.player).table()
        deeds |= {
            "open": self.browse,
            "demo": self.open_demo,
            "quit": self.close,
            "light": self._switch_look,
            "crib": lambda: show_crib(self),
            "care": lambda: show_care(self),
            "about": lambda: show_about(self),
        }
        for name in MENUS:
            menu = self.menus.addMenu(tr(name))
            group = 0
            for entry in (a for a in ACTIONS if a.menu == name):
                if entry.group != group and menu is not None:
                    menu.addSeparator()
                    group = entry.group
                action = QAction(tr(entry.title), self)
                action.setShortcuts([QKeySequence(k) for k in entry.keys])
                action.triggered.connect(lambda _=False, deed=deeds[entry.key]: deed())
                self.addAction(action)
                if menu is not None:
                    menu.addAction(action)
                self.actions_by_key[entry.key] = action

    def _connect(self) -> None:
        session = self.session
        session.opened.connect(self._on_opened)
        session.changed.connect(self._refresh)
        session.failed.connect(self.tell)
        session.saved.connect(self._on_saved)
        session.filling.connect(self._on_filling)
        session.following.progressed.connect(self._on_following)
        session.looking.progressed.connect(self._on_looking)
        self.player.changed.connect(self._refresh)
        self.bench.rack.wanted.connect(self.open_path)
        self.bench.rack.browse.connect(self.browse)
        self._look.changed.connect(self._refresh)

    # Opening

    def browse(self) -> None:
        """Ask for a clip or a swing file."""
        kinds = " ".join(f"*{suffix}" for suffix in CLIP_SUFFIXES)
        folder = str(self.session.document.parent) if self.session.document else str(Path.home())
        name, _ = QFileDialog.getOpenFileName(
            self,
            tr("Open a clip"),
            folder,
            f"{tr('Clips and swings')} ({kinds} *.swing.json);;{tr('All')} (*)",
        )
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Open a clip or a swing file in the background."""
        self.tell(tr("Opening %s …") % path.name)
        self._open(lambda: path)

    def open_demo(self) -> None:
        """Open the demo lesson, copied on first use."""
        self._open(demo_lesson)

    def _open(self, find: Callable[[], Path]) -> None:
        """Open what ``find`` gives, in a worker thread; an opening under way is given up."""
        if self._opening is not None:
            self._opening.stop()
        self._opening = Task(lambda _: open_swing(find(), self.session.callbacks))
        self._opening.done.connect(self._take)
        self._opening.failed.connect(self._failed_to_open)
        self._opening.start(self._pool)

    def _take(self, opened: Opened) -> None:
        self._opening = None
        self.session.take(opened)
        opened.store.start(self.session.first + self.session.frame)
        self._settings.setValue("last", str(opened.document))
        info, swing = opened.store.info, self.session.swing
        length = float(self.session.times_s[-1]) if self.session.frames else 0.0
        if worth_splitting(info.path, swing, length):
            self._splitting = Task(lambda task: split(task, info.path, swing))
            self._splitting.progressed.connect(self._on_splitting)
            self._splitting.done.connect(self._take_split)
            self._splitting.start(self._pool)

    def _on_splitting(self, done: int, total: int) -> None:
        self._stop.show()
        self.tell(tr("looking for swings, %d %%") % (100 * done // max(total, 1)))

    def _take_split(self, documents: list[Path]) -> None:
        """Put the swings of a long clip on the rack and open the first, if nothing was marked meanwhile."""
        self._splitting = None
        self._stop.hide()
        self.tell(tr("%d swings found in this clip") % len(documents) if documents else "")
        self.bench.rack.refresh()
        if documents and not self.session.swing.marks:
            self.open_path(documents[0])

    def _stop_work(self) -> None:
        """Give up what runs in the background; what is known stays."""
        if self._splitting is not None:
            self._splitting.stop()
            self._splitting = None
        self.session.stop_gathering()
        self._stop.hide()
        self.tell("")

    def _failed_to_open(self, sentence: str) -> None:
        self._opening = None
        self.tell(sentence)

    # Telling

    def tell(self, sentence: str) -> None:
        """Say something at the foot of the window."""
        self._message.setText(sentence)
        self._message.setToolTip(sentence)

    def _on_opened(self) -> None:
        self.tell("")
        store = self.session.store
        if store is not None and store.info.warnings:
            self.tell(store.info.warnings[0])
        self._refresh()

    @property
    def _busy(self) -> bool:
        """Whether the foot of the window tells of work under way."""
        return self.session.following.busy or self.session.looking.busy

    def _on_saved(self) -> None:
        if not self._busy:
            self.tell(tr("saved %s") % QTime.currentTime().toString("HH:mm"))

    def _on_filling(self, done: int, wanted: int) -> None:
        if self._busy or self._message.text() not in ("", self._filling):
            # What has been said, an error above all, is not wiped by it.
            return
        self._filling = ""
        if done < wanted:
            self._filling = tr("reading the clip, %d %%") % (100 * done // max(wanted, 1))
        self.tell(self._filling)

    def _on_following(self, done: int, total: int) -> None:
        self._stop.setVisible(total > 0)
        self.tell(tr("following the marks, %d %%") % (100 * done // total) if total else "")

    def _on_looking(self, done: int, total: int) -> None:
        self._stop.setVisible(total > 0)
        self.tell(tr("looking for the joints, %d %%") % (100 * done // total) if total else "")

    def _refresh(self) -> None:
        session = self.session
        c = self._look.colours
        document = session.document
        words = ""
        if document is not None:
            golfer = session.swing.golfer or document.name.removesuffix(".swing.json")
            words = f"{golfer} · {tr(session.swing.club.value)}"
        self._title.setText(words)
        self._title.setStyleSheet(f"color: {c.secondary};")
        self._message.setStyleSheet(f"color: {c.secondary};")
        speeds = {1.0: "1", 0.5: "½", 0.25: "¼", 0.125: "⅛"}
        state = tr("pause") if self.player.playing else tr("play")
        self._hints.setText(
            tr("← → frame    1–9 checkpoint    space %s %s    M mark    P pin    F1 all keys")
            % (state, speeds[self.player.speed])
        )
        self._hints.setStyleSheet(f"color: {c.faint}; font-size: 11.5px;")
        for entry in ACTIONS:
            self.actions_by_key[entry.key].setEnabled(not entry.needs_swing or session.store is not None)
        for key, label in (("undo", session.history.undo_label), ("redo", session.history.redo_label)):
            action = self.actions_by_key[key]
            action.setEnabled(label is not None)
            action.setText(f"{tr(key.title())} {label.lower()}" if label else tr(key.title()))

    # The window itself

    def _switch_look(self) -> None:
        self._look.choose(dark=not self._look.colours.dark)
        self._settings.setValue("dark", self._look.colours.dark)

    def _restore(self) -> None:
        geometry, splitter = self._settings.value("geometry"), self._settings.value("splitter")
        if geometry:
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)
        if splitter:
            self.bench.splitter.restoreState(splitter)
        self.setWindowTitle("Kneel")

    def reopen_last(self) -> None:
        """Open what was open last, if it is still there."""
        last = self._settings.value("last")
        if last and Path(str(last)).exists():
            self.open_path(Path(str(last)))

    def closeEvent(self, event: QCloseEvent) -> None:
        for task in (self._opening, self._splitting):
            if task is not None:
                task.stop()
        self._pool.waitForDone()
        self.player.pause()
        self.session.close()
        self.bench.rack.close_down()
        self._settings.setValue("geometry", self.saveGeometry())
        self._settings.setValue("splitter", self.bench.splitter.saveState())
        super().closeEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        files = [u.toLocalFile() for u in data.urls()] if data is not None else []
        if files and files[0]:
            self.open_path(Path(files[0]))
            event.acceptProposedAction()
