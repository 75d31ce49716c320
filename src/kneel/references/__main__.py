"""``python -m kneel.references``: film the references anew into the package."""

from pathlib import Path

from kneel.references.filmed import build
from kneel.references.shelf import SHIPPED

# Filming starts other processes, which import this module again.
if __name__ == "__main__":
    build(Path(__file__).parent / SHIPPED)
