"""Other processes of ours: they look for modules where Kneel is installed, never in the folder of a clip.

Python puts the working folder first where it looks for modules, and that folder may be a stranger's.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

SAFE_PATH = "PYTHONSAFEPATH"


def safe_environment(environment: Mapping[str, str]) -> dict[str, str]:
    """An environment in which a Python does not look for modules in its working folder.

    >>> safe_environment({"LANG": "C"})
    {'LANG': 'C', 'PYTHONSAFEPATH': '1'}
    """
    return {**environment, SAFE_PATH: "1"}


@contextmanager
def safe_children() -> Iterator[None]:
    """Processes that a pool starts in this block get a safe environment, and no working folder handed on.

    Nor do they run the program's main module anew: it may lie there, and what they do is Kneel's own.
    """
    before, path = os.environ.get(SAFE_PATH), sys.path
    main = vars(sys.modules["__main__"])
    hidden: dict[str, object] = {name: main[name] for name in ("__spec__", "__file__") if name in main}
    os.environ[SAFE_PATH] = "1"
    sys.path = [one for one in path if one and not _is_here(one)]
    main["__spec__"] = None
    main.pop("__file__", None)
    try:
        yield
    finally:
        sys.path = path
        main.update(hidden)
        if before is None:
            os.environ.pop(SAFE_PATH, None)
        else:
            os.environ[SAFE_PATH] = before


def _is_here(folder: str) -> bool:
    try:
        return Path(folder).samefile(Path())
    except (OSError, ValueError):
        return False
