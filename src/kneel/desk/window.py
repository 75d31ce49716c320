"""The window: a frame round the places. It switches between them, and holds menus, keys and the foot."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, QTime
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QMainWindow,
    QMenuBar,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from kneel.book import recovery
from kneel.book.recovery import Recovered
from kneel.book.swing_file import SUFFIX
from kneel.desk.actions import ACTIONS, MENUS, Action, Reach
from kneel.desk.asking import ask_about_clash, ask_for_clip, ask_to_leave, ask_to_recover
from kneel.desk.bench import Bench
from kneel.desk.context import Context
from kneel.desk.foot import Foot
from kneel.desk.guide import Guide
from kneel.desk.help import help_deeds
from kneel.desk.opener import LAST, Opener
from kneel.desk.opening import Opened
from kneel.desk.panels import Panel
from kneel.desk.places import Deeds, Place
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.disk import shown
from kneel.model import CLIP_SUFFIXES, ClipGoneError, KneelError, Swing


class Window(QMainWindow):
    """Switches between places and hands actions on; holds no numbers of its own."""

    def __init__(self, look: Look, settings: QSettings) -> None:
        super().__init__()
        self._look, self._settings = look, settings
        context = self._context = Context(look, settings)
        self.jobs = context.jobs
        self.on_desk = OpenSwing(context.jobs)
        self.on_desk.gathering.looking.aside = context.aside
        self.bench = Bench(self.on_desk, context)
        self.places: tuple[Place, ...] = (self.bench,)
        self.foot = Foot(context)
        self.opener = Opener(self.on_desk, context)
        self.guide = Guide(self, context, self.bench)
        self._leaving = False
        self.actions_by_key: dict[str, QAction] = {}
        self.setAcceptDrops(True)
        self.setMinimumSize(1000, 640)
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
        self._title = QPushButton()
        self._title.setProperty("role", "tab")
        self._title.setToolTip(tr("Name the golfer (Ctrl+G)"))
        self._title.setAccessibleName(tr("Name the golfer"))
        self._title.clicked.connect(self._name_golfer)
        self._tabs = QWidget()
        tabs = QHBoxLayout(self._tabs)
        tabs.setContentsMargins(0, 0, 0, 0)
        tabs.addStretch(1)
        self._stack = QStackedWidget()
        for place in self.places:
            self._stack.addWidget(place.widget)
            tab = QPushButton(tr(place.title))
            tab.setProperty("role", "tab")
            tab.setCheckable(True)
            tab.setChecked(place is self.places[0])
            tab.clicked.connect(lambda _=False, p=place: self.go_to(p))
            tabs.addWidget(tab)
        # One place alone needs no way to another.
        for tab in self._tabs.findChildren(QPushButton):
            tab.setVisible(len(self.places) > 1)
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
            self._refresh()

    def _own_deeds(self) -> Deeds:
        """What the window itself does, whichever place is on show."""
        deeds: Deeds = {
            "open": self.browse,
            "open_folder": self.browse_folder,
            "watch": self.browse_watched,
            "demo": self.open_demo,
            "save": self.on_desk.save,
            "save_elsewhere": self.save_elsewhere,
            "recover": lambda: self.opener.look_for_left_over(asked=True),
            "quit": self.close,
            "undo": self.undo,
            "redo": self.on_desk.document.redo,
            "stop_jobs": self.jobs.stop,
            "inches": self._switch_inches,
            "light": self._switch_look,
        }
        return deeds | help_deeds(self, self._look, self.actions_by_key, self.guide.start)

    def _make_actions(self) -> None:
        deeds = self._own_deeds()
        for place in self.places:
            deeds |= place.deeds()
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
                self._reach(entry, action)
                if menu is not None:
                    menu.addAction(action)
                self.actions_by_key[entry.key] = action

    def _reach(self, entry: Action, action: QAction) -> None:
        """Let an action's keys hold where they belong."""
        context = Qt.ShortcutContext
        if entry.reach is Reach.WINDOW:
            self.addAction(action)
            return
        owner = next((p for p in self.places if entry.key in p.deeds()), self.places[0])
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
        on_desk.autosave.clashed.connect(self._on_clash)
        on_desk.autosave.moved.connect(self._on_moved)
        self.foot.elsewhere_wanted.connect(self.save_elsewhere)
        opener.opened.connect(self._take)
        opener.split.connect(self._take_split)
        opener.failed.connect(self._on_open_failed)
        opener.said.connect(self.foot.complain)
        opener.left_over.connect(self._on_left_over)
        bench.hinted.connect(self._hint)
        bench.said.connect(self.foot.tell)
        bench.alone_changed.connect(self._on_alone)
        bench.rack.said.connect(self.foot.tell)
        bench.rack.wanted.connect(self.open_path)
        bench.rack.browse.connect(self.browse)
        self._look.changed.connect(self._refresh)

    # Opening

    def browse(self) -> None:
        """Ask for clips or swing files."""
        kinds = " ".join(f"*{suffix}" for suffix in CLIP_SUFFIXES)
        filters = f"{tr('Clips and swings')} ({kinds} *{SUFFIX});;{tr('All')} (*)"
        names, _ = QFileDialog.getOpenFileNames(self, tr("Open clips"), self._folder(), filters)
        self.open_several([Path(name) for name in names])

    def browse_folder(self) -> None:
        """Ask for a lesson's folder."""
        name = QFileDialog.getExistingDirectory(self, tr("Open a lesson’s folder"), self._folder())
        if name:
            self.open_several([Path(name)])

    def browse_watched(self) -> None:
        """Ask for a folder whose new clips are taken by themselves; none ends watching."""
        watching = self.bench.rack.watching
        if watching.folder is not None:
            self.foot.tell(tr("%s is no longer watched") % shown(watching.folder.name))
            watching.watch(None)
            return
        name = QFileDialog.getExistingDirectory(self, tr("Watch a folder for new clips"), self._folder())
        if name:
            self.watch(Path(name))

    def watch(self, folder: Path) -> None:
        """Take new clips of a folder as they come."""
        self.bench.rack.show_folder(folder)
        self.bench.rack.watching.watch(folder)
        words = tr("Watching %s: a new clip is taken when it is whole. The same action ends it.")
        self.foot.tell(words % shown(folder.name))

    def open_demo(self) -> None:
        """Open the demo lesson; for the first time with a guide."""
        self.guide.offer()
        self.opener.open_demo()

    def open_several(self, paths: Sequence[Path]) -> None:
        """Open the first of several clips, or of a folder's; all of them stand on the rack."""
        folders = [path for path in paths if path.is_dir()]
        files = [path for path in paths if not path.is_dir()]
        rack = self.bench.rack
        for folder in folders[:1]:
            clips = sorted(p for p in folder.iterdir() if p.suffix.lower() in CLIP_SUFFIXES and p.is_file())
            rack.show_folder(folder)
            if clips:
                files = [*files, clips[0]]
            else:
                self.foot.complain(tr("There are no clips in %s.") % shown(folder.name))
        if not files:
            return
        if len(files) > 1 or folders:
            if rack.folder is None:
                rack.show_folder(files[0].parent)
            rack.add([p for p in files if p.suffix.lower() in CLIP_SUFFIXES])
        self.open_path(files[0])

    def undo(self) -> None:
        """Take back the last step: of the rack where that was the last thing done, else of the document."""
        if self.bench.rack.can_put_back:
            self.bench.rack.put_back()
        else:
            self.on_desk.document.undo()

    def open_path(self, path: Path) -> None:
        """Open a clip or a swing file in the background."""
        self.foot.tell("")
        self.opener.open(path)

    def _folder(self) -> str:
        return str(self.on_desk.path.parent) if self.on_desk.path else str(Path.home())

    def _take(self, opened: Opened) -> None:
        autosave, before = self.on_desk.autosave, self.on_desk.path
        if autosave.flush() and before == opened.document and autosave.stamp != opened.keeper.stamp:
            # Changed here while it was opened once more: what was read is old.
            opened.let_go()
            self.open_path(opened.document)
            return
        if not self.on_desk.take(opened):
            opened.let_go()
            self._cannot_keep()
            return
        opened.store.start(self.on_desk.first + self.on_desk.cursor.frame)
        self.foot.tell(" ".join((*opened.notes, *opened.store.info.warnings[:1])))

    def _take_split(self, documents: list[Path]) -> None:
        """Put the swings of a long clip on the rack and open the first, if nothing was marked meanwhile."""
        self.bench.rack.refresh()
        if not self.on_desk.swing.marks:
            self.open_path(documents[0])
        self.foot.tell(tr("%d swings found in this clip") % len(documents))

    def _on_open_failed(self, error: KneelError) -> None:
        self.foot.complain(str(error))
        if isinstance(error, ClipGoneError):
            ask_for_clip(self, self._look, str(error), lambda: self._look_for_clip(error.document))

    def _look_for_clip(self, document: Path) -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("Look for the clip"), str(document.parent))
        if name:
            self.opener.open(document, clip=Path(name))

    # Keeping work safe

    def save_elsewhere(self) -> None:
        """Ask for another place for the document, and go on there."""
        path = self.on_desk.path
        start = str(path) if path else self._folder()
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save elsewhere"), start, f"{tr('Swings')} (*{SUFFIX})"
        )
        if name:
            chosen = Path(name)
            if not chosen.name.endswith(SUFFIX):
                chosen = chosen.with_name(chosen.name.removesuffix(".json") + SUFFIX)
            self.on_desk.autosave.save_elsewhere(chosen)

    def _on_clash(self, words: str) -> None:
        autosave, document = self.on_desk.autosave, self.on_desk.document

        def take(theirs: Swing) -> None:
            document.change(tr("Take the other desk’s work"), theirs.given(guessed=theirs.guessed))

        ask_about_clash(
            self, self._look, words, autosave.keep_both, autosave.put_ours, lambda: autosave.take_theirs(take)
        )

    def _on_moved(self) -> None:
        path = self.on_desk.path
        if path is not None:
            self._settings.setValue(LAST, str(path))
            self.foot.tell(tr("goes on in %s") % shown(path.name))
        self.bench.rack.refresh()
        self._refresh()

    def _on_left_over(self, kept: list[Recovered]) -> None:
        names = [f"{one.document.name}: {one.why}" for one in kept]

        def decline() -> None:
            for one in kept:
                recovery.set_aside(one)

        ask_to_recover(self, self._look, names, lambda: self.opener.recover(kept[0]), decline)

    def _cannot_keep(self) -> None:
        def leave() -> None:
            self._leaving = True
            self.close()

        ask_to_leave(self, self._look, self.on_desk.autosave.trouble, self.save_elsewhere, leave)

    # Telling

    def _on_saved(self) -> None:
        self.foot.pass_on(tr("saved %s") % QTime.currentTime().toString("HH:mm"))

    def _on_filling(self, done: int, wanted: int) -> None:
        reading = tr("reading the clip, %d %%") % (100 * done // max(wanted, 1)) if done < wanted else ""
        self.foot.pass_on(reading)

    def _refresh(self) -> None:
        on_desk, history = self.on_desk, self.on_desk.document.history
        words = ""
        if on_desk.path is not None:
            golfer = on_desk.swing.golfer or tr("No name yet")
            words = shown(f"{golfer} · {on_desk.path.name.removesuffix(SUFFIX)}")
        self._title.setText(words.replace("&", "&&"))
        self._title.setVisible(bool(words))
        self._hint()
        for entry in ACTIONS:
            self.actions_by_key[entry.key].setEnabled(not entry.needs_swing or on_desk.store is not None)
        for key, label in (("undo", history.undo_label), ("redo", history.redo_label)):
            action = self.actions_by_key[key]
            put_back = key == "undo" and self.bench.rack.can_put_back
            action.setEnabled(label is not None or put_back)
            what = tr("taking off the rack") if put_back else label
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
            self.showFullScreen()
        else:
            self.showNormal()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        for panel in self.findChildren(Panel):
            if panel.isVisible():
                panel.place()

    # The window itself

    def _switch_look(self) -> None:
        self._look.choose(dark=not self._look.colours.dark)
        self._settings.setValue("dark", self._look.colours.dark)

    def _switch_inches(self) -> None:
        inches = not self._settings.value("inches", False, type=bool)
        self._settings.setValue("inches", inches)
        self.on_desk.tell_in_inches(inches)
        self.foot.tell(tr("Lengths are told in inches") if inches else tr("Lengths are told in centimetres"))

    def _restore(self) -> None:
        geometry = self._settings.value("geometry")
        if geometry:
            self.restoreGeometry(geometry)
        else:
            self.resize(1280, 800)
        self.setWindowTitle("Kneel")
        self.on_desk.tell_in_inches(bool(self._settings.value("inches", False, type=bool)))

    def closeEvent(self, event: QCloseEvent) -> None:
        self.bench.player.pause()
        self.opener.stop()
        if self.bench.student.on:
            self.bench.student.show(False)
        if not self.on_desk.close(losing=self._leaving):
            event.ignore()
            self._cannot_keep()
            return
        self.bench.close_down()
        self._context.aside.close()
        self._settings.setValue("geometry", self.saveGeometry())
        super().closeEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        files = [Path(u.toLocalFile()) for u in data.urls() if u.toLocalFile()] if data is not None else []
        if files:
            self.open_several(files)
            event.acceptProposedAction()
