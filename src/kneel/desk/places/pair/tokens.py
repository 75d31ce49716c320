"""What two swings are shown by, a token each: which two, in step by what, on what scale, in which way."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from kneel.book.repository.search_text import same_golfer
from kneel.desk.places.pair.clock import PairClock
from kneel.desk.places.pair.laying import Laying
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.token import Token, TokenRow
from kneel.disk import shown
from kneel.documents.swing_file import SUFFIX
from kneel.references.card import SIMULATED, Card

CAPTIONS = {
    "beside": "Beside",
    "here": "On the desk",
    "step": "In step by",
    "scale": "Same scale by",
    "at": "Held together at",
    "way": "Shown",
}


class PairTokens(TokenRow):
    """Says how two swings are shown; each of them does what ``acts`` has for it."""

    def __init__(self, look: Look, acts: Mapping[str, Callable[[], object]]) -> None:
        super().__init__()
        for key, caption in CAPTIONS.items():
            token = Token(look, tr(caption))
            token.clicked.connect(lambda _=False, act=acts[key]: act())
            self.put(key, token)

    def say(
        self, on_desk: OpenSwing, other: OpenSwing, clock: PairClock, laying: Laying, card: Card | None
    ) -> None:
        """Say what is shown now; ``card`` is that of a reference beside."""
        both = (other, on_desk)
        two = other.path is not None and not same_golfer(*(one.swing.golfer for one in both))
        mirrored = tr("mirrored") if laying.now.mirrored else ""
        self._say_swing("beside", other, two_golfers=two, more=mirrored)
        if card is not None:
            by = tr("simulated") if card.leave == SIMULATED else tr("by leave of %s") % shown(card.leave)
            self._put("beside", shown(card.title), " · ".join(part for part in (by, mirrored) if part))
        self._say_swing("here", on_desk, two_golfers=two and card is None)
        moment = laying.pictures[0].moment
        if moment is not None:
            self._put("beside", *moment_words(on_desk, moment))
        step = clock.step
        by = tr("nothing yet")
        if step is not None:
            by = several(len(step.checkpoints), "one checkpoint", "%d checkpoints")
        error = "" if step is None else f"± {1000 * step.typical_s:.0f} ms"
        if moment is not None:
            by, error = tr("one swing"), ""
        if clock.linked is not None:
            by, error = tr("one clock"), f"± {1000 * clock.linked.clock.sigma_s:.1f} ms"
        self._put("step", tr("held") if clock.held else by, error)
        laid = laying.now
        told = laid.lacking or laid.by
        self.tokens["scale"].show_value(
            tr(told) if told else tr("nothing yet"), "", guessed=bool(laid.lacking)
        )
        self._put("at", tr(laying.held_at.value))
        self._put("way", tr(laying.both.way.value))

    def _say_swing(self, key: str, swing: OpenSwing, *, two_golfers: bool, more: str = "") -> None:
        name, day = swing_words(swing)
        golfer = shown(swing.swing.golfer) if two_golfers else ""
        self._put(key, name, " · ".join(part for part in (golfer, day, more) if part))

    def _put(self, key: str, value: str, remark: str = "") -> None:
        self.tokens[key].show_value(value, remark, guessed=False)


def swing_words(swing: OpenSwing) -> tuple[str, str]:
    """A swing by its file, and the folder of its day."""
    path = swing.path
    if path is None:
        return tr("choose …"), ""
    return shown(path.name.removesuffix(SUFFIX)), shown(path.parent.name)


def moment_words(swing: OpenSwing, frame: int) -> tuple[str, str]:
    """A moment of the swing on the desk: that, and which it is."""
    points = swing.analysis.checkpoints.items() if swing.analysis is not None else ()
    names = [name for name, point in points if point.shown == frame]
    where = tr(checkpoint_title(names[0])).lower() if names else tr("frame %d") % (swing.first + frame)
    return tr("this swing"), where
