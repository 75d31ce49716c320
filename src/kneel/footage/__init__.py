"""Video files: exact frames by their presentation time, a frame store, and writing clips."""

from kneel.footage.clip import Clip, ClipInfo
from kneel.footage.reader import FrameReader
from kneel.footage.store import FrameStore
from kneel.footage.upright import Part, Upright, luma_of, picture_of
from kneel.footage.writer import write_clip

__all__ = [
    "Clip",
    "ClipInfo",
    "FrameReader",
    "FrameStore",
    "Part",
    "Upright",
    "luma_of",
    "picture_of",
    "write_clip",
]
