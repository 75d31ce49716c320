"""Points as COCO keypoints: what many general programs for poses read and write.

An image a frame, an annotation a body. The seventeen points that COCO names stand first and in its order
(face points are never known here); what it lacks follows by our own names. Places are as everywhere here: px
of the upright picture, whole numbers on the centres of pixels. Each annotation also carries the points'
errors (``kneel_sigma_px``), each image its time, which other programs pass over.

Format: T.-Y. Lin and others, Microsoft COCO, ECCV 2014; cocodataset.org, data format (from memory).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from kneel.disk import TooLargeError, read_bounded, shown, write_bytes
from kneel.documents.points_csv import LARGEST_BYTES, MOST_FRAMES, demand_times
from kneel.model import POINTS, PointRows, PointsError
from kneel.model.take import LARGEST_PX

SUFFIX = ".coco.json"
FACE = ("nose", "left_eye", "right_eye", "left_ear", "right_ear")
PAIRED = ("shoulder", "elbow", "wrist", "hip", "knee", "ankle")
NAMED = (*FACE, *(f"{side}_{joint}" for joint in PAIRED for side in ("left", "right")))
"""The points of COCO in its order."""

OWN = tuple(point for point in POINTS if point not in NAMED)
KEYPOINTS = (*NAMED, *OWN)
LIMBS = (
    ("left_ankle", "left_knee"),
    ("left_knee", "left_hip"),
    ("right_ankle", "right_knee"),
    ("right_knee", "right_hip"),
    ("left_hip", "right_hip"),
    ("left_shoulder", "left_hip"),
    ("right_shoulder", "right_hip"),
    ("left_shoulder", "right_shoulder"),
    ("left_shoulder", "left_elbow"),
    ("right_shoulder", "right_elbow"),
    ("left_elbow", "left_wrist"),
    ("right_elbow", "right_wrist"),
    ("grip", "clubhead"),
)
GOLFER = 1
SEEN = 2

Rows = Iterable[tuple[int, float, str, float, float, float | None]]


def write_coco(path: Path, rows: Rows, *, clip: str, width: int, height: int) -> None:
    """Write rows of frame, time (s), point, x, y and sigma (or None) as COCO keypoints.

    Raises ``OSError``.
    """
    frames: dict[int, tuple[float, dict[str, tuple[float, float, float | None]]]] = {}
    for frame, time_s, point, x, y, sigma in rows:
        frames.setdefault(frame, (time_s, {}))[1][point] = (x, y, sigma)
    images, bodies = [], []
    for frame, (time_s, points) in sorted(frames.items()):
        images.append(
            {
                "id": frame,
                "file_name": f"{clip}#{frame}",
                "width": width,
                "height": height,
                "time_s": round(time_s, 6),
            }
        )
        bodies.append(_body(frame, points))
    content = {
        "info": {"description": f"Points of {clip}", "version": "1"},
        "images": images,
        "annotations": bodies,
        "categories": [
            {
                "id": GOLFER,
                "name": "golfer",
                "supercategory": "person",
                "keypoints": list(KEYPOINTS),
                "skeleton": [[KEYPOINTS.index(name) + 1 for name in limb] for limb in LIMBS],
            }
        ],
    }
    write_bytes(path, msgspec.json.encode(content) + b"\n")


def _body(frame: int, points: Mapping[str, tuple[float, float, float | None]]) -> dict[str, Any]:
    flat: list[float] = []
    sigma: list[float | None] = []
    for name in KEYPOINTS:
        known = points.get(name)
        flat += (0.0, 0.0, 0) if known is None else (round(known[0], 3), round(known[1], 3), SEEN)
        sigma.append(None if known is None or known[2] is None else round(known[2], 3))
    places = np.array([place[:2] for place in points.values()])
    left, top = places.min(axis=0)
    wide, high = places.max(axis=0) - (left, top)
    return {
        "id": frame + 1,
        "image_id": frame,
        "category_id": GOLFER,
        "iscrowd": 0,
        "keypoints": flat,
        "num_keypoints": len(points),
        "bbox": [round(float(v), 3) for v in (left, top, wide, high)],
        "area": round(float(wide * high), 3),
        "kneel_sigma_px": sigma,
    }


class _Image(msgspec.Struct):
    id: int
    time_s: float | None = None


class _Annotation(msgspec.Struct):
    image_id: int
    keypoints: list[float]
    category_id: int = GOLFER
    kneel_sigma_px: list[float | None] = []


class _Category(msgspec.Struct):
    id: int
    keypoints: list[str] = []


class _Coco(msgspec.Struct):
    images: list[_Image]
    annotations: list[_Annotation]
    categories: list[_Category]


def read_coco(path: Path, rate: float | None = None) -> PointRows:
    """Read points from COCO keypoints: one body a picture; points that nobody here knows are passed over.

    ``rate`` is how many pictures a second there are, where the file does not tell times. Raises
    :class:`PointsError`.
    """
    name = shown(path.name)
    try:
        told = msgspec.json.decode(read_bounded(path, LARGEST_BYTES), type=_Coco)
    except FileNotFoundError as error:
        raise PointsError(f"There is no file {shown(path)}.") from error
    except TooLargeError as error:
        raise PointsError(
            f"{name} is larger than a points file can be ({LARGEST_BYTES >> 20} MB)."
        ) from error
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError) as error:
        raise PointsError(f"{name} holds no COCO keypoints that can be read.") from error
    names = {one.id: one.keypoints for one in told.categories}
    bodies: dict[int, _Annotation] = {}
    for body in told.annotations:
        if body.image_id in bodies:
            raise PointsError(
                f"{name}: two bodies stand on picture {body.image_id}; keep the golfer's alone."
            )
        bodies[body.image_id] = body
    images = sorted((one for one in told.images if one.id in bodies), key=lambda one: one.id)
    if not images or len(images) > MOST_FRAMES:
        raise PointsError(f"{name} holds no body, or more pictures than a swing has.")
    times_s = np.array([np.nan if one.time_s is None else one.time_s for one in images])
    frames = np.array([one.id for one in images], dtype=np.int64)
    if not np.isfinite(times_s).all():
        if rate is None:
            raise PointsError(
                f"{name} does not tell when its pictures are: say how many a second, by --fps-capture."
            )
        times_s = frames / rate
    demand_times(name, frames, times_s)
    xy: dict[str, np.ndarray] = {}
    sigma: dict[str, np.ndarray] = {}
    for k, image in enumerate(images):
        body = bodies[image.id]
        known = names.get(body.category_id, [])
        if len(body.keypoints) != 3 * len(known):
            raise PointsError(f"{name}: the body on picture {image.id} has not the points its kind has.")
        for j, point in enumerate(known):
            x, y, seen = body.keypoints[3 * j : 3 * j + 3]
            if point not in POINTS or seen <= 0:
                continue
            if not (abs(x) <= LARGEST_PX and abs(y) <= LARGEST_PX):
                raise PointsError(f"{name}: {point} on picture {image.id} lies nowhere.")
            if point not in xy:
                xy[point] = np.full((len(images), 2), np.nan)
                sigma[point] = np.full(len(images), np.nan)
            xy[point][k] = x, y
            if j < len(body.kneel_sigma_px) and body.kneel_sigma_px[j] is not None:
                sigma[point][k] = body.kneel_sigma_px[j]
    if not xy:
        raise PointsError(f"{name} names no point that Kneel knows; known are {', '.join(POINTS)}.")
    return PointRows(frames, times_s, xy, sigma)
