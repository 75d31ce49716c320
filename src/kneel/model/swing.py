"""The document: one swing, as the instructor knows it.

Everything here was either given by a person or read from the clip. Whatever
can be computed from it (tracks, measures, findings) is computed by pure
functions and never stored.

Pictures are upright, x to the right, y down, and whole numbers fall on the
centres of pixels.
"""

from __future__ import annotations

from typing import Any

import msgspec

from kneel.model.names import Club, Hand, View

MARK_SIGMA_PX = 1.5
"""How far a careful click usually lands from where it was meant (common practice, no source)."""


class _Record(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    pass


class ClipRef(_Record, frozen=True):
    """Where the pictures are. ``path`` is relative to the swing file where that is possible."""

    path: str
    frames: int
    width: int
    height: int
    rate_stored: float
    size_bytes: int = 0


class Mark(_Record, frozen=True):
    """One point placed by hand on one frame, in pixels of the upright picture."""

    point: str
    frame: int
    x: float
    y: float
    sigma: float = MARK_SIGMA_PX


class Near(_Record, frozen=True):
    """A click on the golfer, px, on a frame; None where nobody says on which."""

    x: float
    y: float
    frame: int | None = None


class NoScale(_Record, frozen=True, tag="none"):
    """Lengths are told in stance widths."""


class TypedScale(_Record, frozen=True, tag="typed"):
    """A scale typed in, in cm per pixel in the plane of the ankles."""

    cm_per_px: float
    sigma: float = 0.0


class Stature(_Record, frozen=True, tag="stature"):
    """The golfer's height, from which limb lengths follow by published body proportions.

    ``sigma_cm`` is how unsure the height itself is; a measured one is sure.
    """

    stature_cm: float
    sigma_cm: float = 0.0


class KnownLength(_Record, frozen=True, tag="length"):
    """Two ends of something of known length in the golfer's plane, marked on one frame."""

    frame: int
    ax: float
    ay: float
    bx: float
    by: float
    length_cm: float
    what: str = "stick"
    sigma_px: float = 1.0


ScaleSource = NoScale | TypedScale | Stature | KnownLength


class Swing(_Record, frozen=True):
    """One swing of one golfer in one clip.

    ``guessed`` names the fields whose value the program supposed and nobody
    has confirmed yet. ``span`` is the first and last frame of the clip that
    belong to this swing, None for the whole clip; every other frame number in
    the record counts from the first one of the span. ``pinned`` holds checkpoints set by hand, as frames
    (fractions allowed). ``plumbs`` names what carries a plumb:
    ``trail_hip``, ``pelvis``. ``looked`` is whether the joints are looked for by the body model
    besides the marks by hand, ``steadied`` whether a camera that seems to have
    moved is believed to have.
    """

    clip: ClipRef | None = None
    span: tuple[int, int] | None = None
    golfer: str = ""
    view: View = View.FACE_ON
    hand: Hand = Hand.RIGHT
    club: Club = Club.IRON
    mirrored: bool | None = None
    school: str = "centred"
    capture_rate: float | None = None
    scale: ScaleSource = msgspec.field(default_factory=NoScale)
    marks: tuple[Mark, ...] = ()
    pinned: dict[str, float] = msgspec.field(default_factory=dict)
    plumbs: tuple[str, ...] = ("trail_hip", "pelvis")
    guessed: tuple[str, ...] = ()
    looked: bool = False
    steadied: bool = True
    frame: int = 0

    def reach(self, frames: int) -> tuple[int, int]:
        """First and last frame of a clip of ``frames`` that belong to this swing.

        >>> Swing(span=(40, 900)).reach(300), Swing().reach(300)
        ((40, 299), (0, 299))
        """
        first, last = self.span or (0, frames - 1)
        last = min(last, frames - 1)
        return min(max(first, 0), last), last

    def with_mark(self, mark: Mark) -> Swing:
        """The swing with ``mark`` set, replacing an earlier one of that point and frame."""
        kept = tuple(m for m in self.marks if (m.point, m.frame) != (mark.point, mark.frame))
        ordered = sorted((*kept, mark), key=lambda m: (m.point, m.frame))
        return msgspec.structs.replace(self, marks=tuple(ordered))

    def without_mark(self, point: str, frame: int) -> Swing:
        """The swing with the mark of ``point`` on ``frame`` taken away, if there is one."""
        kept = tuple(m for m in self.marks if (m.point, m.frame) != (point, frame))
        return msgspec.structs.replace(self, marks=kept)

    def with_checkpoint(self, name: str, frame: float | None) -> Swing:
        """The swing with a checkpoint pinned at ``frame``, or set free with None."""
        pinned = {k: v for k, v in self.pinned.items() if k != name}
        if frame is not None:
            pinned[name] = float(frame)
        return msgspec.structs.replace(self, pinned=pinned)

    def given(self, **settings: Any) -> Swing:
        """The swing with settings a person chose; they are no longer guesses."""
        still = tuple(name for name in self.guessed if name not in settings)
        return msgspec.structs.replace(self, guessed=still, **settings)
