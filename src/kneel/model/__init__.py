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
from kneel.model.sight import Sight
from kneel.model.swing import (
    Ball,
    Kind,
    Override,
    OwnCheckpoint,
    Swing,
    TypedValue,
)
from kneel.model.take import (
    ClipRef,
    Drawn,
    FileRef,
    KnownLength,
    Mark,
    Near,
    NoScale,
    ScaleSource,
    Stature,
    Take,
    TypedScale,
)

__all__ = [
    "CHECKPOINTS",
    "POINTS",
    "Ball",
    "CameraPath",
    "ClipRef",
    "Club",
    "Drawn",
    "Edit",
    "FileRef",
    "FootageError",
    "Hand",
    "History",
    "Kind",
    "KneelError",
    "KnowledgeError",
    "KnownLength",
    "Links",
    "Mark",
    "Near",
    "NoScale",
    "Override",
    "OwnCheckpoint",
    "PointRows",
    "PointsError",
    "ScaleSource",
    "Sight",
    "Sighting",
    "Stature",
    "Swing",
    "SwingFileError",
    "Take",
    "TypedScale",
    "TypedValue",
    "UsageError",
    "View",
    "anatomical",
    "side_of",
    "spoken",
    "target_direction",
]
