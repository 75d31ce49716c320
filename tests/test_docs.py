"""The documents speak of what there is: every module, class and function they name can be found."""

from __future__ import annotations

import importlib
import re
from pathlib import Path

import pytest

import kneel
from kneel.judge import known
from kneel.motion.measures import REGISTRY
from kneel.practice import known_drills

ROOT = Path(__file__).parents[1]
TOPS = {one.name.removesuffix(".py") for one in Path(kneel.__path__[0]).iterdir()}
NAMED = re.compile(r"`([a-z_]+(?:\.[A-Za-z_]+)+)(?:\([^`]*\))?`")
FILES = re.compile(r"\.(py|toml|md|csv|json|txt|lock|sqlite|evidence)$")
LINKED = re.compile(r"\]\(((?!https?:)[^)#]+)")


def found(name: str) -> bool:
    """Whether a dotted name leads to a module, or to what a module holds."""
    parts = name.split(".")
    for k in range(len(parts), 0, -1):
        try:
            at = importlib.import_module("kneel." + ".".join(parts[:k]))
        except ModuleNotFoundError:
            continue
        for part in parts[k:]:
            if part in getattr(at, "__annotations__", {}):
                return True
            if not hasattr(at, part):
                return False
            at = getattr(at, part)
        return True
    return False


@pytest.mark.parametrize("document", ["docs/architecture.md", "docs/reliability.md", "CONTRIBUTING.md"])
def test_documents_name_only_what_there_is(document):
    words = (ROOT / document).read_text("utf-8")
    named = {one.removeprefix("kneel.") for one in NAMED.findall(words) if not FILES.search(one)}
    named = {one for one in named if one.split(".")[0] in TOPS}
    assert [one for one in sorted(named) if not found(one)] == []
    if document == "docs/architecture.md":
        assert len(named) > 80, "the pattern still finds them"
    paths = set(re.findall(r"`((?:src|tests|tools|benchmarks)/[\w/.*-]+)`", words))
    assert [one for one in sorted(paths) if not any(ROOT.glob(one.rstrip("/")))] == []


def test_links_of_the_documents_lead_somewhere():
    for document in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").glob("*.md"))):
        for target in LINKED.findall(document.read_text("utf-8")):
            assert (document.parent / target).exists(), f"{document.name}: {target}"


def test_the_words_of_the_house_are_few():
    words = (ROOT / "docs/architecture.md").read_text("utf-8").split("## Words")[1]
    rows = [line for line in words.splitlines() if line.startswith("| ") and not line.startswith("| word")]
    assert 20 < len(rows) <= 40


def test_the_readme_counts_what_there_is():
    words = (ROOT / "README.md").read_text("utf-8")
    assert f"Judges {len(known().faults)} faults" in words
    assert f"for the root, of {len(known_drills().all)}:" in words
    assert f"Tells {len(REGISTRY)} measures" in words
