"""``python -m kneel.demo``: film the demo lessons anew into the package, follow the marks, fill the Book.

``--followed`` follows the marks anew and films nothing; ``--booked`` only fills the Book.
"""

import sys
from pathlib import Path

from kneel.demo.booked import write_book
from kneel.demo.followed import follow_lessons
from kneel.demo.lesson import build
from kneel.demo.place import FOLDER

# Filming starts other processes, which import this module again.
if __name__ == "__main__":
    folder = Path(__file__).parent / FOLDER
    if not {"--followed", "--booked"} & {*sys.argv}:
        build(folder)
    if "--booked" not in sys.argv:
        follow_lessons(folder)
    write_book(folder)
