"""The numbers of one swing, each computed when first asked for.

What everything hangs on (tracks, checkpoints, scale) is there from the start,
see :mod:`kneel.motion.analysis`; measures are nodes that remember their answer.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath, Kind, Mark, View, anatomical
from kneel.model.names import PAIRED_JOINTS, SINGLE_POINTS
from kneel.motion.checkpoints import HELD, NO_SWING, Checkpoint, start_of
from kneel.motion.failure import Failed
from kneel.motion.kinds import seen_kind
from kneel.motion.measures import REGISTRY, Domain, Look, Measure, Unit
from kneel.motion.places import Places, Timed
from kneel.motion.quality import LEG_JOINTS, Quality, first_last, points_quality, spoilt_words
from kneel.motion.quantity import Series, Single
from kneel.motion.sample import COMES_AGAIN, Sample
from kneel.motion.scale import Scale
from kneel.motion.setup import Setup
from kneel.motion.stand import ANKLE_M, Stand
from kneel.motion.track import PointData, Track
from kneel.motion.uncertain import Told, tell
from kneel.motion.viewed import Question, open_question
from kneel.motion.whole import Paths, draw_paths, told_once, too_rough

FloatArray = NDArray[np.float64]

_SPOKEN = tuple(f"{side}_{joint}" for side in ("lead", "trail") for joint in PAIRED_JOINTS) + SINGLE_POINTS

HIPS_ALIKE = (0.0, 0.7)
"""How alike the errors of both hips are, across and up, where the body model tells them (drawn clips)."""

NO_PLATE = "is read from a pressure plate's file, or typed in: a picture does not show it."

ROUGH = ("grip", "clubhead")
"""Points that are followed 12 to 24 cm off near impact: what hangs on them is told from marks alone."""


def _repeats(setup: Setup, points: Mapping[str, PointData]) -> dict[str, tuple[float, float]]:
    """Which share of each point's error comes again whenever the body model sees this pose, of the point and
    of how far it lies from its pair.
    """
    marked = {name for name, data in points.items() if any(s.by_hand for s in data.sightings)}
    seen = {p: name for p in _SPOKEN if (name := anatomical(p, setup.hand)) in setup.guessed}
    return {p: COMES_AGAIN["marked" if name in marked else "unmarked"] for p, name in seen.items()}


@dataclass(frozen=True)
class Answers:
    """By point how far a measure moves with it now and at address, (2,) each, in its unit per unit of place.

    ``bent`` is how many times larger its error is than these slopes tell.
    """

    points: Mapping[str, tuple[FloatArray, FloatArray]]
    bent: float


@dataclass(frozen=True)
class Study:
    """One swing: tracks, checkpoints and scale, and from them any measure there is.

    ``tracks`` are where the picture shows the points, ``steadied`` with the
    camera's motion taken out. Nothing here fails: what cannot be told is
    :class:`Failed` with a reason.
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
    _paths: dict[tuple[str, ...], Paths] = field(default_factory=dict, compare=False)
    _ways: dict[str, Look | Failed] = field(default_factory=dict, compare=False)
    _known: dict[tuple[str, str], Told | Single | Failed] = field(default_factory=dict, compare=False)

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
            self._alike(),
            _repeats(self.setup, self.points),
        )

    def _alike(self) -> dict[tuple[str, str], tuple[float, float]]:
        """Pairs that the body model sees: it has both hips too high or too low together."""
        hips = ("lead_hip", "trail_hip")
        looked = all(anatomical(hip, self.setup.hand) in self.setup.guessed for hip in hips)
        return {hips: HIPS_ALIKE} if looked and self.setup.view is not View.DOWN_THE_LINE else {}

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
        """By pair of joints -1 where its line is turned away from the target, +1 where toward it, (T,).

        The line is square where it looks longest on the way down.
        """
        if isinstance(self.places, Failed):
            return {}
        if self.kind is Kind.BACKSWING and "top" in self.checkpoints:
            # Going back everything turns away from the target.
            return {joint: -np.ones(len(self.times_s)) for joint in ("hip", "shoulder")}
        if not {"top", "impact"} <= set(self.checkpoints):
            return {}
        first = self.checkpoints["top"].shown
        last = self.checkpoints.get("follow", self.checkpoints["impact"]).shown
        signs = {}
        for joint in ("hip", "shoulder"):
            pair = [self.places.track(f"{side}_{joint}") for side in ("lead", "trail")]
            if any(t is None for t in pair) or last - first < 2:
                continue
            gap = self.places.xy[f"lead_{joint}"] - self.places.xy[f"trail_{joint}"]
            square = first + int(np.argmax(gap[first : last + 1, 0]))
            signs[joint] = np.where(np.arange(len(gap)) < square, -1.0, 1.0)
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

    def paths(self, ends: tuple[str, ...]) -> Paths:
        """Whole paths as found and drawn between some checkpoints, for quantities of the whole swing."""
        known = self._paths.get(ends)
        if known is None:
            known = self._paths[ends] = draw_paths(self, ends)
        return known

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

    # Measures.

    def measure(self, key: str) -> Series | Failed:
        """A measure at every frame, or why there is none. Raises ``KeyError`` for an unknown key."""
        recorded, plate = REGISTRY[key].recorded, self.setup.plate
        if recorded:
            if plate is None:
                return Failed(f"{REGISTRY[key].title} {NO_PLATE}", "plate")
            return Series(key, self.unit(key), *plate.series(recorded, self.times_s), self.times_s)
        told = self._told(key, "frames")
        if isinstance(told, Failed):
            return told
        assert isinstance(told, Told)
        return Series(key, self.unit(key), told.values, told.sigma, self.times_s)

    def at(self, key: str, checkpoint: str) -> Single | Failed:
        """A measure at a checkpoint, the error of its time included."""
        if checkpoint not in self.checkpoints:
            if not self.checkpoints and self.warnings:
                return Failed(self.warnings[0], "no swing")
            return Failed(f"There is no {checkpoint.replace('_', ' ')} in this swing.", "no checkpoint")
        given = self._given(key, checkpoint)
        if given is not None:
            return given
        where = REGISTRY[key].at
        if where and checkpoint not in where:
            return Failed(f"{REGISTRY[key].title} is told at {' and '.join(where)} only.", "checkpoint")
        told = self._told(key, "moments")
        if isinstance(told, Failed):
            return told
        assert isinstance(told, Told)
        index = self._moments.names.index(checkpoint)
        if self.setup.guessed and not self._sure(key, checkpoint):
            return too_rough(REGISTRY[key])
        return Single.of(key, self.unit(key), told, index, checkpoint)

    def given(self, key: str, checkpoint: str) -> bool:
        """Whether a value was typed in or recorded, and hangs on no point of the picture."""
        return isinstance(self._given(key, checkpoint), Single)

    def _given(self, key: str, checkpoint: str) -> Single | Failed | None:
        """What somebody typed in, or a plate recorded; None of what is measured in the picture."""
        for one in self.setup.typed:
            if one.measure == key and one.checkpoint == checkpoint:
                return Single.plain(key, self.unit(key), one.value, one.sigma)
        recorded = REGISTRY[key].recorded
        if not recorded:
            return None
        if self.setup.plate is None:
            return Failed(f"{REGISTRY[key].title} {NO_PLATE}", "plate")
        at = self.checkpoints[checkpoint]
        told = self.setup.plate.at(recorded, at.time_s, at.sigma_s)
        if told is None:
            return Failed(f"{REGISTRY[key].title}: the plate's trace does not reach there.", "plate")
        return Single.plain(key, self.unit(key), *told)

    def once(self, key: str) -> Single | Failed:
        """A measure of the whole swing, or of its set-up."""
        entry = REGISTRY[key]
        if entry.domain is Domain.SETUP:
            return self.at(key, "address")
        given = self._given(key, "")
        if given is not None:
            return given
        known = self._known.get((key, "once"))
        if known is None:
            known = self._known[key, "once"] = told_once(self, entry)
        assert not isinstance(known, Told)
        return known

    def unit(self, key: str) -> str:
        """The unit in which a measure is told here."""
        unit = REGISTRY[key].unit
        if unit is not Unit.LENGTH:
            return unit.value
        return self.scale.unit if isinstance(self.scale, Scale) else "stance"

    def missing(self, key: str) -> str:
        """Why there is no such measure here; empty where there is one."""
        found = self.once(key) if REGISTRY[key].domain is not Domain.FRAMES else self.measure(key)
        return found.reason if isinstance(found, Failed) else ""

    def way(self, key: str) -> Look | Failed:
        """How a measure of frames is told in this view, by the points there are."""
        known = self._ways.get(key)
        if known is None:
            known = self._ways[key] = self._way(REGISTRY[key])
        return known

    def _way(self, entry: Measure) -> Look | Failed:
        if entry.recorded:
            return Failed(f"{entry.title} {NO_PLATE}", "plate")
        ways = entry.ways(self.setup.view)
        if not ways:
            return Failed(f"{entry.title} cannot be seen {self.setup.view.value}.", "view")
        if isinstance(self.places, Failed):
            return self.places
        for look in ways:
            if all(self.places.track(point) is not None for point in look.points):
                if look.then and "address" not in self.checkpoints:
                    return Failed(
                        f"{entry.title} counts from address, which a held pose does not have.", "held"
                    )
                if not set(look.turns) <= set(self.closed):
                    return Failed(f"{entry.title} needs the top and impact to tell its sign.", "phase")
                return look
        lacking = [p for p in ways[0].points if self.places.track(p) is None]
        words = " and ".join(name.replace("_", " ") for name in lacking)
        return Failed(f"{entry.title} needs the {words}, which nobody has marked.", "points")

    def _told(self, key: str, where: str) -> Told | Single | Failed:
        known = self._known.get((key, where))
        if known is None:
            known = self._known[key, where] = self._tell(REGISTRY[key], where)
        return known

    def _tell(self, entry: Measure, where: str) -> Told | Failed:
        look = self.way(entry.key)
        if isinstance(look, Failed):
            return look
        if where == "frames" and not self.followed(look):
            return too_rough(entry)
        sample = self._frames if where == "frames" else self._moments
        return tell(look, sample, own=self._own(entry, look))

    def _own(self, entry: Measure, look: Look) -> float:
        """What the definition leaves open, in the unit in which the measure is told; written down in cm."""
        if entry.unit is Unit.LENGTH and isinstance(self.scale, Scale):
            return look.own / self.scale.cm_per_unit
        return look.own

    def followed(self, look: Look) -> bool:
        """Whether all its points are followed well enough all through."""
        return not any(
            anatomical(p, self.setup.hand) in self.setup.guessed for p in look.points if p in ROUGH
        )

    def guessed(self, look: Look) -> bool:
        """Whether any of its points is one that the program found by itself."""
        return any(anatomical(p, self.setup.hand) in self.setup.guessed for p in look.points)

    def _sure(self, key: str, checkpoint: str) -> bool:
        """Whether what is followed roughly is marked where a measure looks at it."""
        look = self.way(key)
        assert not isinstance(look, Failed)
        wanted = [(p, checkpoint) for p in look.needs] + [(p, "address") for p in look.then]
        return all(
            p not in ROUGH or p not in self.setup.guessed or self.marked(p, self.checkpoints[name].shown)
            for p, name in wanted
        )

    def marked(self, point: str, frame: int) -> bool:
        """Whether somebody marked a point within a frame of this one."""
        near = slice(max(frame - 1, 0), frame + 2)
        sightings = self.points[point].sightings if point in self.points else ()
        return any(s.by_hand and np.isfinite(s.xy[near, 0]).any() for s in sightings)

    def slopes(self, key: str, checkpoint: str) -> Answers:
        """How a measure at a checkpoint answers to its points. It must be one that :meth:`at` tells."""
        told = self._told(key, "moments")
        assert isinstance(told, Told)
        index, zero = self._moments.names.index(checkpoint), np.zeros(2)
        now, then = told.slopes.now, told.slopes.then
        points = {p: (now[p][index] if p in now else zero, then[p][index] if p in then else zero)
                  for p in {**now, **then}}  # fmt: skip
        return Answers(points, float(told.bent[index]))

    # A mark under the hand.

    def dragged(self, mark: Mark, before: Mark | None) -> Study | None:
        """The study with a mark moved from where it stood ``before``, or set anew; nothing else solved again.

        Times of checkpoints, scale and the camera's place stay until the hand
        rests; what does not rest on the point is kept as it is. None for a
        point that has no track yet.
        """
        name = mark.point
        if name not in self.tracks or not 0 <= mark.frame < len(self.times_s):
            return None
        old = None if before is None else np.array([before.x, before.y])
        track = self.tracks[name].marked(mark.frame, np.array([mark.x, mark.y]), mark.sigma, old)
        still = track if self.camera is None else replace(track, xy=self.camera.steadied(track.xy))
        spoken = {p for p in _SPOKEN if anatomical(p, self.setup.hand) == name}
        kept = {
            (key, where): told
            for (key, where), told in self._known.items()
            if not (isinstance(look := self.way(key), Look) and spoken & set(look.points)) and where != "once"
        }
        made = replace(
            self,
            tracks={**self.tracks, name: track},
            steadied={**self.steadied, name: still},
            _known=kept,
            _paths={},
        )
        places = made.places
        if isinstance(places, Places):
            assert isinstance(self.places, Places)
            places.__dict__["swings"] = self.places.swings
            made.__dict__["closed"] = self.closed
            made.__dict__["_frames"] = self._frames.changed(spoken, places.sample(self.closed))
            made.__dict__["_moments"] = self._moments.changed(spoken, made._at_checkpoints(places))
        return made

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

    def track(self, point: str) -> Track | None:
        """The track of a point by its lead/trail name, None where there is none."""
        return self.tracks.get(anatomical(point, self.setup.hand))
