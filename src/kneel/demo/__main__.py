"""``python -m kneel.demo``: film the demo lesson anew into the package's own folder."""

from pathlib import Path

from kneel.demo import FOLDER, build

build(Path(__file__).parent / FOLDER)
