"""Looking at a whole swing without anybody's help: body model, then flow from what it saw."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath, Links, Sighting
from kneel.motion.feet import FEET
from kneel.vision.closure import closed
from kneel.vision.equipment import equipment
from kneel.vision.flow import follow
from kneel.vision.landmarks.joints import Bodies, other_side
from kneel.vision.landmarks.looks import Landmarks
from kneel.vision.plan import legs
from kneel.vision.seeds import seeds
from kneel.vision.steady import camera_path
from kneel.vision.unmoved import unmoved

FloatArray = NDArray[np.float64]
Luma = Callable[[int], NDArray[np.uint8]]
T = TypeVar("T")

BODY_SHARE, FLOW_SHARE = 0.6, 0.25
"""About how much of the work is the body model's, and how much flow's; the rest looks for club and ball."""

CLOTH_TIMES = 2.5
"""So much less is flow on the front of the hips worth where the outline tells how they move sideways: the
front runs the same way in every turn, which is no chance error."""

ROUND_OTHERS = np.array([-0.25, -0.4, 0.25, 0.4])
"""Left, top, right and bottom of somebody with arms and club, in sides of the square round them."""

STATURE_M = 1.7
SMALL_PX = 200.0
OFTEN_LOST = 0.9
OFTEN_OUTSIDE = 0.3
"""What lies outside the picture in more of the frames than this is said to."""

FACE, ANKLES = range(11), (27, 28)


@dataclass(frozen=True)
class Looked:
    """What was found by itself: sightings and links by point, how the camera moved, what spoils it all.

    ``camera`` is None where it stood still, ``warnings`` are plain words;
    ``choice_open`` is whether another of those seen may be the golfer.
    """

    sightings: Mapping[str, Sequence[Sighting]] = field(default_factory=dict)
    links: Mapping[str, Sequence[Links]] = field(default_factory=dict)
    warnings: tuple[str, ...] = ()
    camera: CameraPath | None = None
    choice_open: bool = False

    def other_sides(self) -> Looked:
        """The same with left and right exchanged."""
        return replace(
            self,
            sightings={other_side(name): seen for name, seen in self.sightings.items()},
            links={other_side(name): found for name, found in self.links.items()},
        )


def look_on(
    bodies: Bodies,
    luma: Luma,
    times_s: FloatArray,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Looked:
    """All that follows from the joints seen: flow, the camera's motion, club and ball, without the joints.

    Sides are left as the network has them, whatever ``bodies.swapped`` says.
    """
    px_per_m = bodies.height_px / STATURE_M
    marks = seeds(bodies.sightings, times_s)
    share = FLOW_SHARE / (1 - BODY_SHARE)
    followed = follow(
        legs(marks, len(times_s)),
        luma,
        times_s,
        px_per_m=px_per_m,
        progress=shared(progress, 0, share),
        stopped=stopped,
    )
    links = {
        point: tuple(_crept(found) if bodies.outlined and point.endswith("_hip") else found)
        for point, found in closed(followed, marks).items()
    }
    seen = {point: (sighting,) for point, sighting in bodies.sightings.items()}
    places = np.array([sighting.xy for sighting in bodies.sightings.values()])
    feet = np.array([bodies.sightings[name].xy for name in FEET if name in bodies.sightings])
    others = bodies.others[..., [0, 1, 0, 1]] + bodies.others[..., 2:] * ROUND_OTHERS
    camera = camera_path(luma, places, px_per_m=px_per_m, feet=feet, others=others, stopped=stopped)
    still = unmoved(camera, luma, seen, links)
    things = equipment(
        still.luma,
        times_s,
        still.seen,
        still.links,
        px_per_m=px_per_m,
        progress=shared(progress, share, 1 - share),
        stopped=stopped,
    )
    found = {point: (still.shown(sighting),) for point, sighting in things.items()}
    return Looked(found, links, (), camera)


def warnings(looks: Landmarks) -> tuple[str, ...]:
    """What spoils the looking, in plain words."""
    if not looks.seen.any():
        return looks.notes or ("No golfer is found in this clip: mark the joints by hand.",)
    out = list(looks.notes)
    seen = float(looks.seen.mean())
    if seen < OFTEN_LOST:
        out.append(
            f"The golfer is lost in {100 * (1 - seen):.0f} % of the frames; the errors there are wide."
        )
    out += [
        f"{what} outside the picture in {100 * share:.0f} % of the frames, so that nothing is told of "
        f"{them}. Let the whole body be seen next time."
        for what, them, share in _cut_off(looks)
        if share > OFTEN_OUTSIDE
    ]
    if looks.height_px < SMALL_PX:
        out.append(
            f"The golfer is only {looks.height_px:.0f} pixels tall in this picture; "
            "nearer or larger footage gives smaller errors."
        )
    return tuple(out)


def _cut_off(looks: Landmarks) -> list[tuple[str, str, float]]:
    """What may lie outside the picture, and in what share of the frames in which the golfer is seen."""
    outside = (looks.visible < 0)[looks.seen]
    feet, head = outside[:, ANKLES], outside[:, FACE].all(axis=1)
    both = float(feet.all(axis=1).mean())
    one = (
        ("The feet lie", "them", both)
        if both > OFTEN_OUTSIDE
        else ("A foot lies", "it", feet.any(axis=1).mean())
    )
    return [one, ("The head lies", "it", float(head.mean()))]


def merged(first: Mapping[str, Sequence[T]], second: Mapping[str, Sequence[T]]) -> dict[str, list[T]]:
    """What two origins know of each point, together."""
    return {name: [*first.get(name, ()), *second.get(name, ())] for name in {**first, **second}}


def _crept(found: Sequence[Links]) -> list[Links]:
    """Links of a hip whose outline is known: what flow follows is the cloth before it."""
    return [replace(one, sigma=CLOTH_TIMES * one.sigma) for one in found]


def doubted(
    links: Mapping[str, Sequence[Links]], sightings: Mapping[str, Sequence[Sighting]]
) -> dict[str, list[Links]]:
    """Links worth less where the body model sees the joint badly: flow then follows what hides it."""
    out = {point: list(many) for point, many in links.items()}
    for point in out.keys() & sightings.keys():
        worst = np.max([one.doubts for one in sightings[point]], axis=0)
        step = np.maximum(worst[1:], worst[:-1])
        out[point] = [replace(one, sigma=step * one.sigma) for one in out[point]]
    return out


def shared(progress: Callable[[int, int], None], start: float, share: float) -> Callable[[int, int], None]:
    """A progress callback for a share of the whole, in thousandths."""
    return lambda done, total: progress(round(1000 * (start + share * done / max(total, 1))), 1000)
