"""``python -m kneel.demo``: film the demo lesson anew into the package's own folder."""

from pathlib import Path

from kneel.demo.lesson import build
from kneel.demo.place import FOLDER

build(Path(__file__).parent / FOLDER)
