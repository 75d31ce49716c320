"""The menus: every action of the table with its keys where they belong, and what each says and ticks now."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenu, QMenuBar

from kneel.desk.places.place import Handlers, Place
from kneel.desk.shell.actions import ACTIONS, MENUS, TITLES, Action, Reach
from kneel.desk.widgets.language import tr


class Menus:
    """Builds the actions of the window and of all places; ``ticks`` tells which are on.

    An action that several places have a deed for is done by the one on show, else by the first of them.
    """

    def __init__(
        self,
        window: QMainWindow,
        bar: QMenuBar,
        places: Sequence[Place],
        own: Handlers,
        actions: dict[str, QAction],
        ticks: Callable[[], Mapping[str, bool]],
        on_show: Callable[[], Place],
    ) -> None:
        self._window, self._ticks, self.actions = window, ticks, actions
        self._on_show, self._deeds = on_show, {place: place.handlers() for place in places}
        self._own = own
        for name in MENUS:
            menu = bar.addMenu(tr(name))
            if menu is None:
                continue
            menu.aboutToShow.connect(self.tick)
            group, within = 0, dict[str, QMenu | None]()
            for entry in sorted((a for a in ACTIONS if a.menu == name), key=lambda a: a.group):
                if entry.group != group:
                    menu.addSeparator()
                    group = entry.group
                action = QAction(tr(entry.title), window)
                action.setShortcuts([QKeySequence(k) for k in entry.keys])
                action.triggered.connect(lambda _=False, key=entry.key: self._do(key))
                homes = [p for p in places if entry.key in self._deeds[p] or entry.key in p.borrows()]
                for place in homes or places[:1]:
                    self._reach(entry, action, place)
                self._add(menu, within, entry, action)
                self.actions[entry.key] = action
        for key in ticks():
            self.actions[key].setCheckable(True)

    def _add(self, menu: QMenu, within: dict[str, QMenu | None], entry: Action, action: QAction) -> None:
        """Put an action at the end of a menu, or of the one within it where its like stand."""
        words = entry.under
        if not words:
            menu.addAction(action)
            return
        if words not in within:
            within[words] = menu.addMenu(tr(words.rstrip(": ")))
        inner, rest = within[words], tr(entry.title).removeprefix(words)
        if inner is not None:
            action.setText(rest[:1].upper() + rest[1:])
            inner.addAction(action)

    def _do(self, key: str) -> None:
        here = self._deeds[self._on_show()]
        deeds = (here, self._own, *self._deeds.values())
        next(their[key] for their in deeds if key in their)()

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
