"""Write the schema of ``kneel analyze``'s JSON: ``python tools/schema.py docs/schemas``."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from kneel.contract.v1 import VERSION, schema


def text() -> str:
    """The schema as it is published."""
    return json.dumps(schema(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    (folder / f"analyze-{VERSION}.json").write_text(text(), encoding="utf-8")
