"""Which measures run on the ribbon: those chosen, else those that the view asks for."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from kneel.desk.swing import OpenSwing
from kneel.desk.swing.figures import USUAL_LANES
from kneel.desk.timeline.lane import RibbonLane
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.model.sight import MOST_LANES
from kneel.motion.measures import REGISTRY, Domain, lanes_of


class LaneChoice:
    """The lanes of a ribbon, kept in the sight of the open swing."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        self._open, self._look = opened, look
        self._every: dict[str, RibbonLane] = {}

    @property
    def keys(self) -> tuple[str, ...]:
        """The measures shown: those chosen, else those that the swing's view asks for."""
        view = self._open.swing.view
        chosen = tuple(k for k in self._open.sight.lanes if k in REGISTRY and view in REGISTRY[k].views)
        return chosen or tuple(lanes_of(view)[:USUAL_LANES])

    @property
    def lanes(self) -> list[RibbonLane]:
        for key in self.keys:
            if key not in self._every:
                self._every[key] = RibbonLane(self._open, self._look, key)
        return [self._every[key] for key in self.keys]

    def choose(self, parent: QWidget) -> Chooser | None:
        """Let measures be chosen by typing; a choice comes on the ribbon, or goes from it."""
        if self._open.store is None:
            return None
        view, now = self._open.swing.view, self.keys
        entries = [
            m for m in REGISTRY.values() if view in m.views and m.domain is Domain.FRAMES and not m.recorded
        ]
        entries.sort(key=lambda m: (m.key not in now, m.title))
        choices = [
            Choice(tr(m.title), lambda k=m.key: self.toggle(k), detail=tr(m.positive), checked=m.key in now)
            for m in entries
        ]
        chooser = Chooser(parent, self._look, tr("Measures on the ribbon"), choices, typing=True)
        chooser.open()
        return chooser

    def toggle(self, key: str) -> None:
        """Show a measure, or no longer; of more than four the one that was there longest goes."""
        now = self.keys
        new = tuple(k for k in now if k != key) if key in now else (*now, key)[-MOST_LANES:]
        if new:
            self._open.look_at(lanes=new)
