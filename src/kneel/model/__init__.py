"""The records every other layer speaks of. Plain, typed, frozen; no Qt, no files."""

from kneel.model.camera import CameraPath
from kneel.model.errors import (
    FootageError,
    KneelError,
    KnowledgeError,
    PointsError,
    SwingFileError,
    UsageError,
)
from kneel.model.history import Edit, History
from kneel.model.names import (
    CHECKPOINTS,
    POINTS,
    Club,
    Hand,
    View,
    anatomical,
    side_of,
    spoken,
    target_direction,
)
from kneel.model.points import Links, PointRows, Sighting
from kneel.model.swing import (
    ClipRef,
    KnownLength,
    Mark,
    Near,
    NoScale,
    ScaleSource,
    Stature,
    Swing,
    TypedScale,
)

__all__ = [
    "CHECKPOINTS",
    "POINTS",
    "CameraPath",
    "ClipRef",
    "Club",
    "Edit",
    "FootageError",
    "Hand",
    "History",
    "KneelError",
    "KnowledgeError",
    "KnownLength",
    "Links",
    "Mark",
    "Near",
    "NoScale",
    "PointRows",
    "PointsError",
    "ScaleSource",
    "Sighting",
    "Stature",
    "Swing",
    "SwingFileError",
    "TypedScale",
    "UsageError",
    "View",
    "anatomical",
    "side_of",
    "spoken",
    "target_direction",
]
