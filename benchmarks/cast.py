"""Drawn clips for measuring accuracy: golfers, places and cameras by a seed, no two alike."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from pathlib import Path

import numpy as np

from kneel.model import Club, Hand, Stature, Swing, View
from kneel.sim.build import CHILD, MAN, WOMAN
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.golfer import Golfer
from kneel.sim.held import Held
from kneel.sim.look import Appearance, FilmPlace, Light, Outfit, Weave
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import Truth

VIEWS = (View.FACE_ON, View.DOWN_THE_LINE)
PATTERNS = ("neutral", "centred", "loading", "forward", "braced")
FAULTS = {
    "sway": (3, 10),
    "slide": (3, 8),
    "reverse_pivot": (3, 8),
    "early_extension": (3, 9),
    "hang_back": (3, 9),
    "flat_turn": (3, 8),
    "lead_knee_collapse": (2, 5),
    "posture_loss": (4, 10),
}


class Style(StrEnum):
    """Ways of drawing that differ in silhouette, cloth, light, distance, focus and face."""

    CLOSE = "close"
    LOOSE = "loose"
    SHORTS = "shorts"
    SKIRT = "skirt"
    HEAVY = "heavy"
    CHILD = "child"


@dataclass(frozen=True)
class Cast:
    """One drawn clip: its name, in which style, and what makes it."""

    name: str
    style: Style
    shoot: Shoot

    @cached_property
    def truth(self) -> Truth:
        """What is exactly so."""
        return self.shoot.truth()

    @property
    def swing(self) -> Swing:
        """The document of it that says who swings, how tall, and from where that is filmed."""
        golfer = self.shoot.golfer
        swing = Swing(hand=golfer.hand, club=golfer.club)
        return swing.given(view=self.shoot.camera.view, scale=Stature(golfer.stature_cm))


def cast(seed: int, count: int) -> Iterator[Cast]:
    """``count`` clips by a seed, through all styles, face-on and down the line by turns; some from behind."""
    styles = list(Style)
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        style, view = styles[number // len(VIEWS) % len(styles)], VIEWS[number % len(VIEWS)]
        if view is View.FACE_ON and rng.random() < 0.2:
            view = View.REAR
        yield Cast(f"{seed}-{number:02d}-{style}", style, _shoot(rng, style, view))


def held(seed: int, count: int) -> Iterator[Cast]:
    """The same clips from a camera in a hand, steadier or less; every fourth follows the golfer a little."""
    for number, one in enumerate(cast(seed, count)):
        rng = np.random.default_rng([seed, number, 1])
        pan = float(rng.uniform(-3, 3)) if number % 4 == 3 else 0.0
        hand = Held.turning(float(rng.uniform(0.1, 0.4)), pan, int(rng.integers(1, 10**6)))
        shoot = replace(one.shoot, camera=replace(one.shoot.camera, held=hand))
        yield Cast(f"{one.name}-held", one.style, shoot)


def _shoot(rng: np.random.Generator, style: Style, view: View) -> Shoot:
    hand = Hand.LEFT if rng.random() < 0.3 else Hand.RIGHT
    golfer = golfer_of(rng, style, hand)
    chosen = rng.choice(list(FAULTS), size=int(rng.integers(0, 3)), replace=False)
    size = golfer.stature_cm / 175
    plan = SwingPlan(
        {str(name): size * float(rng.uniform(*FAULTS[name])) for name in chosen},
        str(rng.choice(PATTERNS)),
        tempo=float(rng.uniform(0.88, 1.2)),
        variation=0.7,
        seed=int(rng.integers(1, 10**6)),
    )
    # The body stands 40 to 80 % of the picture's height tall.
    distance, tall = float(rng.uniform(370, 600)), float(rng.uniform(0.42, 0.80))
    camera = Camera(
        view,
        hand,
        distance_cm=distance,
        camera_height_cm=float(rng.uniform(85, 130)),
        yaw_deg=float(rng.normal(0, 3)),
        roll_deg=float(rng.normal(0, 0.7)),
        focal_px=tall * 720 * distance / (1.08 * golfer.stature_cm),
        aim_cm=(0.0, 25.0, 0.56 * golfer.stature_cm),
        barrel=(float(rng.choice([0.0, -0.03])), 0.0),
        exposure_s=float(rng.choice([0.0, 0.0015])),
    )
    return Shoot(
        golfer,
        plan,
        camera,
        float(rng.choice([60.0, 60.0, 120.0])),
        int(rng.integers(1, 10**6)),
        FilmPlace(rng.choice([p.value for p in FilmPlace])),
        Light(rng.choice([p.value for p in Light])),
        noise=float(rng.uniform(1.5, 4.0)),
        quality=int(rng.integers(20, 27)),
        focus_px=float(rng.choice([0.0, 0.0, 0.8, 1.5])),
    )


def golfer_of(rng: np.random.Generator, style: Style, hand: Hand) -> Golfer:
    """Somebody of this style: a body of the table with people's spread, clothes, a head."""
    colour = lambda low, high: tuple(int(v) for v in rng.integers(low, high, 3))  # noqa: E731
    outfits = {
        Style.SHORTS: Outfit.SHORTS,
        Style.SKIRT: Outfit.SKIRT,
        Style.LOOSE: Outfit.WIDE,
        Style.CHILD: Outfit.SHORTS if rng.random() < 0.5 else Outfit.TROUSERS,
    }
    look = Appearance(
        shirt=colour(40, 235),
        trousers=colour(25, 190),
        hair=colour(20, 190),
        skin=tuple(int(v) for v in (np.array([214, 168, 138]) * rng.uniform(0.45, 1.08))),
        outfit=outfits.get(style, Outfit.TROUSERS),
        weave=Weave(rng.choice([w.value for w in Weave])),
        untucked=style is Style.LOOSE or (style is Style.HEAVY and rng.random() < 0.6),
        face=bool(rng.random() > 0.25),
        long_hair=bool(rng.random() < (0.8 if style is Style.SKIRT else 0.25)),
        cap=colour(30, 240) if rng.random() < 0.4 else None,
        loose_cm={Style.LOOSE: 3.0, Style.SKIRT: 2.0}.get(style, float(rng.choice([0.0, 0.8, 1.5]))),
    )
    table, low, high = MAN, 160, 197
    if style is Style.CHILD:
        table, low, high = CHILD, 118, 150
    elif style is Style.SKIRT or rng.random() < 0.35:
        table, low, high = WOMAN, 150, 182
    girth = (1.22, 1.45) if style is Style.HEAVY else (0.86, 1.18)
    return Golfer(
        float(rng.uniform(low, high)),
        hand,
        Club(rng.choice([c.value for c in Club])),
        float(rng.uniform(*girth)),
        look=look,
        build=table.drawn(rng),
    )


def filmed(folder: Path, clips: Iterable[Cast]) -> Iterator[tuple[Cast, Path]]:
    """The clips as files in ``folder``; those already there are not drawn again."""
    folder.mkdir(parents=True, exist_ok=True)
    for one in clips:
        path = folder / f"{one.name}.mp4"
        if not path.exists():
            part = path.with_suffix(".part.mp4")
            film(one.shoot, part)
            part.replace(path)
            print(f"filmed {path.name}", file=sys.stderr, flush=True)
        yield one, path


if __name__ == "__main__":
    for _ in filmed(Path(sys.argv[1]), cast(int(sys.argv[2]), int(sys.argv[3]))):
        pass
