"""The two networks: where a body is, and where its landmarks are in a crop.

The files come out of a registry package by a set-up step of the project
(``tools/body_model.py``); without them, or without the runtime that runs
them, Kneel says so and works with marks by hand, flow and colour.
"""

from __future__ import annotations

import contextlib
import importlib.util
import os
import sys
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import platformdirs
from numpy.typing import NDArray

from kneel.model import KneelError
from kneel.vision.landmarks.region import Region

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

DETECTOR, LANDMARKS = "pose_detection.tflite", "pose_landmark_full.tflite"
DETECTOR_SIZE, CROP_SIZE, HEAT_SIZE = 224, 256, 64
LEAST_SCORE = 0.5
OVERLAP = 0.3
_ONE_AT_A_TIME = threading.Lock()
WINDOW = 4
"""Half the window, in cells of the heat map, over which a landmark is refined."""


class BodyModelError(KneelError):
    """The body-landmark network is not installed."""


@dataclass(frozen=True)
class Found:
    """Landmarks (39, 2) in crop px, ``visible`` (39,) 0..1.

    ``presence`` 0..1 is the network's own word on whether a body is there,
    ``mask`` (256, 256) the logits of which pixels of the crop are body.
    """

    xy: FloatArray
    visible: FloatArray
    presence: float
    mask: FloatArray


def model_folder() -> Path | None:
    """Where the networks' files lie: beside the installed program, or in the user's data."""
    for folder in (
        Path(sys.prefix) / "share" / "kneel" / "models",
        platformdirs.user_data_path("kneel") / "models",
    ):
        if all((folder / name).is_file() for name in (DETECTOR, LANDMARKS)):
            return folder
    return None


def installed() -> bool:
    """True where the networks and what runs them are there."""
    return importlib.util.find_spec("ai_edge_litert") is not None and model_folder() is not None


class Networks:
    """Both networks, ready to run; one object per thread. Raises ``BodyModelError``."""

    def __init__(self, threads: int = 1) -> None:
        folder = model_folder()
        if folder is None or not installed():
            raise BodyModelError(
                "The body-landmark network is not installed, so joints are not found by themselves: "
                "mark them by hand, or run tools/body_model.py once."
            )
        from ai_edge_litert.interpreter import Interpreter  # type: ignore[import-untyped]

        with _quiet():
            self._detector, self._landmarks = (
                Interpreter(model_path=str(folder / name), num_threads=threads)
                for name in (DETECTOR, LANDMARKS)
            )
            for network in (self._detector, self._landmarks):
                network.allocate_tensors()
        self._anchors = _anchors()

    def detect(self, picture: Picture) -> list[tuple[float, Region]]:
        """Bodies in a picture (H, W, 3) RGB, best first: score and the square to look at."""
        height, width = picture.shape[:2]
        side = max(height, width)
        square = np.zeros((side, side, 3), np.uint8)
        top, left = (side - height) // 2, (side - width) // 2
        square[top : top + height, left : left + width] = picture
        small = cv2.resize(square, (DETECTOR_SIZE, DETECTOR_SIZE), interpolation=cv2.INTER_LINEAR)
        out = _run(self._detector, small.astype(np.float32) / np.float32(127.5) - 1)
        boxes, logits = out["Identity"].reshape(-1, 12), out["Identity_1"].ravel()
        scores = _sigmoid(logits)
        kept = np.flatnonzero(scores >= LEAST_SCORE)
        places = boxes[kept].astype(np.float64) / DETECTOR_SIZE
        places[:, [0, 1, 4, 5, 6, 7, 8, 9, 10, 11]] += np.tile(self._anchors[kept], 5)
        found = []
        for score, place in _merged(scores[kept], places):
            points = place[4:].reshape(-1, 2) * side - (left, top) - 0.5
            found.append((score, Region.round_points(points[0], points[1])))
        return found

    def landmarks(self, picture: Picture, region: Region, *, mirrored: bool = False) -> Found:
        """Landmarks of the body in a region of a picture (H, W, 3) RGB."""
        out = _run(self._landmarks, region.crop(picture, CROP_SIZE, mirrored=mirrored))
        raw = out["Identity"].reshape(39, 5).astype(np.float64)
        heat = _sigmoid(out["Identity_3"].reshape(HEAT_SIZE, HEAT_SIZE, 39))
        xy, visible = _refined(raw[:, :2], heat), _sigmoid(raw[:, 3])
        mask = out["Identity_2"].reshape(CROP_SIZE, CROP_SIZE).astype(np.float64)
        if mirrored:
            xy[:, 0] = CROP_SIZE - xy[:, 0]
            swapped = _swapped_sides()
            xy, visible, mask = xy[swapped], visible[swapped], mask[:, ::-1]
        return Found(xy, visible, float(out["Identity_1"].ravel()[0]), mask)


@contextlib.contextmanager
def _quiet() -> Iterator[None]:
    """Keep the runtime's own greeting, which no setting silences, off standard error."""
    with _ONE_AT_A_TIME, Path(os.devnull).open("w") as nowhere:
        kept = os.dup(2)
        os.dup2(nowhere.fileno(), 2)
        try:
            yield
        finally:
            os.dup2(kept, 2)
            os.close(kept)


def _run(network: Any, picture: NDArray[np.float32]) -> dict[str, NDArray[Any]]:
    network.set_tensor(network.get_input_details()[0]["index"], picture[None])
    network.invoke()
    return {d["name"]: network.get_tensor(d["index"]) for d in network.get_output_details()}


def _sigmoid(x: NDArray[Any]) -> FloatArray:
    return np.asarray(1 / (1 + np.exp(-np.clip(x.astype(np.float64), -60, 60))))


def _anchors() -> FloatArray:
    """Middles of the detector's anchors, (2254, 2), shares of the square."""
    parts = []
    for cells, each in ((28, 2), (14, 2), (7, 6)):
        centre = (np.arange(cells) + 0.5) / cells
        x, y = np.meshgrid(centre, centre)
        parts.append(np.repeat(np.stack([x.ravel(), y.ravel()], axis=1), each, axis=0))
    return np.concatenate(parts)


def _merged(scores: FloatArray, places: FloatArray) -> list[tuple[float, FloatArray]]:
    """Weighted non-maximum suppression: overlapping finds become their weighted mean."""
    left = np.argsort(-scores)
    out = []
    while left.size:
        same = _overlap(places[left[0]], places[left]) > OVERLAP
        same[0] = True
        group = left[same]
        weight = scores[group][:, None]
        out.append((float(scores[left[0]]), (places[group] * weight).sum(axis=0) / weight.sum()))
        left = left[~same]
    return out


def _overlap(one: FloatArray, many: FloatArray) -> FloatArray:
    """Intersection over union of boxes given by middle and size."""
    low = np.maximum(one[:2] - one[2:4] / 2, many[:, :2] - many[:, 2:4] / 2)
    high = np.minimum(one[:2] + one[2:4] / 2, many[:, :2] + many[:, 2:4] / 2)
    shared = np.prod(np.maximum(high - low, 0), axis=1)
    union = one[2] * one[3] + many[:, 2] * many[:, 3] - shared
    return np.asarray(shared / np.maximum(union, 1e-12))


def _refined(xy: FloatArray, heat: FloatArray) -> FloatArray:
    """Landmarks moved to the centroid of their heat, where there is enough of it."""
    out = xy.copy()
    for k, (x, y) in enumerate(xy * HEAT_SIZE / CROP_SIZE):
        column, row = int(x), int(y)
        if not (0 <= column < HEAT_SIZE and 0 <= row < HEAT_SIZE):
            continue
        x0, x1 = max(0, column - WINDOW), min(HEAT_SIZE, column + WINDOW + 1)
        y0, y1 = max(0, row - WINDOW), min(HEAT_SIZE, row + WINDOW + 1)
        part = heat[y0:y1, x0:x1, k]
        if part.max() >= LEAST_SCORE:
            middle = part.sum(axis=0) @ np.arange(x0, x1), part.sum(axis=1) @ np.arange(y0, y1)
            out[k] = np.array(middle) / part.sum() * CROP_SIZE / HEAT_SIZE
    return out


def _swapped_sides() -> NDArray[np.int64]:
    """Numbers of the landmarks with left and right exchanged."""
    order = np.arange(39)
    for a, b in ((1, 4), (2, 5), (3, 6), (7, 8), (9, 10)):
        order[[a, b]] = b, a
    for a in range(11, 33, 2):
        order[[a, a + 1]] = a + 1, a
    return order
