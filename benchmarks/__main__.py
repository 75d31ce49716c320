"""``make bench``: print the table that docs/benchmarks.md keeps."""

from __future__ import annotations

import platform
import sys
from itertools import chain

from benchmarks import aimed, book, cameras, desk, footage, pair, solver, steps, study, trainer


def main() -> int:
    """Measure everything once and print it."""
    print(f"{platform.machine()}, Python {platform.python_version()}\n")
    print("| what | ms | reference, same run | ms | ratio | aim |")
    print("|---|---|---|---|---|---|")
    parts = (solver, study, desk, aimed, cameras, pair, steps, book, footage, trainer)
    for row in chain.from_iterable(part.rows() for part in parts):
        print(row.text(), flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
