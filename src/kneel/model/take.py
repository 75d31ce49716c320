"""One clip's part in a swing: what was filmed, from where, and what people set on its frames.

Pictures are upright, x to the right, y down, and whole numbers fall on the
centres of pixels. Frames are counted from the first one of the clip.

Bounds are held by the records themselves, so that files, command line and
desk share one check; what breaks them raises ``ValueError`` with a sentence.
"""

from __future__ import annotations

import datetime
import math
from typing import Any

import msgspec

from kneel.model.names import CHECKPOINTS, POINTS, View, out_of_order

MARK_SIGMA_PX = 1.5
"""How far a careful click usually lands from where it was meant (common practice, no source)."""

MOST_FRAMES = 10_000_000
MOST_SCALES = 8
LARGEST_PX = 1e5
SMALLEST_ERROR_PX = 0.001
"""Nobody sets a point more exactly than this; an error far smaller breaks the arithmetic."""


class Record(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A part of the document. Every field is written, so that a changed default changes no old document."""


def demand(sound: bool, sentence: str) -> None:
    """Raise ``ValueError`` where a record's bound is broken.

    >>> demand(1 < 0, "one is less than nothing")
    Traceback (most recent call last):
    ValueError: one is less than nothing
    """
    if not sound:
        raise ValueError(sentence)


def demand_day(day: datetime.date) -> None:
    """Raise ``ValueError`` for a day on which nobody of these times played.

    >>> demand_day(datetime.date(1066, 10, 14))
    Traceback (most recent call last):
    ValueError: a day lies between 1900 and 2100
    """
    demand(1900 <= day.year <= 2100, "a day lies between 1900 and 2100")


def _within(low: float, value: float, high: float) -> bool:
    return math.isfinite(value) and low <= value <= high


def _place(*values: float) -> bool:
    return all(_within(-LARGEST_PX, value, LARGEST_PX) for value in values)


class FileRef(Record, frozen=True):
    """A file the document names, by path (relative to it where that is possible), size and content."""

    path: str
    size_bytes: int = 0
    content: str = ""


class ClipRef(Record, frozen=True):
    """Where the pictures are. ``path`` is relative to the swing file where that is possible.

    ``content`` tells the clip from any other of its size, see :mod:`kneel.footage.content`.
    """

    path: str
    frames: int
    width: int
    height: int
    rate_stored: float
    size_bytes: int = 0
    content: str = ""

    def __post_init__(self) -> None:
        demand(1 <= self.frames <= MOST_FRAMES, "a clip has at least one frame")
        demand(min(self.width, self.height) >= 1, "a clip's picture has a size")
        demand(_within(0, self.rate_stored, 1e6), "a clip's rate is a number of frames a second")


class Mark(Record, frozen=True):
    """One point placed by hand on one frame, in pixels of the upright picture."""

    point: str
    frame: int
    x: float
    y: float
    sigma: float = MARK_SIGMA_PX

    def __post_init__(self) -> None:
        demand(self.point in POINTS, f"there is no point “{self.point}”")
        demand(0 <= self.frame <= MOST_FRAMES, "a mark stands on a frame from 0 on")
        demand(_place(self.x, self.y), "a mark lies in the picture or near it")
        demand(_within(SMALLEST_ERROR_PX, self.sigma, LARGEST_PX), "a mark's error is 0.001 px or more")


class Near(Record, frozen=True):
    """A click on the golfer, px, on a frame; None where nobody says on which."""

    x: float
    y: float
    frame: int | None = None

    def __post_init__(self) -> None:
        demand(_place(self.x, self.y), "a click lies in the picture or near it")
        demand(self.frame is None or 0 <= self.frame <= MOST_FRAMES, "a click stands on a frame from 0 on")


class NoScale(Record, frozen=True, tag="none"):
    """Lengths are told in stance widths."""


class TypedScale(Record, frozen=True, tag="typed"):
    """A scale typed in, in cm per pixel in the plane of the ankles."""

    cm_per_px: float
    sigma: float = 0.0

    def __post_init__(self) -> None:
        demand(_within(0.001, self.cm_per_px, 20), "a scale is 0.001 to 20 cm per pixel")
        demand(_within(0, self.sigma, self.cm_per_px), "a scale's error is 0 to the scale itself")


class Stature(Record, frozen=True, tag="stature"):
    """The golfer's height, from which limb lengths follow by published body proportions.

    ``sigma_cm`` is how unsure the height itself is; a measured one is sure.
    """

    stature_cm: float
    sigma_cm: float = 0.0

    def __post_init__(self) -> None:
        demand(_within(80, self.stature_cm, 250), "a stature is 80 to 250 cm")
        demand(_within(0, self.sigma_cm, 50), "a stature's error is 0 to 50 cm")


class KnownLength(Record, frozen=True, tag="length"):
    """Two ends of something of known length in the golfer's plane, marked on one frame."""

    frame: int
    ax: float
    ay: float
    bx: float
    by: float
    length_cm: float
    what: str = "stick"
    sigma_px: float = 1.0

    def __post_init__(self) -> None:
        demand(0 <= self.frame <= MOST_FRAMES, "a known length stands on a frame from 0 on")
        demand(_place(self.ax, self.ay, self.bx, self.by), "a known length lies in the picture or near it")
        demand(_within(0.1, self.length_cm, 10000), "a known length is 0.1 to 10000 cm")
        demand(
            _within(SMALLEST_ERROR_PX, self.sigma_px, LARGEST_PX),
            "a known length's error is 0.001 px or more",
        )


ScaleSource = NoScale | TypedScale | Stature | KnownLength


SHAPES = {
    "dot": 1,
    "cross": 1,
    "line": 2,
    "arrow": 2,
    "circle": 2,
    "angle": 3,
    "pen": 2,
    "word": 1,
    "prop": 2,
}
"""What can be drawn by hand, and how many places it takes (a pen's stroke as many as it has)."""

MOST_PLACES = 4000


class Drawn(Record, frozen=True):
    """Something drawn by hand: ``points`` px, x and y by turns, on one frame or on all (None).

    A circle is its middle and a place on it; a ``prop`` is a line along a thing that stands still, and
    ``words`` names the point of the body whose gap to it is told.
    """

    shape: str
    points: tuple[float, ...] = ()
    frame: int | None = None
    words: str = ""

    def __post_init__(self) -> None:
        demand(self.shape in SHAPES, f"there is no shape “{self.shape}” to draw")
        demand(len(self.points) <= 2 * MOST_PLACES, "a stroke has at most 4000 places")
        demand(
            len(self.points) % 2 == 0 and _place(*self.points), "what is drawn lies in the picture or near it"
        )
        demand(len(self.points) >= 2 * SHAPES[self.shape], f"a {self.shape} needs its places")


class Take(Record, frozen=True):
    """One swing as one camera filmed it.

    ``span`` is the first and last frame of the clip that belong to it, None
    for the whole clip. ``capture_rate`` is the true rate where the file does
    not tell it. ``looked`` is whether the joints are looked for by the body
    model besides the marks by hand, ``near`` which body is meant where there
    are several; ``steadied`` is whether a camera that seems to have moved is
    believed to have. ``pinned`` holds checkpoints set by hand, as frames,
    fractions allowed. ``offset_s`` and ``offset_sigma_s`` is when its first
    frame was taken on the clock of the swing's first take. ``plate`` is a
    pressure plate's trace. ``also_scaled`` are further sources of scale, put
    together with the first by their errors; ``plumb`` is a line that is
    vertical in life, two ends in px.
    """

    clip: ClipRef | None = None
    span: tuple[int, int] | None = None
    view: View = View.FACE_ON
    mirrored: bool | None = None
    capture_rate: float | None = None
    steadied: bool = True
    looked: bool = False
    near: Near | None = None
    scale: ScaleSource = msgspec.field(default_factory=NoScale)
    also_scaled: tuple[ScaleSource, ...] = ()
    plumb: tuple[float, float, float, float] | None = None
    marks: tuple[Mark, ...] = ()
    pinned: dict[str, float] = msgspec.field(default_factory=dict)
    drawn: tuple[Drawn, ...] = ()
    offset_s: float = 0.0
    offset_sigma_s: float = 0.0
    plate: FileRef | None = None

    def __post_init__(self) -> None:
        last = self.clip.frames - 1 if self.clip else MOST_FRAMES
        if self.span is not None:
            told = f"{self.span[0]} to {self.span[1]}"
            demand(
                0 <= self.span[0] <= self.span[1],
                f"a swing's span begins before it ends, from frame 0 on, and is not {told}",
            )
            demand(self.span[0] <= last, f"a swing's span lies within its clip, and is not {told}")
        rate = self.capture_rate
        demand(
            rate is None or _within(1, rate, 10000),
            f"a rate of capture is 1 to 10000 frames a second, not {rate}",
        )
        for name, frame in self.pinned.items():
            demand(name in CHECKPOINTS, f"there is no checkpoint “{name}”")
            demand(
                _within(0, frame, last),
                f"the {name} is pinned on a frame that the clip does not have, {frame:g}",
            )
        clash = out_of_order(self.pinned)
        demand(clash is None, f"the {clash and clash[1]} is pinned on or before the {clash and clash[0]}")
        demand(len(self.also_scaled) <= MOST_SCALES, f"a take has at most {MOST_SCALES} further scales")
        demand(self.plumb is None or _place(*self.plumb), "a plumb lies in the picture or near it")
        beyond = next((m.frame for m in self.marks if m.frame > last), None)
        demand(beyond is None, f"a mark stands on a frame that the clip does not have, {beyond}")
        demand(_within(-1e5, self.offset_s, 1e5), "two takes of one swing lie near each other in time")
        demand(_within(0, self.offset_sigma_s, 1e5), "an offset's error is not below zero")

    @property
    def start(self) -> int:
        """The clip's number of this take's first frame."""
        return self.span[0] if self.span else 0

    def with_(self, **settings: Any) -> Take:
        """The take with some fields changed."""
        return msgspec.structs.replace(self, **settings)
