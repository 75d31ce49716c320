"""``python -m kneel.references``: film the references anew into the package.

``--followed`` films nothing, and only follows their marks anew.
"""

import argparse
from pathlib import Path

from kneel.references.filmed import build
from kneel.references.shelf import SHIPPED

# Filming starts other processes, which import this module again.
if __name__ == "__main__":
    parser = argparse.ArgumentParser(description="Film the references anew into the package.")
    parser.add_argument("--followed", action="store_true", help="film nothing, follow the marks anew")
    build(Path(__file__).parent / SHIPPED, film_anew=not parser.parse_args().followed)
