"""Clips as people really send them: drawn ones spoilt afterwards, looked at bare and held against the truth.

    python -m benchmarks.spoilt [SEED] [COUNT] [NAME,NAME,…]

What is stored by one program and cut by another: frames twice or lacking, a stand that is kicked, a zoom,
light that goes, writing over the picture, a head or feet cut off, a face made unknowable, a flash, sides that
were filled, a screen that was filmed. A number is right where the truth lies within its stated error; a clip
of which nothing may be told should say so.
"""

from __future__ import annotations

import itertools
import sys
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

import cv2
import numpy as np
import platformdirs
from numpy.typing import NDArray

from benchmarks.accuracy import analysis_of
from benchmarks.cast import Cast, cast, filmed
from benchmarks.swings import Case, off
from kneel.footage import Clip, write_clip
from kneel.sim.sound import RATE, swing_sound

Picture = NDArray[np.uint8]
Spoil = Callable[[Iterator[Picture], Cast], Iterator[Picture]]

SEED, COUNT = 9820, 4
COARSE = 40
FARTHEST = 10.0
"""An error of more stated ones counts as so many: one number that is far off is not all there is to say."""


def _each(change: Callable[[Picture, int, Cast], Picture]) -> Spoil:
    """A change of every picture by itself, told its number."""

    def spoil(pictures: Iterator[Picture], one: Cast) -> Iterator[Picture]:
        return (np.ascontiguousarray(change(shown, n, one)) for n, shown in enumerate(pictures))

    return spoil


def _frame(one: Cast, checkpoint: str) -> int:
    return int((one.truth.checkpoints_s[checkpoint] - one.shoot.start_s) * one.shoot.rate)


def _twice(pictures: Iterator[Picture], _: Cast) -> Iterator[Picture]:
    return (shown for shown in pictures for _ in "ab")


def _lacking(pictures: Iterator[Picture], _: Cast) -> Iterator[Picture]:
    """One frame of five is the one before it."""
    lacks, last = np.random.default_rng(3), None
    for shown in pictures:
        if last is None or lacks.random() > 0.2:
            last = shown
        yield last


def _moved(shown: Picture, right: float, down: float, zoom: float = 1.0) -> Picture:
    height, width = shown.shape[:2]
    about = np.array([(1 - zoom) * width / 2 + right, (1 - zoom) * height / 2 + down])
    matrix = np.column_stack([zoom * np.eye(2), about])
    return np.asarray(
        cv2.warpAffine(shown, matrix, (width, height), borderMode=cv2.BORDER_REPLICATE), np.uint8
    )


def _kicked(shown: Picture, n: int, one: Cast) -> Picture:
    """A stand that is kicked half way back swings out within a tenth of a second, 14 px aside."""
    since = (n - _frame(one, "half_back")) / one.shoot.rate
    far = 14 * (1 - np.exp(-since / 0.03) * np.cos(since / 0.02)) if since > 0 else 0.0
    return _moved(shown, far, -0.6 * far)


def _zoomed(shown: Picture, n: int, one: Cast) -> Picture:
    done = np.clip((n / _frame(one, "finish") - 0.2) / 0.6, 0, 1)
    return _moved(shown, 0, 0, 1 + 0.15 * float(done))


def _darker(shown: Picture, n: int, one: Cast) -> Picture:
    going = np.clip((n - _frame(one, "half_back")) / (0.25 * one.shoot.rate), 0, 1)
    return (shown * (1 - 0.5 * going)).astype(np.uint8)


def _written_over(shown: Picture, n: int, _: Cast) -> Picture:
    out, (height, width) = shown.copy(), shown.shape[:2]
    cv2.putText(out, f"00:{n // 60:02d}.{n % 60:02d}", (30, 60), 0, 1.6, (255, 255, 255), 4)
    cv2.putText(out, "SALTMARSH", (width // 2 - 200, height - 30), 0, 2, (255, 255, 255), 5)
    cv2.circle(out, (width // 2 + 140, height // 2), 90, (255, 255, 0), 3)
    cv2.line(out, (width // 2 - 60, 0), (width // 2 - 60, height), (255, 0, 0), 3)
    return out


def _without_feet(shown: Picture, _: int, one: Cast) -> Picture:
    ankles = [one.truth.pixels[name][:, 1] for name in ("left_ankle", "right_ankle")]
    return shown[: int(np.nanmin(ankles) - 10) // 2 * 2]


def _without_head(shown: Picture, _: int, one: Cast) -> Picture:
    return shown[int(one.truth.pixels["head"][0, 1] + 10 / one.truth.cm_per_px) // 2 * 2 :]


def _behind_a_bag(shown: Picture, _: int, one: Cast) -> Picture:
    out, (x, y) = shown.copy(), one.truth.pixels["left_ankle"][0].astype(int).tolist()
    cv2.rectangle(out, (x - 45, y - 110), (x + 35, y + 40), (60, 25, 25), -1)
    cv2.circle(out, (x - 5, y - 110), 38, (30, 30, 70), -1)
    return out


def _unknowable(shown: Picture, n: int, one: Cast) -> Picture:
    """The face in nine squares."""
    heads = one.truth.pixels["head"]
    (x, y), half = heads[min(n, len(heads) - 1)].astype(int).tolist(), int(11 / one.truth.cm_per_px)
    out = shown.copy()
    face = out[max(y - half, 0) : y + half, max(x - half, 0) : x + half]
    if face.size:
        few = cv2.resize(face, (3, 3), interpolation=cv2.INTER_AREA)
        face[:] = cv2.resize(few, face.shape[1::-1], interpolation=cv2.INTER_NEAREST)
    return out


def _flashed(shown: Picture, n: int, one: Cast) -> Picture:
    return np.full_like(shown, 250) if n == _frame(one, "half_down") else shown


def _sides_filled(shown: Picture, _: int, __: Cast) -> Picture:
    """An upright clip in a wide frame, its own middle blurred behind it."""
    height, width = shown.shape[:2]
    half = height * 9 // 32
    middle = shown[:, width // 2 - half : width // 2 + half]
    wide = cv2.resize(middle, (width, width * height // middle.shape[1]))
    top = (wide.shape[0] - height) // 2
    out = np.asarray(cv2.GaussianBlur(wide, (0, 0), 18)[top : top + height], np.uint8)
    out[:, width // 2 - half : width // 2 + half] = middle
    return out


def _off_a_screen(shown: Picture, _: int, __: Cast) -> Picture:
    """Tilted by 3°, soft, with the stripes that two grids make."""
    height, width = shown.shape[:2]
    turned = cv2.warpAffine(shown, cv2.getRotationMatrix2D((width / 2, height / 2), 3, 0.93), (width, height))
    y, x = np.mgrid[:height, :width]
    stripes = 1 + 0.06 * np.sin(2 * np.pi * (0.31 * x + 0.05 * y))[:, :, None]
    return np.clip(cv2.GaussianBlur(turned * stripes, (0, 0), 1.0), 0, 255).astype(np.uint8)


def _interlaced(pictures: Iterator[Picture], _: Cast) -> Iterator[Picture]:
    last = None
    for shown in pictures:
        out = shown.copy()
        if last is not None:
            out[1::2] = last[1::2]
        last = shown
        yield out


def _until(checkpoint: str, more_s: float) -> Spoil:
    def spoil(pictures: Iterator[Picture], one: Cast) -> Iterator[Picture]:
        return itertools.islice(pictures, _frame(one, checkpoint) + round(more_s * one.shoot.rate))

    return spoil


SPOILT: dict[str, Spoil] = {
    "as it was": _each(lambda shown, n, one: shown),
    "every frame twice": _twice,
    "one frame of five lacking": _lacking,
    "the stand kicked": _each(_kicked),
    "zoomed by 15 %": _each(_zoomed),
    "half the light gone": _each(_darker),
    "written over": _each(_written_over),
    "without feet": _each(_without_feet),
    "without a head": _each(_without_head),
    "behind a bag": _each(_behind_a_bag),
    "the face unknowable": _each(_unknowable),
    "grey": _each(lambda shown, n, one: np.repeat(cv2.cvtColor(shown, cv2.COLOR_RGB2GRAY)[:, :, None], 3, 2)),
    "one white frame": _each(_flashed),
    "sides filled": _each(_sides_filled),
    "off a screen": _each(_off_a_screen),
    "240 lines": _each(lambda shown, n, one: cv2.resize(shown, (426, 240), interpolation=cv2.INTER_AREA)),
    "interlaced": _interlaced,
    "coded very coarsely": _each(lambda shown, n, one: shown),
    "ends after impact": _until("impact", 0.06),
    "on its side": _each(lambda shown, n, one: np.rot90(shown)),
}


def spoilt(one: Cast, path: Path, name: str) -> Path:
    """A drawn clip, spoilt, beside it; the one that is there already is not made again."""
    made = path.with_name(f"{path.stem}-{name.replace(' ', '-').replace('%', 'percent')}.mp4")
    if made.exists():
        return made
    with Clip(path) as clip:
        every = SPOILT[name]((frame.to_ndarray(format="rgb24") for _, frame in clip.frames()), one)
        first = next(every)
        length = len(one.truth.pixels["head"]) / one.shoot.rate
        sound = swing_sound(length, one.truth.checkpoints_s["impact"] - one.shoot.start_s, one.shoot.seed)
        write_clip(
            made,
            itertools.chain([first], every),
            rate=one.shoot.rate * (2 if name == "every frame twice" else 1),
            size=(first.shape[1] // 2 * 2, first.shape[0] // 2 * 2),
            sound=(sound, RATE),
            quality=COARSE if name == "coded very coarsely" else 22,
        )
    return made


def told(one: Cast, path: Path) -> tuple[list[float], tuple[str, ...]]:
    """Every number that is told of a clip, off by so many stated errors, and what is said of the clip."""
    case = Case(analysis_of(path, one.swing, ()), one.truth, one.shoot)
    rows = [off(key, told.value, true) / max(told.sigma, 1e-9) for key, _, told, true in case.told()]
    return rows, case.study.warnings


def page(seed: int, count: int, names: list[str]) -> str:
    """How far off numbers are, by how the clips were spoilt."""
    folder = platformdirs.user_cache_path("kneel") / "spoilt"
    found: dict[str, list[float]] = defaultdict(list)
    for one, path in filmed(folder, cast(seed, count)):
        for name in names:
            numbers, said = told(one, spoilt(one, path, name))
            found[name] += numbers
            print(f"{one.name} {name}: {len(numbers)} numbers. {' '.join(said)}", file=sys.stderr, flush=True)
    return table("spoilt", {name: found[name] for name in names})


def table(title: str, found: Mapping[str, list[float]]) -> str:
    """How far off numbers are, in stated errors, by what was done to the clips."""
    lines = [f"| {title} | numbers | factor | beyond two | beyond three |", "| --- | --- | --- | --- | --- |"]
    for name, numbers in found.items():
        off_by = np.abs(numbers)
        if not off_by.size:
            lines.append(f"| {name} | none |  |  |  |")
            continue
        factor = np.sqrt((np.minimum(off_by, FARTHEST) ** 2).mean())
        shares = " | ".join(f"{100 * (off_by > k).mean():.1f} %" for k in (2, 3))
        lines.append(f"| {name} | {off_by.size} | {factor:.2f} | {shares} |")
    return "\n".join(lines)


def print_page(page: Callable[[int, int, list[str]], str], seed: int, count: int, every: list[str]) -> None:
    """The page of what is asked for on the command line, by seed, count and names."""
    given = dict(enumerate(sys.argv[1:]))
    names = given[2].split(",") if 2 in given else every
    print(page(int(given.get(0, seed)), int(given.get(1, count)), names))


if __name__ == "__main__":
    print_page(page, SEED, COUNT, list(SPOILT))
