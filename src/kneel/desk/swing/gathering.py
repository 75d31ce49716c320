"""Evidence on its way: marks being followed and joints being looked for, beside the desk."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Jobs
from kneel.desk.swing.following import Following
from kneel.desk.swing.looking import Looking
from kneel.desk.swing.opening import Opened
from kneel.desk.widgets.language import tr
from kneel.evidence import Evidence, Stretch
from kneel.footage.hearing import in_real_time
from kneel.model import CameraPath, Swing
from kneel.vision import Followed, Looked


class Gathering(QObject):
    """What is known of the open swing besides its document; ``found`` tells that there is more."""

    found = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, parent: QObject, jobs: Jobs) -> None:
        super().__init__(parent)
        self.following, self.looking = Following(self), Looking(self)
        self._opened: Opened | None = None
        self._asked: tuple[Swing, Stretch] | None = None
        self._held = False
        for work, words in (
            (self.following, tr("following the marks")),
            (self.looking, tr("looking for the joints")),
        ):
            work.finished.connect(self.found)
            work.failed.connect(self.failed)
            jobs.watch(work, words, self.stop)

    @property
    def busy(self) -> bool:
        return self._held or self.following.busy or self.looking.busy

    @property
    def awaited(self) -> bool:
        """Whether the joints are looked for, or are about to be, and nothing of them is known yet."""
        if self._opened is None or self.looking.over or self.looking.found.sightings:
            return False
        return self._asked[0].looked if self._asked is not None else self._opened.swing.looked

    def begin(self, opened: Opened, stretch: Stretch) -> None:
        """Take up what is known of a swing just opened."""
        self._opened, self._held = opened, False
        self.following.begin(opened.shelf, stretch, opened.followed)
        self.looking.begin(opened.shelf, opened.swing, stretch, opened.looked)

    def end(self) -> None:
        """Give up, forget and let go."""
        self.following.end()
        self.looking.end()
        self._opened = self._asked = None
        self._held = False

    def hold(self) -> None:
        """Look for no joints: which frames are the swing's is being found out."""
        self._held = True
        self.looking.cancel()

    def release(self) -> None:
        """Go on with what was asked."""
        if self._held:
            self._held = False
            if self._asked is not None:
                self.ask(*self._asked)

    def ask(self, swing: Swing, stretch: Stretch) -> None:
        """Have the marks followed, and the joints looked for where the swing says so."""
        self._asked = swing, stretch
        if swing.looked and not self._held:
            self.looking.need(swing, stretch)
        elif not swing.looked:
            self.looking.cancel()
        self.following.need(swing, stretch)

    def again(self) -> None:
        """What was stopped may begin once more: it was asked for in so many words."""
        self.looking.again()
        self.following.again()

    def stop(self) -> None:
        """Give up what is under way; it does not begin again by itself."""
        if self._asked is not None:
            self.following.stop(self._asked[0])
        self.looking.stop()
        # What was awaited is not any more.
        self.found.emit()

    def all_found(self, swing: Swing) -> tuple[Looked | None, Followed]:
        """What was found so far, to go on from elsewhere; None for a looking that is not over."""
        stretch = self._asked[1] if self._asked else None
        followed = self.following.followed(swing, stretch) if stretch is not None else Followed()
        return self.looking.known, followed

    def looked(self, swing: Swing) -> Looked:
        """What was found by itself and counts in a swing."""
        return self.looking.found if swing.looked else Looked()

    def camera(self, swing: Swing) -> CameraPath | None:
        """How the camera seems to have moved, whether or not that is believed."""
        return self.looking.found.camera if swing.looked else self.following.camera

    def evidence(self, swing: Swing, stretch: Stretch) -> Evidence:
        """All that is known of a swing so far."""
        opened = self._opened
        strikes = in_real_time(opened.strikes, opened.store.info, swing.capture_rate) if opened else ()
        return Evidence(self.looked(swing), self.following.followed(swing, stretch), strikes)
