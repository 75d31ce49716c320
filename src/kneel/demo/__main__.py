"""``python -m kneel.demo``: film the demo lessons anew into the package’s folder, follow their marks, plan.

``--followed`` follows the marks anew and films nothing.
"""

import sys
from pathlib import Path

from kneel.demo.followed import follow_lessons
from kneel.demo.lesson import build
from kneel.demo.place import FOLDER
from kneel.demo.planned import write_students

# Filming starts other processes, which import this module again.
if __name__ == "__main__":
    folder = Path(__file__).parent / FOLDER
    if "--followed" not in sys.argv:
        build(folder)
    follow_lessons(folder)
    write_students(folder)
