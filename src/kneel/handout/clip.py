"""A slow clip to take home: it waits at the checkpoints, with line, distance and a few plain words."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from kneel.footage import Clip, picture_of
from kneel.footage.writer import write_clip
from kneel.handout.stills import feet_of
from kneel.judge import Finding
from kneel.model import Hand, UsageError
from kneel.motion.drawn import Shaped, shape_of
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY
from kneel.motion.measures.lines import words_at
from kneel.motion.study import Study
from kneel.speech.home import plain
from kneel.speech.words import capital, checkpoint_words, length_words

Picture = NDArray[np.uint8]

RATE = 30.0
SLOWER = 6.0
"""So many times slower than life."""

WAITS_S = 2.2
HIGHEST_PX = 1080
SHIFT = 4
"""Bits of a pixel's fraction that lines are drawn by."""

DARK, LIGHT = (16, 22, 24), (250, 250, 246)
TOP_PX = 60.0


@dataclass(frozen=True)
class ClipStop:
    """A frame of the swing at which the clip waits, and what is written there."""

    frame: int
    words: str


def stops_of(finding: Finding, study: Study, moments: Sequence[str], hand: Hand) -> tuple[ClipStop, ...]:
    """Where the clip waits and what it says there, in the order of time."""
    measure = finding.measure or ""
    found = []
    for name in moments:
        point = study.checkpoints.get(name)
        if point is None:
            continue
        title = capital(plain(checkpoint_words(name).removeprefix("the "), hand))
        told = _told(study, measure, point.shown, hand)
        found.append(ClipStop(point.shown, f"{title}: {told}" if told and name != "address" else title))
    return tuple(sorted(found, key=lambda one: one.frame))


def write_slow(
    path: Path,
    clip: Clip,
    study: Study,
    start: int,
    finding: Finding,
    stops: Sequence[ClipStop],
    hand: Hand,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> None:
    """Write the clip as MP4 that phones play; ``start`` is the clip's first frame of the swing.

    Raises ``UsageError`` where the swing has no checkpoint to wait at, ``FootageError`` where reading or
    writing fails. Stopped half way it leaves nothing behind.
    """
    if not stops:
        raise UsageError("This swing has no checkpoint to wait at: pin the top and impact first.")
    first = max(stops[0].frame - 2, 0)
    last = min(stops[-1].frame + round(0.35 / _step_s(study)), len(study.times_s) - 1)
    size = _size(clip.upright.width, clip.upright.height)
    order = frames_of(study, first, last, stops)
    measure = finding.measure or ""
    address = study.checkpoints.get("address")

    def pictures() -> Iterator[Picture]:
        held, picture = (-1, ""), np.zeros((size[1], size[0], 3), np.uint8)
        for done, (frame, words) in enumerate(order, 1):
            if stopped():
                raise InterruptedError
            if (frame, words) != held:
                clean = picture_of(clip.frame(frame + start), clip.upright, size=size)
                shape = None
                if measure:
                    shape = shape_of(study, REGISTRY[measure], frame, address.shown if address else None)
                grown = size[0] / clip.upright.width
                feet = feet_of(study, frame)
                said = words or _told(study, measure, frame, hand)
                picture = drawn_on(
                    clean, shape, grown, None if feet is None else feet * grown, said, big=bool(words)
                )
                held = frame, words
            yield picture
            progress(done, len(order))

    write_clip(path, pictures(), rate=RATE, size=size, comment="Made with Kneel")


def drawn_on(
    clean: Picture, shape: Shaped | None, grown: float, feet: float | None, words: str, *, big: bool
) -> Picture:
    """A picture with a shape and words on it; ``grown`` is how many of its px are one of the shape's."""
    picture = np.ascontiguousarray(clean)
    if shape is not None:
        unit = max(picture.shape[0] / 720, 0.6)
        ground = feet if feet is not None else picture.shape[0] * 0.9
        for a, b, width in _lines(shape, grown, ground):
            _line(picture, a, b, DARK, (width + 3.0) * unit)
            _line(picture, a, b, LIGHT, width * unit)
    return _written(picture, words, big=big) if words else picture


def _lines(
    shape: Shaped, grown: float, ground: float
) -> Iterator[tuple[tuple[float, float], tuple[float, float], float]]:
    def at(place: tuple[float, float]) -> tuple[float, float]:
        return place[0] * grown, place[1] * grown

    for place in shape.plumbs:
        x, _ = at(place)
        yield (x, max(at(shape.at)[1] - TOP_PX * 2, 0.0)), (x, ground), 2.0
    for a, b in (*shape.faint, *shape.firm):
        yield at(a), at(b), 2.0
    if shape.gap is not None:
        yield at(shape.gap[0]), at(shape.gap[1]), 5.0


def _line(
    picture: Picture,
    a: tuple[float, float],
    b: tuple[float, float],
    colour: tuple[int, int, int],
    width: float,
) -> None:
    ends = [tuple(round(c * (1 << SHIFT)) for c in end) for end in (a, b)]
    cv2.line(picture, ends[0], ends[1], colour, max(round(width), 1), cv2.LINE_AA, SHIFT)


def _written(picture: Picture, words: str, *, big: bool) -> Picture:
    """Words on a dark band along the foot of the picture."""
    height, width = picture.shape[:2]
    size = round(max(width, height) / (32 if big else 44))
    type_ = _type(size)
    image = Image.fromarray(picture)
    pen = ImageDraw.Draw(image, "RGBA")
    lines = _broken(words, type_, width * 0.92)
    line_high = round(size * 1.3)
    top = height - line_high * len(lines) - size
    pen.rectangle((0, top, width, height), fill=(*DARK, 205))
    for k, line in enumerate(lines):
        x = (width - type_.getlength(line)) / 2
        pen.text((x, top + size * 0.45 + k * line_high), line, font=type_, fill=(*LIGHT, 255))
    return np.asarray(image)


def _broken(words: str, type_: ImageFont.FreeTypeFont, width: float) -> list[str]:
    lines: list[str] = []
    for word in words.split():
        if lines and type_.getlength(f"{lines[-1]} {word}") <= width:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines


@cache
def _type(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(io.BytesIO((files("kneel.fonts") / "Inter-SemiBold.otf").read_bytes()), size)


def _told(study: Study, measure: str, frame: int, hand: Hand) -> str:
    """What a measure comes to on a frame, in plain words; empty where it is not told."""
    series = study.measure(measure) if measure in REGISTRY else None
    if series is None or isinstance(series, Failed):
        return ""
    value, sigma = float(series.values[frame]), float(series.sigma[frame])
    if not np.isfinite(value) or abs(value) < sigma:
        return ""
    words = plain(words_at(REGISTRY[measure], study.setup.view, value), hand)
    return f"{words}, {length_words(abs(value), None, series.unit, signed=False)}"


def frames_of(study: Study, first: int, last: int, stops: Sequence[ClipStop]) -> list[tuple[int, str]]:
    """Which frame of the swing stands on each of the new clip's, and what is written there."""
    times = study.times_s
    wait = round(WAITS_S * RATE)
    order: list[tuple[int, str]] = []
    at, waiting = times[first], list(stops)
    while at <= times[last] + 1e-9:
        frame = min(int(np.searchsorted(times, at + 1e-9, side="right")) - 1, last)
        if waiting and frame >= waiting[0].frame:
            stop = waiting.pop(0)
            order += [(stop.frame, stop.words)] * wait
            at = max(at, times[stop.frame])
        else:
            order.append((frame, ""))
        at += 1 / RATE / SLOWER
    return order


def _step_s(study: Study) -> float:
    return float(np.median(np.diff(study.times_s)))


def _size(width: int, height: int) -> tuple[int, int]:
    """The new clip's size: even, and no larger than phones like."""
    share = min(1.0, HIGHEST_PX / min(width, height))
    return int(width * share) // 2 * 2, int(height * share) // 2 * 2
