"""The rack: a list of the lesson's swings. A lesson is a folder, and its student a name in it."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from PyQt6.QtCore import (
    QEvent,
    QModelIndex,
    QPoint,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QListView, QSizePolicy, QVBoxLayout, QWidget

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.bench.rack.card import ROW, CardPainter
from kneel.desk.places.bench.rack.drop import DropHere
from kneel.desk.places.bench.rack.entries import RackEntry, entries_of
from kneel.desk.places.bench.rack.folder_list import FolderList
from kneel.desk.places.bench.rack.model import Rows
from kneel.desk.places.bench.rack.others import OtherSwings
from kneel.desk.places.bench.rack.rows import Card, Heading, Others, Row, SetRow, TakenOff, arranged
from kneel.desk.places.bench.rack.sets import glance_of
from kneel.desk.places.bench.rack.thumbs import Thumbs
from kneel.desk.places.bench.rack.watching import Watching
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.intake import filmed_near, write_down
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.disk import shown
from kneel.documents.glance_file import Glance
from kneel.model import Swing

NARROW, UPRIGHT = 150, 168


class Rack(QWidget):
    """The swings of the open one's folder. ``wanted`` asks for one to be opened, ``browse`` for more.

    ``read`` carries the documents that were read beside the desk, ``said`` a sentence for the foot of the
    window, ``told`` what the swings of the student show together. ``arranged`` tells that other
    swings may lie here, ``turn_wanted`` that the other camera of the open swing is asked for.
    """

    wanted = pyqtSignal(object)
    browse = pyqtSignal()
    said = pyqtSignal(str)
    read = pyqtSignal(object)
    told = pyqtSignal(object)
    arranged = pyqtSignal()
    turn_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, context: Context) -> None:
        super().__init__()
        self._open, self._context = opened, context
        self._look: Look = context.look
        self._finders = Lane(self, newest=True)
        self.entries: list[RackEntry] = []
        self._together: set[Path] = set()
        """Documents of what was dropped together last."""

        self.folder: Path | None = None
        self._list = FolderList(context.settings, lambda: self.folder)
        self.others = OtherSwings(self, opened, context, self._wanted, lambda: self.folder)
        self.others.told.connect(self.told)
        self.others.told.connect(lambda _: self.refresh())
        self.others.came.connect(self._on_read)
        self.others.read.connect(self.read)
        self._opened_names: set[str] = set()
        self._unfolded = False
        self._revealed: Path | None = None
        self._removed: list[str] = []
        self.watching = Watching(self)
        self.watching.came.connect(self._on_came)
        self._written = Lane(self)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.model = Rows()
        self._thumbs = Thumbs(self, self.model.touch)
        self._painter = CardPainter(self._look, self._thumbs)
        self.list = QListView()
        self.model.setParent(self)
        self.list.setModel(self.model)
        self.list.setItemDelegate(self._painter)
        self.list.setFrameShape(QListView.Shape.NoFrame)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setAccessibleName(tr("Swings of this lesson"))
        self.list.setToolTipDuration(4000)
        self.list.viewport().installEventFilter(self)
        self.list.installEventFilter(self)
        self._drop = DropHere(self._look)
        self._drop.clicked.connect(self.browse)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.list, 1)
        column.addWidget(self._drop)
        self.lie(upright=False)
        opened.opened.connect(self._on_opened)
        opened.numbers.renewed.connect(self._on_renewed)
        opened.document.changed.connect(self._on_renewed)
        opened.document.changed.connect(self._removed.clear)
        context.jobs.changed.connect(self._on_jobs)
        self._look.changed.connect(self.model.touch)

    def lie(self, *, upright: bool) -> None:
        """Words beside high thumbnails, or under wide ones."""
        width = UPRIGHT if upright else NARROW
        self._painter.upright, self._painter.width = upright, width - 10
        self.setFixedWidth(width)
        self.list.doItemsLayout()

    def close_down(self) -> None:
        """Give up what is under way."""
        self._thumbs.close_down()
        self.watching.watch(None)
        self._finders.stop()
        self.others.close_down()

    # What lies in the lesson

    def show_folder(self, folder: Path) -> None:
        """Show another lesson."""
        if folder != self.folder:
            self.folder = folder
            self.others.forget()
            self._opened_names.clear()
            self._unfolded = False
            self._removed.clear()
        self.refresh()

    def add(self, clips: Iterable[Path]) -> None:
        """Put clips from elsewhere on this lesson's rack."""
        if self.folder is None:
            return
        also = self._list.also()
        for clip in clips:
            if clip.parent != self.folder and clip not in also:
                also.append(clip)
        self._list.keep_also(also)
        self.refresh()

    def take_together(self, documents: Iterable[Path]) -> None:
        """These came in one drop: they are read together, and named together."""
        self._together = set(documents)

    def with_open(self) -> list[Path]:
        """Other documents that belong to the open swing: of its clip, or of its drop."""
        store, path = self._open.store, self._open.path
        clip = store.info.path if store is not None else None
        of_drop = self.dropped_with_open()
        return [
            one.document
            for one in self.entries
            if one.marked and one.document != path and (one.clip == clip or one.document in of_drop)
        ]

    def refresh(self) -> None:
        """Look again at what lies in the folder."""
        folder = self.folder
        if folder is None:
            return
        also, hidden = self._list.also(), frozenset(self._list.hidden())
        self._finders.start(
            Operation(
                subject=lambda: self.folder,
                work=lambda _: entries_of(folder, also, hidden),
                done=self._show,
            )
        )

    def _show(self, entries: list[RackEntry]) -> None:
        self.entries = entries
        self._arrange()
        if self._revealed != self._open.path:
            self._reveal()
        self.others.soon.start()

    def _arrange(self) -> None:
        opened, store = self._open.path, self._open.store
        golfer, entries, day = "", [], None
        for entry in self.entries:
            of_clip = store is not None and entry.clip == store.info.path and not entry.marked
            of_clip = of_clip and not self._open.document.turned
            if opened is None or store is None or not (entry.document == opened or of_clip):
                entries.append(entry)
                continue
            entries.append(_as_now(entry, opened, self._open))
            golfer, day = entries[-1].golfer, entry.day
        self.model.opened = opened
        sets = self.others.sets
        opened_names = frozenset(self._opened_names)
        found = arranged(
            entries, golfer, sets, opened_names, len(self._list.hidden()), day=day, others=self._unfolded
        )
        stood = self.model.document_at(self.list.currentIndex())
        self.model.show(found)
        self.model.touch()
        if stood is not None and not self.list.currentIndex().isValid():
            self.list.setCurrentIndex(self.model.index_of(stood))
        self.arranged.emit()

    def _on_opened(self) -> None:
        store = self._open.store
        if store is not None:
            inside = self.folder is not None and store.info.path in self._list.also()
            self._revealed = None
            # What is on the desk comes before the others: the process beside it must be free.
            self.others.stop()
            self.show_folder(self.folder if inside and self.folder is not None else store.info.path.parent)
            self._reveal()

    def _reveal(self) -> None:
        """Scroll to the open swing."""
        index = self.model.index_of(self._open.path) if self._open.path is not None else QModelIndex()
        if index.isValid():
            self.list.setCurrentIndex(index)
            self.list.scrollTo(index)
            self._revealed = self._open.path

    def _on_renewed(self) -> None:
        if not self._open.numbers.dragging:
            self.others.keep_glance_soon()
            self._arrange()

    def _on_jobs(self) -> None:
        running = [job for job in self._context.jobs.running if job is not self.others.job]
        looking = next((job for job in running if job.total > 1), None)
        state = tr("reading %d %%") % (100 * looking.done // looking.total) if looking else ""
        if state != self.model.state:
            self.model.state = state
            self.model.touch()

    def _wanted(self) -> tuple[list[Path], list[Path]]:
        """The swings of the student on the desk, and those of them that nobody has opened yet."""
        golfer = self._open.swing.golfer
        mine = {self._open.path, *self.with_open()}
        documents = [
            one.document
            for one in self.entries
            if one.part_of is None
            # Whoever has no name yet is not the same golfer as everybody else without one.
            and (one.document in mine or (one.marked and golfer and one.golfer == golfer))
        ]
        return documents, [one for one in documents if one in self._together]

    def _on_read(self, others: Iterable[Path]) -> None:
        """Another swing was read; others of its clip got documents, and came with the same drop."""
        self._together |= {*others}
        self.refresh()

    # Hands

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if watched is self.list.viewport() and isinstance(event, QMouseEvent):
            if event.type() is QEvent.Type.MouseButtonRelease and event.button() is Qt.MouseButton.LeftButton:
                self._take(self.list.indexAt(event.position().toPoint()), event.position().toPoint())
        elif watched is self.list and isinstance(event, QKeyEvent) and event.type() is QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
                self._take(self.list.currentIndex())
                return True
            if event.key() == Qt.Key.Key_Delete:
                self.remove()
                return True
        return super().eventFilter(watched, event)

    def _take(self, index: QModelIndex, at: QPoint | None = None) -> None:
        if not index.isValid():
            return
        row: Row = index.data(ROW)
        if isinstance(row, Heading):
            self._opened_names ^= {row.golfer}
            self._arrange()
        elif isinstance(row, Others):
            self._unfolded = not self._unfolded
            self._arrange()
        elif isinstance(row, TakenOff):
            self.put_back()
        elif isinstance(row, SetRow):
            if row.told.typical is not None:
                self.wanted.emit(row.told.typical)
        else:
            places = self._painter.places(row, self.list.visualRect(index))
            under = [
                k
                for k, place in enumerate(places)
                if at is not None and place.left() <= at.x() <= place.right()
            ]
            other = [k for k, one in enumerate(row.entries) if one.document != self._open.path]
            # By keyboard a swing seen by two cameras goes from one to the other.
            number = under[0] if under else (other or [0])[0]
            if row.entries[number].target == self._open.path:
                self.turn_wanted.emit()
            else:
                self.wanted.emit(row.entries[number].target)

    def step(self, way: int) -> None:
        """Open the swing before or after the one on the desk, as they stand on the rack."""
        cards = [row for row in self.model.rows if isinstance(row, Card)]
        shown = [one for row in cards for one in row.entries if one.part_of is None]
        here = next((k for k, one in enumerate(shown) if one.document == self._open.path), None)
        if here is not None and 0 <= here + way < len(shown):
            self.wanted.emit(shown[here + way].target)

    def dropped_with_open(self) -> frozenset[Path]:
        """The documents of what was dropped together with the open swing."""
        return frozenset(self._together if self._open.path in self._together else ())

    def like_open(self) -> list[Path]:
        """The documents on the rack of the open swing's golfer, view, club and kind, as they stand there."""
        opened, swing = self._open.path, self._open.swing
        wanted = (swing.golfer.strip(), (swing.view, swing.club, swing.kind))
        found = [
            one.document
            for one in self.entries
            if one.document == opened or (one.marked and (one.golfer.strip(), one.group) == wanted)
        ]
        return found if opened is None or opened in found else [*found, opened]

    def remove(self) -> None:
        """Take the current swing off the rack; its files stay where they are."""
        row = self.list.currentIndex().data(ROW) if self.list.currentIndex().isValid() else None
        if not isinstance(row, Card):
            self.said.emit(tr("No swing is chosen on the rack: click on one first."))
            return
        gone = [str(one.target) for one in row.entries]
        self._removed += gone
        self._list.take_off(gone)
        self.said.emit(tr("Taken off the rack; the files stay. Undo puts it back."))
        self.refresh()

    @property
    def can_put_back(self) -> bool:
        """Whether something was taken off, and nothing done since."""
        return bool(self._removed)

    def put_back(self) -> None:
        """Put everything back that was taken off."""
        self._removed.clear()
        self._list.put_back()
        self.refresh()

    def _on_came(self, clip: Path) -> None:
        """Write a clip down under whom it was filmed, and open it."""
        swing, store = self._open.swing, self._open.store
        golfer, before = swing.golfer, store.info.path if store is not None else None

        def work(_: Task) -> str:
            whose = golfer if before is not None and filmed_near(before, clip) else ""
            write_down([clip], whose)
            return whose

        def done(whose: str) -> None:
            self.refresh()
            words = tr("New clip %s, under %s; Ctrl+G names another") if whose else tr("New clip %s")
            name = shown(clip.name)
            self.said.emit(words % (name, whose) if whose else words % name)
            self.wanted.emit(clip)

        self._written.start(Operation(work=work, done=done))


def _as_now(entry: RackEntry, document: Path, opened: OpenSwing) -> RackEntry:
    """An entry as the swing on the desk stands now."""
    # The card is the first camera's, whichever is worked on.
    swing: Swing = opened.document.whole
    busy = opened.gathering.busy and not opened.analysis
    reading, over = opened.numbers.reading, opened.gathering.looking.over
    known = reading is not None and (reading.told or over)
    glance: Glance | None = glance_of(opened.analysis, reading) if known and not busy else None
    return RackEntry(
        entry.clip,
        document,
        True,
        swing.golfer,
        swing.view,
        swing.club,
        swing.kind,
        swing.capture_rate,
        swing.take.start,
        entry.number,
        swing.school,
        glance,
    )
