"""By which program numbers were measured, and by which windows and faults they were judged."""

from __future__ import annotations

import hashlib
from functools import cache
from importlib.resources import files
from pathlib import Path

import msgspec

from kneel import __version__
from kneel.book.repository.swings import Versions
from kneel.evidence.shelf import METHOD
from kneel.judge import Knowledge

MEASURING = ("kneel.motion", "kneel.vision")


@cache
def program_version() -> str:
    """The program's version, and a digest of all that measures: numbers of one digest may be compared."""
    digest = hashlib.sha256(str(METHOD).encode())
    for package in MEASURING:
        for part in sorted(Path(str(files(package))).rglob("*.py")):
            digest.update(part.name.encode() + part.read_bytes())
    return f"{__version__}+{digest.hexdigest()[:10]}"


def knowledge_version(knowledge: Knowledge) -> str:
    """A digest of schools and faults."""
    content = msgspec.json.encode([list(knowledge.schools.values()), list(knowledge.faults.values())])
    return hashlib.sha256(content).hexdigest()[:12]


def versions(knowledge: Knowledge) -> Versions:
    """What this program with this knowledge writes."""
    return Versions(program_version(), knowledge_version(knowledge))
