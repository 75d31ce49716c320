"""Who is in the clip, and which of them is the golfer.

A glance every fifth of a second finds everybody; what is alike in place, size and colour from glance to
glance is one person. The golfer is the one whose hands go up and down as in a swing; where nobody's or
several people's do, the one who is whole and stays on one spot longest; where two do, the one nearer the
middle is taken and it is said, but nobody who is seen much smaller. A click
on the golfer outranks all that.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final, Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from kneel.model import Near
from kneel.vision.landmarks.networks import CROP_SIZE, Found
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.standing import inside_of, plausible, stands

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

GLANCE_S, MOST_GLANCES = 0.2, 24
SAME_COST = 0.8
"""Two glimpses that differ by more, in sides of the square moved and in clothes, are two persons."""

HUE_COUNTS, LIGHT_COUNTS = 4.0, 0.3
"""What a difference of hue (share of red, green and blue) and of brightness (logarithm) counts: light changes
from place to place, the colour of clothes does not."""

DARK_LEVELS = 20.0
"""Added to every channel: what is nearly black has no hue."""

SAME_PLACE, SAME_SIZE = 0.2, 1.6
"""Found twice: middles no farther apart, as a share of the side, and sizes no more different."""

ON_THE_SPOT = 0.06
"""Feet this near their usual place, as a share of the square's side (about twice the body), have stayed."""

AS_LONG = 0.75
"""Who stays for this share of the longest stay may be the golfer as well."""

SWINGS, SWINGS_SEEN = 0.8, 0.4
"""Hands that go up and down by more than so many trunk lengths swing (half a swing takes them from the thighs
to the shoulders; common practice, no source), those of somebody seen at least this share of the time for
which anybody is.
"""

FAR_OFF = 0.45
"""Who is seen smaller than this share of another stands more than twice as far off."""

WIDE_PICTURE = 1.2
"""A picture so many times wider than high may show people side by side."""

WIDE, TALL = 0.14, 0.40
"""Half a body's width and height as shares of the square's side: a click within is on the body."""

CLICKED = 1.6
"""A click this many half bodies away from everybody is on nobody."""

_WHOLE: Final = (7, 8, 11, 12, 23, 24, 25, 26, 27, 28)
"""Landmarks that lie in the picture when the whole body does."""


class Networks(Protocol):
    """What finds bodies in a picture and landmarks in a region of it."""

    def detect(self, picture: Picture) -> list[tuple[float, Region]]: ...

    def landmarks(self, picture: Picture, region: Region, *, mirrored: bool = False) -> Found: ...


@dataclass(frozen=True)
class Glimpse:
    """One body in one frame: the square round it, its feet (2,) px, its clothes' colours (2, 3), and its
    landmarks (39, 2) px.
    """

    frame: int
    region: Region
    feet: FloatArray
    whole: bool
    colours: FloatArray
    xy: FloatArray


@dataclass(frozen=True)
class Person:
    """One body through the clip, in rising order of frames."""

    glimpses: tuple[Glimpse, ...]

    def region(self, frame: int) -> Region:
        """The square in which it is about to be found at a frame, between its glimpses."""
        at = [g.frame for g in self.glimpses]
        x, y, side = (
            float(np.interp(frame, at, [getattr(g.region, name) for g in self.glimpses]))
            for name in ("x", "y", "side")
        )
        near = min(self.glimpses, key=lambda g: abs(g.frame - frame))
        return Region(x, y, side, near.region.angle)

    @property
    def side(self) -> float:
        """How long the side of its square usually is, px."""
        return float(np.median([g.region.side for g in self.glimpses]))

    @property
    def colours(self) -> FloatArray:
        """What its shirt and its thighs usually look like, (2, 3) levels."""
        return np.asarray(np.median([g.colours for g in self.glimpses], axis=0))

    def unlike(self, colours: FloatArray) -> float:
        """How much the clothes (2, 3) of somebody differ from this person's."""
        return unlike_clothes(colours, self.colours)

    @property
    def varies(self) -> float:
        """How much this person's clothes differ from themselves as they turn in the light."""
        return float(np.percentile([self.unlike(g.colours) for g in self.glimpses], 90))

    def reach(self) -> float:
        """How far the hands go up and down, in trunk lengths; the farthest glimpse to either side may be a
        mistake.
        """
        heights = np.sort(hands_above_hips(np.stack([g.xy for g in self.glimpses])))
        return float(heights[-2] - heights[1]) if len(heights) > 3 else 0.0

    def stays(self) -> int:
        """In how many glimpses it is whole and stands where it usually stands."""
        spot = np.median([g.feet for g in self.glimpses], axis=0)
        return sum(
            g.whole and float(np.linalg.norm(g.feet - spot)) < ON_THE_SPOT * g.region.side
            for g in self.glimpses
        )


@dataclass(frozen=True)
class Cast:
    """The golfer and everybody else; ``notes`` are plain words where the choice is open."""

    golfer: Person
    others: tuple[Person, ...] = ()
    notes: tuple[str, ...] = ()


def glance_frames(times_s: FloatArray, near: Near | None) -> list[int]:
    """The frames to glance at: a fifth of a second apart or more, and the one clicked on."""
    length = float(times_s[-1] - times_s[0])
    count = int(np.clip(np.ceil(length / GLANCE_S) + 1, 1, MOST_GLANCES))
    some = np.searchsorted(times_s, np.linspace(times_s[0], times_s[-1], count))
    frames = {int(n) for n in np.clip(some, 0, len(times_s) - 1)}
    if near is not None and near.frame is not None:
        frames.add(int(np.clip(near.frame, 0, len(times_s) - 1)))
    return sorted(frames)


def glance(networks: Networks, picture: Picture, frame: int, near: Near | None) -> list[Glimpse]:
    """Everybody in one frame: in the whole, in squares of a wide one, since of two side by side the detector
    may tell but one, and in small tiles where that shows nobody, or nobody where the click was.
    """
    found = _surest_first(networks.detect(picture))
    height, width = picture.shape[:2]
    if found and width > WIDE_PICTURE * height:
        found += _surest_first(_in_squares(networks, picture, height))
    if not found or (near is not None and min(clicked(near, r) for _, r in found) > 1):
        found = _surest_first([*found, *_in_tiles(networks, picture)])
    out: list[Glimpse] = []
    for _, region in found:
        if any(same_place(region, other.region) for other in out):
            continue
        glimpse = glimpse_in(networks, picture, frame, region)
        if glimpse is not None and not any(same_place(glimpse.region, other.region) for other in out):
            out.append(glimpse)
    return out


def _surest_first(found: list[tuple[float, Region]]) -> list[tuple[float, Region]]:
    return sorted(found, key=lambda one: -one[0])


def people(glances: Sequence[Sequence[Glimpse]]) -> list[Person]:
    """Everybody in the clip, glimpses of one person joined: the cheapest pairing from glance to glance."""
    tracks: list[list[Glimpse]] = []
    for found in glances:
        if not found:
            continue
        if tracks:
            price = np.array([[_unlike(track[-1], g) for g in found] for track in tracks])
            pairs = [(i, j) for i, j in zip(*linear_sum_assignment(price), strict=True)]
            joined = {int(j): int(i) for i, j in pairs if price[i, j] < SAME_COST}
        else:
            joined = {}
        for j, glimpse in enumerate(found):
            if j in joined:
                tracks[joined[j]].append(glimpse)
            else:
                tracks.append([glimpse])
    return [Person(tuple(track)) for track in tracks]


def choose(persons: Sequence[Person], width: int, near: Near | None) -> Cast | None:
    """Who is meant: clicked on, else who swings, else whole and longest on one spot, else near the middle."""
    if not persons:
        return None
    if near is not None:
        golfer = min(persons, key=lambda p: _clicked(near, p))
        if _clicked(near, golfer) > CLICKED:
            return None
        return Cast(golfer, tuple(p for p in persons if p is not golfer))
    longest = max(p.stays() for p in persons)
    # Nobody may be whole: then whoever is seen most often is taken.
    stays: Callable[[Person], int] = Person.stays if longest else lambda p: len(p.glimpses)
    longest = longest or max(len(p.glimpses) for p in persons)
    often = SWINGS_SEEN * max(len(p.glimpses) for p in persons)
    swing = [p for p in persons if len(p.glimpses) >= often and p.reach() > SWINGS]
    able = not_far_off(swing or [p for p in persons if stays(p) >= AS_LONG * longest])
    golfer = nearest_middle(able, width)
    notes = (
        ("Two people stand in this picture; the one nearer the middle is taken for the golfer.",)
        if len(able) > 1
        else ()
    )
    return Cast(golfer, tuple(p for p in persons if p is not golfer), notes)


def not_far_off(persons: Sequence[Person]) -> list[Person]:
    """Those who may be meant: not who is seen much smaller than another."""
    largest = max(p.side for p in persons)
    return [p for p in persons if p.side > FAR_OFF * largest]


def nearest_middle(persons: Sequence[Person], width: int) -> Person:
    """Whom the camera is pointed at, of several who are not far off."""
    return min(
        not_far_off(persons),
        key=lambda p: abs(float(np.median([g.region.x for g in p.glimpses])) - width / 2),
    )


def hands_above_hips(xy: FloatArray) -> FloatArray:
    """How far above the hips the middle of both hands is (N,), in trunk lengths; ``xy`` (N, 39, 2) px."""
    return np.asarray((xy[:, 23:25, 1].mean(axis=1) - xy[:, 15:17, 1].mean(axis=1)) / trunk_px(xy))


def trunk_px(xy: FloatArray) -> float:
    """How long a trunk is seen, bent but little; ``xy`` (N, 39, 2) px."""
    along = (xy[:, 11:13] - xy[:, 23:25]).mean(axis=1)
    return max(float(np.percentile(np.linalg.norm(along, axis=1), 80)), 1e-9)


def clicked(near: Near, region: Region) -> float:
    """How far a click is from a body, in half bodies: up to 1 it is on it."""
    return float(
        np.hypot((near.x - region.x) / (WIDE * region.side), (near.y - region.y) / (TALL * region.side))
    )


def colours_at(picture: Picture, xy: FloatArray) -> FloatArray:
    """Usual colours of shirt and thighs, (2, 3) levels; ``xy`` (39, 2) are the landmarks in the picture."""
    share = np.linspace(0.2, 0.8, 4)
    left, right = (xy[a] + share[:, None] * (xy[b] - xy[a]) for a, b in ((11, 23), (12, 24)))
    inward = np.array([0.25, 0.5, 0.75])[:, None, None]
    shirt = (left + inward * (right - left)).reshape(-1, 2)
    thighs = np.concatenate([xy[a] + share[:, None] * (xy[b] - xy[a]) for a, b in ((23, 25), (24, 26))])
    height, width = picture.shape[:2]
    out = []
    for places in (shirt, thighs):
        column, row = np.round(places).astype(int).T
        out.append(
            np.median(
                picture[np.clip(row, 0, height - 1), np.clip(column, 0, width - 1)].astype(float), axis=0
            )
        )
    return np.array(out)


def unlike_clothes(a: FloatArray, b: FloatArray) -> float:
    """How much two pairs of shirt and thighs, (2, 3) levels, differ in hue and brightness; 1 is plainly."""
    a, b = a + DARK_LEVELS, b + DARK_LEVELS
    hue = np.linalg.norm(a / a.sum(axis=1)[:, None] - b / b.sum(axis=1)[:, None], axis=1)
    light = np.abs(np.log(a.sum(axis=1) / b.sum(axis=1)))
    return float((HUE_COUNTS * hue + LIGHT_COUNTS * light).mean())


def glimpse_in(networks: Networks, picture: Picture, frame: int, region: Region) -> Glimpse | None:
    """The body in a region of one frame; None where none stands there."""
    found = networks.landmarks(picture, region)
    if not plausible(found):
        return None
    xy = region.to_picture(found.xy, CROP_SIZE)
    inside = inside_of(picture, xy)
    if not stands(xy, inside):
        return None
    whole = bool(inside[list(_WHOLE)].all())
    # The lower foot carries the body: the other may be lifted.
    ankles = xy[27:29]
    feet = ankles[int(np.argmax(ankles[:, 1]))]
    return Glimpse(frame, Region.round_points(xy[33], xy[34]), feet, whole, colours_at(picture, xy), xy)


def _clicked(near: Near, person: Person) -> float:
    """How far a click is from a person: in the frame clicked on, else wherever it was nearest."""
    if near.frame is not None:
        return clicked(near, person.region(near.frame))
    return min(clicked(near, g.region) for g in person.glimpses)


def same_place(a: Region, b: Region) -> bool:
    """Whether two squares are round one body."""
    size = max(a.side, b.side) / max(min(a.side, b.side), 1e-9)
    return bool(np.hypot(a.x - b.x, a.y - b.y) < SAME_PLACE * max(a.side, b.side) and size < SAME_SIZE)


def _unlike(a: Glimpse, b: Glimpse) -> float:
    """How much speaks against two glimpses being of one person: place, size and colours."""
    side = max(min(a.region.side, b.region.side), 1e-9)
    place = np.hypot(a.region.x - b.region.x, a.region.y - b.region.y) / side
    size = abs(np.log(a.region.side / b.region.side))
    return float(place + size + unlike_clothes(a.colours, b.colours))


def _in_tiles(networks: Networks, picture: Picture) -> list[tuple[float, Region]]:
    """Look in overlapping squares: a body far away is too small in the whole picture."""
    side = min(picture.shape[:2])
    return _in_squares(networks, picture, side) or _in_squares(networks, picture, side // 2)


def _in_squares(networks: Networks, picture: Picture, size: int) -> list[tuple[float, Region]]:
    height, width = picture.shape[:2]
    out: list[tuple[float, Region]] = []
    for y in _starts(height, size):
        for x in _starts(width, size):
            tile = np.ascontiguousarray(picture[y : y + size, x : x + size])
            for score, r in networks.detect(tile):
                out.append((score, Region(r.x + x, r.y + y, r.side, r.angle)))
    return out


def _starts(length: int, size: int) -> list[int]:
    count = max(1, int(np.ceil((length - size) / (size / 2))) + 1)
    return [int(start) for start in np.linspace(0, length - size, count)]
