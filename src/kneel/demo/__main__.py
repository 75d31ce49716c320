"""``python -m kneel.demo``: film the demo lessons anew into the package's own folder."""

from pathlib import Path

from kneel.demo.lesson import build
from kneel.demo.place import FOLDER

# Filming starts other processes, which import this module again.
if __name__ == "__main__":
    build(Path(__file__).parent / FOLDER)
