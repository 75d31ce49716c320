"""Make swings for the trainer: ``python -m kneel.trainer --ship`` films those that ship into the package;
``--into FOLDER`` makes what it is asked for on standard input, a line a wish, until that ends.
"""

from __future__ import annotations

import argparse
from pathlib import Path

from kneel.trainer.maker import serve, ship

# Filming what ships starts other processes, which import this module again.
if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Make swings for the trainer.")
    what = parser.add_mutually_exclusive_group(required=True)
    what.add_argument("--ship", action="store_true", help="film those that ship anew into the package")
    what.add_argument("--into", type=Path, help="where to make what is asked for on standard input")
    asked = parser.parse_args()
    if asked.ship:
        ship(Path(__file__).parent / "data")
    else:
        serve(asked.into)
