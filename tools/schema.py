"""Write the schemas of the command line's JSON: ``python tools/schema.py docs/schemas``."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from kneel.contract import compare, plan, v1


def texts() -> dict[str, str]:
    """The schemas as they are published, by the name of their file."""
    made = {"analyze": v1.schema(), "compare": compare.schema(), "plan": plan.schema()}
    return {
        f"{name}-{v1.VERSION}.json": json.dumps(schema, indent=1, sort_keys=True) + "\n"
        for name, schema in made.items()
    }


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for name, text in texts().items():
        (folder / name).write_text(text, encoding="utf-8")
