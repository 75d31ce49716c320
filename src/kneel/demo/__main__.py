"""``python -m kneel.demo``: film the demo lessons anew into the package, follow the marks, fill the Book.

``--followed`` follows the marks anew and films nothing; ``--booked`` only fills the Book.
"""

import argparse
from pathlib import Path

from kneel.demo.booked import write_book
from kneel.demo.followed import follow_lessons
from kneel.demo.lesson import build
from kneel.demo.place import FOLDER

# Filming starts other processes, which import this module again.
if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Film the demo lessons anew into the package.")
    only = parser.add_mutually_exclusive_group()
    only.add_argument("--followed", action="store_true", help="film nothing, follow the marks anew")
    only.add_argument("--booked", action="store_true", help="only fill the Book")
    asked = parser.parse_args()
    folder = Path(__file__).parent / FOLDER
    if not (asked.followed or asked.booked):
        build(folder)
    if not asked.booked:
        follow_lessons(folder)
    write_book(folder)
