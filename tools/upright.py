"""The middle of a wide clip as a phone held upright films it, with its marks."""

from __future__ import annotations

from pathlib import Path

import msgspec
import numpy as np

from kneel.documents.swing_file import load_swing, save_swing
from kneel.footage import Clip, picture_of, write_clip


def upright(clip: Path, folder: Path) -> Path:
    """Write the clip and its document into ``folder``; returns the document."""
    folder.mkdir(exist_ok=True)
    swing = load_swing(clip.with_suffix(".swing.json"))
    assert swing.clip is not None
    places = [mark.x for mark in swing.marks]
    with Clip(clip) as opened:
        height, rate = opened.info.height, opened.info.rate_stored
        width = height * 9 // 16 // 2 * 2
        left = max(int((min(places) + max(places) - width) / 2), 0)
        part = [
            np.ascontiguousarray(picture_of(frame, opened.upright)[:, left : left + width])
            for _, frame in opened.frames()
        ]
    target = folder / f"{clip.stem}-upright.mp4"
    write_clip(target, part, rate=rate, size=(width, height))
    replace = msgspec.structs.replace
    reference = replace(swing.clip, path=str(target), width=width, size_bytes=0, content="")
    marks = tuple(replace(mark, x=mark.x - left) for mark in swing.marks)
    document = target.with_suffix(".swing.json")
    save_swing(document, swing.given(clip=reference, marks=marks, guessed=swing.guessed))
    return document
