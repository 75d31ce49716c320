"""Video files: exact frames by their presentation time, a frame store, and writing clips."""

from kneel.footage.clip import Clip, ClipInfo, picture_of
from kneel.footage.store import FrameStore
from kneel.footage.writer import write_clip

__all__ = ["Clip", "ClipInfo", "FrameStore", "picture_of", "write_clip"]
