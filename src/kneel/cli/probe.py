"""``kneel probe``: what a clip tells of itself."""

from __future__ import annotations

import argparse

from kneel.cli.outputs import Output, demand_input, demand_outputs
from kneel.cli.parts import progress_on_terminal, write_json
from kneel.disk import shown
from kneel.evidence import Shelf
from kneel.evidence.swings import swings_in
from kneel.footage.content import content_of
from kneel.footage.probe import probe
from kneel.motion.checkpoints import Moment


def run(asked: argparse.Namespace) -> int:
    """Probe a clip, print a summary or write JSON."""
    path, outputs = demand_input(asked.clip), Output.of(asked.json, "--json")
    demand_outputs(outputs, [path])
    found = probe(path)
    info = found.info
    _, swings = swings_in(
        info,
        content_of(path),
        info.rate_captured,
        [Moment(one.time_s, one.sigma_s) for one in found.strikes],
        Shelf(),
        progress=progress_on_terminal("looking through the clip"),
    )
    content = {
        "clip": info.path.name,
        "frames": info.frames,
        "width": info.width,
        "height": info.height,
        "rotation": info.upright.turn,
        "mirrored": info.upright.mirrored,
        "rate_stored": round(info.rate_stored, 4),
        "rate_captured": round(found.rate_captured, 4),
        "times_s": [round(found.start_s + t, 6) for t in info.times_s.tolist()],
        "strikes": [
            {"time_s": round(found.start_s + s.time_s, 6), "sigma_s": round(s.sigma_s, 6)}
            for s in found.strikes
        ],
        "swings": [{"first": s.first, "last": s.last} for s in swings],
        "warnings": list(found.warnings),
    }
    for output in outputs:
        write_json(content, output)
    if asked.json != "-":
        print(
            f"{shown(info.path.name)}: {info.frames} frames, {info.width} × {info.height}, "
            f"turned {info.upright.turn}°"
        )
        print(f"stored at {info.rate_stored:.4g}, captured at {found.rate_captured:.4g} frames a second")
        for strike in found.strikes:
            print(f"strike at {strike.time_s:.4f} s ± {1000 * strike.sigma_s:.1f} ms")
        for swing in swings:
            print(f"swing in frames {swing.first} to {swing.last}")
        for warning in found.warnings:
            print(f"Note: {shown(warning)}")
    return 0
