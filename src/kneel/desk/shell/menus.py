"""The menus: every action of the table with its keys where they belong, and what each says and ticks now."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenuBar

from kneel.desk.places.place import Handlers, Place
from kneel.desk.shell.actions import ACTIONS, MENUS, TITLES, Action, Reach
from kneel.desk.widgets.language import tr


class Menus:
    """Builds the actions of the window and of all places; ``ticks`` tells which are on."""

    def __init__(
        self,
        window: QMainWindow,
        bar: QMenuBar,
        places: Sequence[Place],
        own: Handlers,
        actions: dict[str, QAction],
        ticks: Callable[[], Mapping[str, bool]],
    ) -> None:
        self._window, self._ticks, self.actions = window, ticks, actions
        handlers, owners = own, dict[str, Place]()
        for place in places:
            theirs = place.handlers()
            handlers = handlers | theirs
            owners |= dict.fromkeys(theirs, place)
        for name in MENUS:
            menu = bar.addMenu(tr(name))
            if menu is None:
                continue
            menu.aboutToShow.connect(self.tick)
            group = 0
            for entry in (a for a in ACTIONS if a.menu == name):
                if entry.group != group:
                    menu.addSeparator()
                    group = entry.group
                action = QAction(tr(entry.title), window)
                action.setShortcuts([QKeySequence(k) for k in entry.keys])
                action.triggered.connect(lambda _=False, deed=handlers[entry.key]: deed())
                self._reach(entry, action, owners.get(entry.key, places[0]))
                for place in places:
                    if entry.key in place.borrows():
                        self._reach(entry, action, place)
                menu.addAction(action)
                self.actions[entry.key] = action
        for key in ticks():
            self.actions[key].setCheckable(True)

    def tick(self) -> None:
        """Tick what is on."""
        for key, on in self._ticks().items():
            self.actions[key].setChecked(on)

    def _reach(self, entry: Action, action: QAction, owner: Place) -> None:
        """Let an action's keys hold where they belong."""
        context = Qt.ShortcutContext
        if entry.reach is Reach.WINDOW:
            self._window.addAction(action)
            return
        if entry.reach is Reach.PLACE:
            action.setShortcutContext(context.WidgetWithChildrenShortcut)
            owner.addAction(action)
            return
        action.setShortcutContext(context.WidgetShortcut)
        for part in owner.picture_parts():
            part.addAction(action)

    def allow(self, *, swing: bool) -> None:
        """Let be done what can be; much needs an open swing."""
        for entry in ACTIONS:
            self.actions[entry.key].setEnabled(swing or not entry.needs_swing)

    def say_steps(self, steps: tuple[str | None, str | None]) -> None:
        """Say what can be taken back in the place on show."""
        for key, what in zip(("undo", "redo"), steps, strict=True):
            action = self.actions[key]
            action.setEnabled(what is not None)
            action.setText(f"{tr(key.title())} {what.lower()}" if what else tr(key.title()))

    def say_subjects(self, titles: Mapping[str, str | None]) -> None:
        """Say whom an action of the Book means; None where there is nobody."""
        for key, title in titles.items():
            action = self.actions[key]
            action.setEnabled(title is not None)
            action.setText((title or TITLES[key]).replace("&", "&&"))
