"""``kneel still``: exactly one frame as PNG."""

from __future__ import annotations

import argparse

from kneel.footage import Clip
from kneel.footage.export import save_still


def run(asked: argparse.Namespace) -> int:
    """Write the upright picture of the frame asked for."""
    with Clip(asked.clip) as clip:
        save_still(clip, asked.frame, asked.out)
    return 0
