"""``kneel still``: exactly one frame as PNG."""

from __future__ import annotations

import argparse

from kneel.cli.outputs import Output, demand_input, demand_outputs
from kneel.footage import Clip
from kneel.footage.export import save_still


def run(asked: argparse.Namespace) -> int:
    """Write the upright picture of the frame asked for."""
    path, out = demand_input(asked.clip), Output(asked.out, "--out")
    demand_outputs([out], [path])
    with Clip(path) as clip, out.writing() as target:
        save_still(clip, asked.frame, target)
    return 0
