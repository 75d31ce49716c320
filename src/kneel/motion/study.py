"""The numbers of one swing, each computed when first asked for.

What everything hangs on (tracks, checkpoints, scale) is there from the start,
see :mod:`kneel.motion.analysis`; measures are nodes that remember their answer.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import Mark, TypedValue, anatomical
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Domain, Measure, Unit, Way
from kneel.motion.pairs import JOINTS, with_mark
from kneel.motion.places import Places
from kneel.motion.quantity import Series, Single
from kneel.motion.scale import Scale
from kneel.motion.solved import SPOKEN, Solved
from kneel.motion.uncertain import Estimate, tell
from kneel.motion.whole import Paths, draw_paths, told_once, too_rough

FloatArray = NDArray[np.float64]

NO_PLATE = "is read from a pressure plate's file, or typed in: a picture does not show it."

ROUGH = ("grip", "clubhead")
"""Points that are followed 12 to 24 cm off near impact: what hangs on them is told from marks alone."""


KEPT = ("places", "closed", "_frames", "_moments")
"""What is computed once, and hangs on nothing that is typed in."""


@dataclass(frozen=True)
class Answers:
    """By point how far a measure moves with it now and at address, (2,) each, in its unit per unit of place.

    ``bent`` is how many times larger its error is than these slopes tell.
    """

    points: Mapping[str, tuple[FloatArray, FloatArray]]
    bent: float


@dataclass(frozen=True)
class Study(Solved):
    """One swing: tracks, checkpoints and scale, and from them any measure there is.

    Nothing here fails: what cannot be told is :class:`Failed` with a reason.
    """

    _paths: dict[tuple[str, ...], Paths] = field(default_factory=dict, compare=False)
    _ways: dict[str, Way | Failed] = field(default_factory=dict, compare=False)
    _known: dict[tuple[str, str], Estimate | Single | Failed] = field(default_factory=dict, compare=False)

    def paths(self, ends: tuple[str, ...]) -> Paths:
        """Whole paths as found and drawn between some checkpoints, for quantities of the whole swing."""
        known = self._paths.get(ends)
        if known is None:
            known = self._paths[ends] = draw_paths(self, ends)
        return known

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
        assert isinstance(told, Estimate)
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
        assert isinstance(told, Estimate)
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
        assert not isinstance(known, Estimate)
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

    def way(self, key: str) -> Way | Failed:
        """How a measure of frames is told in this view, by the points there are."""
        known = self._ways.get(key)
        if known is None:
            known = self._ways[key] = self._way(REGISTRY[key])
        return known

    def _way(self, entry: Measure) -> Way | Failed:
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
        return Failed(f"{entry.title} needs the {words}, neither seen nor marked here.", "points")

    def _told(self, key: str, where: str) -> Estimate | Single | Failed:
        known = self._known.get((key, where))
        if known is None:
            known = self._known[key, where] = self._tell(REGISTRY[key], where)
        return known

    def _tell(self, entry: Measure, where: str) -> Estimate | Failed:
        look = self.way(entry.key)
        if isinstance(look, Failed):
            return look
        if where == "frames" and not self.followed(look):
            return too_rough(entry)
        sample = self._frames if where == "frames" else self._moments
        return tell(look, sample, own=self._own(entry, look))

    def _own(self, entry: Measure, look: Way) -> float:
        """What the definition leaves open, in the unit in which the measure is told; written down in cm."""
        if entry.unit is Unit.LENGTH and isinstance(self.scale, Scale):
            return look.own / self.scale.cm_per_unit
        return look.own

    def followed(self, look: Way) -> bool:
        """Whether all its points are followed well enough all through."""
        return not any(
            anatomical(p, self.setup.hand) in self.setup.guessed for p in look.points if p in ROUGH
        )

    def guessed(self, look: Way) -> bool:
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
        assert isinstance(told, Estimate)
        index, zero = self._moments.names.index(checkpoint), np.zeros(2)
        now, then = told.slopes.now, told.slopes.then
        points = {p: (now[p][index] if p in now else zero, then[p][index] if p in then else zero)
                  for p in {**now, **then}}  # fmt: skip
        return Answers(points, float(told.bent[index]))

    def with_typed(self, typed: tuple[TypedValue, ...]) -> Study:
        """The study with other values typed in; nothing that is measured is computed again."""
        made = replace(self, setup=replace(self.setup, typed=typed))
        made.__dict__.update({name: self.__dict__[name] for name in KEPT if name in self.__dict__})
        return made

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
        moved = with_mark(self.tracks, name, mark.frame, np.array([mark.x, mark.y]), mark.sigma, old)
        camera = self.camera
        still = {
            one: track if camera is None else replace(track, xy=camera.steadied(track.xy))
            for one, track in moved.items()
        }
        spoken = {p for p in SPOKEN if anatomical(p, self.setup.hand) in moved}
        kept = {
            (key, where): told
            for (key, where), told in self._known.items()
            if not (isinstance(look := self.way(key), Way) and spoken & set(look.points)) and where != "once"
        }
        made = replace(
            self,
            tracks={**self.tracks, **moved},
            steadied={**self.steadied, **still},
            _known=kept,
            _paths={},
        )
        places = made.places
        if isinstance(places, Places):
            assert isinstance(self.places, Places)
            places.__dict__["swings"] = self.places.swings
            if not any(one.endswith(JOINTS) for one in moved):
                made.__dict__["closed"] = self.closed
            made.__dict__["_frames"] = self._frames.changed(spoken, places.sample(made.closed))
            made.__dict__["_moments"] = self._moments.changed(spoken, made._at_checkpoints(places))
        return made
