"""What is solved of one swing before any measure is asked: tracks, checkpoints, scale, places."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath, Kind, anatomical
from kneel.model.names import PAIRED_JOINTS, SINGLE_POINTS
from kneel.motion.checkpoints import HELD, NO_SWING, Checkpoint, start_of
from kneel.motion.clock import Slowed, looks_slowed
from kneel.motion.failure import Failed
from kneel.motion.kinds import seen_kind
from kneel.motion.pairs import longer_sigma
from kneel.motion.places import Places, Timed
from kneel.motion.quality import LEG_JOINTS, Quality, first_last, points_quality, spoilt_words
from kneel.motion.sample import COMES_AGAIN, Sample
from kneel.motion.scale import Scale
from kneel.motion.setup import Setup
from kneel.motion.square import LATE, which_way
from kneel.motion.stand import ANKLE_M, Stand
from kneel.motion.track import PointData, Track
from kneel.motion.viewed import Question, open_question

FloatArray = NDArray[np.float64]

SPOKEN = tuple(f"{side}_{joint}" for side in ("lead", "trail") for joint in PAIRED_JOINTS) + SINGLE_POINTS

MAY_BE_SLOW = (Kind.REHEARSAL, Kind.DRILL, Kind.EXAGGERATION)
"""What is often done slowly, where somebody has said that it is one of these."""


def _repeats(setup: Setup, points: Mapping[str, PointData]) -> dict[str, tuple[float, float]]:
    """Which share of each point's error comes again whenever the body model sees this pose, of the point and
    of how far it lies from its pair.
    """
    marked = {name for name, data in points.items() if any(s.by_hand for s in data.sightings)}
    seen = {p: name for p in SPOKEN if (name := anatomical(p, setup.hand)) in setup.guessed}
    return {p: COMES_AGAIN["marked" if name in marked else "unmarked"] for p, name in seen.items()}


@dataclass(frozen=True)
class Solved:
    """Tracks, checkpoints and scale of one swing, and the points as measures look at them.

    ``tracks`` are where the picture shows the points, ``steadied`` with the
    camera's motion taken out.
    """

    setup: Setup
    times_s: FloatArray
    tracks: Mapping[str, Track]
    steadied: Mapping[str, Track]
    checkpoints: Mapping[str, Checkpoint]
    scale: Scale | Failed
    stand: Stand
    direction: int
    mirrored: bool
    px_per_m: float
    warnings: tuple[str, ...]
    points: Mapping[str, PointData] = field(default_factory=dict)
    camera: CameraPath | None = None

    @property
    def no_swing(self) -> str:
        """What speaks against a golf swing in this clip, in a clause; empty where one shows or may."""
        if "top" in self.checkpoints or "impact" in self.checkpoints:
            return ""
        found = next((one for one in self.warnings if one.startswith(NO_SWING)), "")
        return found.removeprefix(NO_SWING).split(".")[0].strip()

    @cached_property
    def question(self) -> Question:
        """What is open of how it was filmed; it must be asked before a number is believed."""
        if self.setup.crowd:
            return Question.WHO
        if HELD in self.checkpoints:
            return Question.POSE
        setup, xy = self.setup, {name: track.xy for name, track in self.steadied.items()}
        return open_question(
            xy,
            setup.view,
            setup.hand,
            setup.mirrored,
            supposed=setup.supposed,
            looked=bool(setup.guessed),
        )

    @cached_property
    def slowed(self) -> Slowed | None:
        """What the downswing says of a clip whose rate nobody has said and that looks slowed down: its times
        are none until it is said. None where it looks real, or is a movement that may be slow.
        """
        ends = [self.checkpoints[name].time_s for name in ("top", "impact") if name in self.checkpoints]
        if "capture_rate" not in self.setup.supposed or len(ends) < 2 or self.setup.kind in MAY_BE_SLOW:
            return None
        return looks_slowed(ends[1] - ends[0], 1 / float(np.median(np.diff(self.times_s))))

    # What measures look at.

    @cached_property
    def places(self) -> Places | Failed:
        """The points in units, or why there are none."""
        start = start_of(self.checkpoints)
        if start is None:
            reason = self.warnings[0] if self.warnings else "There is no address frame to measure from."
            return Failed(reason)
        if isinstance(self.scale, Failed):
            return self.scale
        return Places(
            self.steadied,
            self.times_s,
            self.setup.hand,
            self.setup.view,
            self.direction,
            self.scale,
            self.px_per_m,
            self.stand,
            Timed("address", start.frame, start.sigma_s),
            self._origin_px(start.shown),
            None if self.camera is None else self.camera.sigma,
            _repeats(self.setup, self.points),
        )

    def _origin_px(self, address: int) -> tuple[float, float]:
        """The column of the picture's middle, and the row as high as the camera."""
        every = np.array([track.xy[address] for track in self.steadied.values()])
        feet = [t.xy[address, 1] for name, t in self.steadied.items() if name.endswith("ankle")]
        ground = float(np.mean(feet)) if feet else float(every[:, 1].max())
        width = self.setup.width_px
        centre = float(np.median(every[:, 0])) if width is None else (width - 1) / 2
        return centre, ground - (self.stand.height_m - ANKLE_M) * self.px_per_m

    @cached_property
    def closed(self) -> dict[str, FloatArray]:
        """By pair of joints -1 where its line is turned away from the target, +1 where toward it, (T,);
        between where that is not sure, see :func:`which_way`.
        """
        if isinstance(self.places, Failed):
            return {}
        if self.kind is Kind.BACKSWING and "top" in self.checkpoints:
            # Going back everything turns away from the target.
            return {joint: -np.ones(len(self.times_s)) for joint in ("hip", "shoulder")}
        if not {"top", "impact"} <= set(self.checkpoints):
            return {}
        first = self.checkpoints["top"].shown
        strike = self.checkpoints["impact"].shown
        last = self.checkpoints["follow"].shown if "follow" in self.checkpoints else strike
        signs = {}
        for joint in ("hip", "shoulder"):
            lead, trail = (self.places.track(f"{side}_{joint}") for side in ("lead", "trail"))
            if lead is None or trail is None or last - first < 2:
                continue
            gap = self.direction * (lead.xy - trail.xy)[:, 0]
            square = first + int(np.argmax(gap[first : last + 1]))
            # Frames that last longer are as much likelier.
            often = np.gradient(self.times_s) * np.where(np.arange(len(gap)) > strike, LATE[joint], 1.0)
            signs[joint] = which_way(gap, longer_sigma(lead, trail, square), often, first, last)
        return signs

    @cached_property
    def _frames(self) -> Sample:
        assert isinstance(self.places, Places)
        return self.places.sample(self.closed)

    @cached_property
    def _moments(self) -> Sample:
        assert isinstance(self.places, Places)
        return self._at_checkpoints(self.places)

    def _at_checkpoints(self, places: Places) -> Sample:
        # What counts from address counts from the frame that shows it.
        frames = {n: float(c.shown) if n == "address" else c.frame for n, c in self.checkpoints.items()}
        timed = [Timed(name, frames[name], c.sigma_s) for name, c in self.checkpoints.items()]
        return places.sample_at(timed, self.closed)

    @cached_property
    def kind(self) -> Kind:
        """What was swung: as said, else as the hands tell."""
        if self.setup.kind is not None:
            return self.setup.kind
        if HELD in self.checkpoints or len(self.times_s) < 2:
            return Kind.HELD
        if not {"address", "top"} <= set(self.checkpoints):
            return Kind.FULL
        hands = [t for n in ("grip", "left_wrist", "right_wrist") if (t := self.steadied.get(n)) is not None]
        hips, shoulders = (
            [t for side in ("left", "right") if (t := self.steadied.get(f"{side}_{joint}")) is not None]
            for joint in ("hip", "shoulder")
        )
        address, top = (self.checkpoints[name].shown for name in ("address", "top"))
        return seen_kind(hands, hips, shoulders, address, top) or Kind.FULL

    # Tracks.

    @cached_property
    def quality(self) -> dict[str, Quality]:
        """How well each point is followed from address to finish, by anatomical name."""
        return self._quality_of(self.tracks)

    def spoilt(self) -> list[str]:
        """Plain words on the joints of the legs that are followed poorly, and why."""
        scale = self.scale
        told = isinstance(scale, Scale) and scale.unit != "stance"
        per_px = scale.per_px * scale.cm_per_unit if told and isinstance(scale, Scale) else None
        legs = [name for name in self.tracks if name.rsplit("_", 1)[-1] in LEG_JOINTS]
        return spoilt_words(self._quality_of(legs), self.setup.hand, per_px)

    def _quality_of(self, names: Iterable[str]) -> dict[str, Quality]:
        ends = [self.checkpoints[n].shown for n in ("address", "finish") if n in self.checkpoints]
        frames = (ends[0], ends[1]) if len(ends) == 2 else (0, len(self.times_s) - 1)
        width, height = self.setup.width_px, self.setup.height_px
        size = None if width is None or height is None else (width, height)
        tracks = {name: self.tracks[name] for name in names}
        return points_quality(self.points, tracks, frames, px_per_m=self.px_per_m, size_px=size)

    def gone(self, name: str, frame: int) -> bool:
        """Whether the ball has left by a frame; nothing else goes, by anatomical name."""
        return name == "ball" and name in self.points and frame > first_last(self.points[name])[1]

    def carried(self, xy: FloatArray, start: int, end: int) -> FloatArray:
        """Where frame ``end`` shows a place, px (2,), that stands still in frame ``start``."""
        return xy if self.camera is None else self.camera.carried(xy, start, end)

    def steadied_at(self, point: str, frame: int) -> FloatArray:
        """Where a point named by lead and trail is at a frame with the camera's motion taken out, px (2,)."""
        return np.asarray(self.steadied[anatomical(point, self.setup.hand)].xy[frame])

    def track(self, point: str) -> Track | None:
        """The track of a point by its lead/trail name, None where there is none."""
        return self.tracks.get(anatomical(point, self.setup.hand))
