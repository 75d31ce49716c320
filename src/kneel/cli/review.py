"""``kneel review FILE --out X.mp4``: a spoken review as a film."""

from __future__ import annotations

import argparse
import sys

from kneel.cli.outputs import Output, demand_input, demand_outputs
from kneel.cli.parts import progress_on_terminal
from kneel.disk import shown
from kneel.model import UsageError


def run(asked: argparse.Namespace) -> int:
    """Write the film of a review."""
    # It is painted as the desk paints, without a window.
    from kneel.desk.places.review.film import write_film
    from kneel.review.file import SUFFIX

    path, out = demand_input(asked.review), Output(asked.out, "--out")
    if not path.name.endswith(SUFFIX):
        raise UsageError(f"A review is a file that ends in {SUFFIX}; {shown(path.name)} is none.")
    demand_outputs([out], [path])
    with out.writing() as target:
        told = progress_on_terminal("writing the film")
        notes = write_film(path, target, upright=asked.upright, progress=told)
    for note in notes:
        print(f"Note: {note}", file=sys.stderr)
    return 0
