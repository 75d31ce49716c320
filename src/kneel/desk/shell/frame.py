"""The frame of the window: menus, title and tabs above, the place on show, the status bar under it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QMenuBar,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.places.place import Place
from kneel.desk.shell.status_bar import StatusBar
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label

AROUND = 40
"""What lies around and between menus, title and tabs, px."""

ROOMY, TIGHT = 1340, 1100
"""From these widths on there is room for the document's name, and the golfer's, beside menus and tabs."""


class Frame(QWidget):
    """Lays menus, title, tabs, places and status bar; ``wanted`` asks for a place, ``named`` for a name."""

    wanted = pyqtSignal(object)
    named = pyqtSignal()

    def __init__(self, places: Sequence[Place], status_bar: StatusBar) -> None:
        super().__init__()
        self.places, self.status_bar = tuple(places), status_bar
        self._before_alone = Qt.WindowState.WindowNoState
        self.menus = _menu_bar()
        self.title = QPushButton()
        self.title.setProperty("role", "tab")
        self.title.setToolTip(tr("Name the student (Ctrl+G)"))
        self.title.setAccessibleName(tr("Name the student"))
        self.title.clicked.connect(lambda _=False: self.named.emit())
        self.demo = Label(tr("Demo"))
        self.demo.setProperty("role", "demo")
        self.demo.setToolTip(tr("Made-up students of the demo; a Book of their own holds them"))
        self._stack = QStackedWidget()
        self.tabs: list[QPushButton] = []
        self._top = QWidget()
        grid = self._grid = QGridLayout(self._top)
        grid.setContentsMargins(8, 2, 14, 2)
        grid.addWidget(self.menus, 0, 0)
        grid.addWidget(self.title, 0, 1, Qt.AlignmentFlag.AlignCenter)
        self._tabs = self._tab_row()
        grid.addWidget(self._tabs, 0, 2)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self._top)
        column.addWidget(self._stack, 1)
        column.addWidget(status_bar)

    def _tab_row(self) -> QWidget:
        row = QWidget()
        tabs = QHBoxLayout(row)
        tabs.setContentsMargins(0, 0, 0, 0)
        tabs.setSpacing(2)
        tabs.addStretch(1)
        tabs.addWidget(self.demo, 0, Qt.AlignmentFlag.AlignVCenter)
        for place in self.places:
            self._stack.addWidget(place)
            tab = QPushButton(tr(place.title))
            tab.setProperty("role", "tab")
            tab.setCheckable(True)
            tab.setChecked(place is self.places[0])
            tab.clicked.connect(lambda _=False, p=place: self.wanted.emit(p))
            tabs.addWidget(tab)
            self.tabs.append(tab)
        return row

    @property
    def place(self) -> Place:
        """The place on show."""
        return self.places[self._stack.currentIndex()]

    def show_place(self, place: Place, changed: Callable[[], object]) -> None:
        """Show another place, and have done what hangs on it; the tabs say which it is."""
        if place is not self.place:
            self.place.leave()
            self._stack.setCurrentWidget(place)
            place.enter()
            changed()
        for tab, other in zip(self.tabs, self.places, strict=True):
            tab.setChecked(other is place)

    def show_title(self, golfer: str, document: str) -> None:
        """Name golfer and document, or the golfer alone where the menus need the room."""
        words = f"{golfer} · {document}" if document and self.width() >= ROOMY else golfer
        self.title.setText(words.replace("&", "&&"))
        roomy = self.width() >= TIGHT
        self.title.setVisible(bool(words) and roomy)
        for column, stretch in enumerate((2, 1, 2) if roomy else (1, 0, 0)):
            self._grid.setColumnStretch(column, stretch)
        beside = self._tabs.sizeHint().width() + (self.title.sizeHint().width() if words and roomy else 0)
        menus = self.menus.sizeHint().width()
        self.menus.setMinimumWidth(menus if self.width() - beside - AROUND > menus else 0)

    def alone(self, alone: bool) -> None:
        """The picture alone, or the whole desk again."""
        self._top.setVisible(not alone)
        self.status_bar.setVisible(not alone)
        window = self.window()
        if alone:
            self._before_alone = window.windowState()
            window.setWindowState(self._before_alone | Qt.WindowState.WindowFullScreen)
        else:
            window.setWindowState(self._before_alone)


def _menu_bar() -> QMenuBar:
    menus = QMenuBar()
    # Menus that do not fit open from a button of their own: they may have less room than they would like.
    menus.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    more = menus.findChild(QToolButton, "qt_menubar_ext_button")
    if more is not None:
        # Qt's own picture of it is dark on dark, and says nothing to who cannot see it.
        more.setIcon(QIcon())
        more.setText("»")
        more.setToolTip(tr("More menus"))
        more.setAccessibleName(tr("More menus"))
    return menus
