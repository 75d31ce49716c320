"""Following marks through the clip in the background, and keeping what was followed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer

from kneel.desk.operations import Task
from kneel.desk.swing.background import Background
from kneel.evidence import Shelf, Stretch, follow_marks, scale_of, wanted_legs
from kneel.model import CameraPath, Mark, Swing
from kneel.vision import Followed, Leg

SETTLE_MS = 120


class Following(Background):
    """What has been followed so far; it is finished when the marks asked for are all followed."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._shelf: Shelf | None = None
        self._known = Followed()
        self._done: set[Leg] = set()
        self._declined: tuple[Mark, ...] | None = None
        self._stretch = ""
        self._scale: float | None = None
        self._request: tuple[Stretch, tuple[Mark, ...], bool] | None = None
        self._settle = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._settle.timeout.connect(self._start)

    @property
    def busy(self) -> bool:
        return self._task is not None or self._settle.isActive()

    @property
    def camera(self) -> CameraPath | None:
        """How the camera moved, None where it stood still or nobody asked."""
        return self._known.camera

    def begin(self, shelf: Shelf, stretch: Stretch, known: Followed) -> None:
        """A clip is opened of which this much is known already."""
        self._shelf, self._stretch, self._scale = shelf, stretch.name, None
        self._known, self._done, self._declined = known, set(known.legs()), None

    def end(self) -> None:
        """Stop whatever is under way; it ends by itself."""
        self.cancel()
        self._shelf = None

    def cancel(self) -> None:
        """Give up what is under way; what is known stays."""
        self._settle.stop()
        self._request = None
        self._drop()

    def stop(self, swing: Swing) -> None:
        """Give up, and leave these marks alone until others are set."""
        if self.busy:
            self._declined = swing.marks
        self.cancel()

    def again(self) -> None:
        """What was declined may be followed once more."""
        self._declined = None

    def need(self, swing: Swing, stretch: Stretch) -> None:
        """Ask for the marks of ``swing`` to be followed; a moment later work begins."""
        if self._stretch != stretch.name:
            # Steps hold for any rate, but their errors grow with real time.
            self._known, self._done, self._declined = Followed(), set(), None
            self._stretch = stretch.name
        scale = scale_of(swing.marks, stretch)
        if self._scale not in (None, scale):
            # Followed at another scale of the picture they serve until they are followed at this one.
            self._done = set()
        self._scale = scale
        if swing.marks != self._declined:
            self._declined = None
        wanted = set(wanted_legs(swing.marks, stretch))
        self.cancel()
        if wanted - self._done and self._declined is None:
            # Where the joints are looked for, the camera's motion comes with them.
            self._request = (stretch, swing.marks, not swing.looked)
            self._settle.start()

    def followed(self, swing: Swing, stretch: Stretch) -> Followed:
        """What is known of the marks of a swing.

        Where a mark has just been moved, what was followed from its old place
        serves until the new one is followed.
        """
        wanted = set(wanted_legs(swing.marks, stretch))
        lacking = {leg.point for leg in wanted - self._done}
        links = {leg: one for leg, one in self._known.links.items() if leg in wanted or leg.point in lacking}
        spots = {leg: spot for leg, spot in self._known.spots.items() if leg in wanted}
        return Followed(links, spots, self._known.camera)

    def _start(self) -> None:
        request, shelf = self._request, self._shelf
        if request is None or shelf is None:
            return
        stretch, marks, steady = request

        def work(task: Task) -> tuple[Followed, Sequence[Leg]]:
            found = follow_marks(
                stretch,
                marks,
                shelf,
                steady=steady,
                progress=task.progress,
                stopped=task.stopped,
            )
            return found, wanted_legs(marks, stretch)

        self._begin(work)

    def _take(self, answer: tuple[Followed, Sequence[Leg]]) -> None:
        found, wanted = answer
        request, self._request = self._request, None
        if request is not None and not request[2]:
            found = replace(found, camera=self._known.camera)
        self._known, self._done = found, set(wanted)

    def _give_up(self) -> None:
        self._request = None
