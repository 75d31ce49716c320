"""``make mutants``: do the tests bite? Small changes to the core, one at a time; each must make a test fail.

A fixed seed draws as many changes of each package: a comparison turned round, a sum made a difference, a
bound moved, a constant doubled. What survives is printed, and each package's share of what was caught.
Changes that change nothing a test could see stand in ``tools/mutants_alike.txt``, each with its reason.

    python tools/mutants.py [--count N] [--seed N] [--only TEXT] [--near]

With ``--near`` only the tests nearest to a change are asked, and what survives may still be caught by others.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parent.parent
ALIKE = ROOT / "tools" / "mutants_alike.txt"
PLACES = (
    "src/kneel/model",
    "src/kneel/motion",
    "src/kneel/judge",
    "src/kneel/compare",
    "src/kneel/practice",
    "src/kneel/book",
    "src/kneel/handout",
    "src/kneel/evidence",
    "src/kneel/speech",
    "src/kneel/trainer",
    "src/kneel/references",
    "src/kneel/documents",
    "src/kneel/contract",
    "src/kneel/review",
    "src/kneel/footage",
    "src/kneel/vision",
    "src/kneel/sim",
)
LEFT_OUT = ("__init__.py", "filmed.py")
"""What only the tool runs that films the references that ship is looked at when they are filmed."""
COUNT, SEED, WANTED = 20, 1, 0.8
LONGEST = 3.0
"""So many times what the tests take as they are; what takes longer hangs."""

TESTS = (
    "tests/test_numbers.py",
    "tests/test_track.py",
    "tests/test_limbs.py",
    "tests/test_checkpoints.py",
    "tests/test_vision.py",
    "tests/test_outline_and_ball.py",
    "tests/test_judge.py",
    "tests/test_lesson.py",
    "tests/test_change.py",
    "tests/test_practice.py",
    "tests/test_drills.py",
    "tests/test_book.py",
    "tests/test_book_keeping.py",
    "tests/test_book_safety.py",
    "tests/test_handout.py",
    "tests/test_evidence.py",
    "tests/test_trade.py",
    "tests/test_files.py",
    "tests/test_quality.py",
    "tests/test_core.py",
    "tests/test_joints.py",
    "tests/test_rates.py",
    "tests/test_documents.py",
    "tests/test_measures.py",
    "tests/test_pairs.py",
    "tests/test_square.py",
    "tests/test_gradient.py",
    "tests/test_contract.py",
    "tests/test_trainer.py",
    "tests/test_references.py",
    "tests/test_space.py",
    "tests/test_swings.py",
    "tests/test_looking.py::test_next_mark_is_where_it_tells_most",
    "tests/test_looking.py::test_sources_are_fused_by_what_they_are_worth",
    "src/kneel/model",
    "src/kneel/motion",
)
FIRST = {
    "motion/space": "tests/test_space.py",
    "compare/views": "tests/test_space.py",
    "compare": "tests/test_change.py",
    "compare/tolerance": "tests/test_schools.py",
    "practice": "tests/test_practice.py",
    "book/exchange": "tests/test_book_keeping.py",
    "book/exchange/reviews": "tests/test_review.py::test_a_review_goes_where_its_lesson_goes",
    "book/maintenance": "tests/test_book_keeping.py",
    "uniting": "tests/test_right_student.py::test_two_students_are_made_one_and_parted_again",
    "book/": "tests/test_book_safety.py",
    "book": "tests/test_book.py",
    "handout": "tests/test_handout.py",
    "evidence/swings": "tests/test_swings.py",
    "swinging": "tests/test_swings.py",
    "vision/struck": "tests/test_outline_and_ball.py",
    "evidence": "tests/test_evidence.py",
    "speech/lesson": "tests/test_lesson.py",
    "judge": "tests/test_judge.py",
    "speech": "tests/test_judge.py",
    "trainer": "tests/test_trainer.py",
    "kneel/references": "tests/test_references.py",
    "references/built": "tests/test_reference_figure.py",
    "kneel/documents": "tests/test_files.py",
    "documents/keeper": "tests/test_keeper.py",
    "documents/recovery": "tests/test_keeper.py",
    "documents/finding": "tests/test_keeper.py",
    "documents/balls": "tests/test_trade.py",
    "documents/plate": "tests/test_contract.py",
    "documents/coco": "tests/test_travel.py",
    "documents/space_c3d": "tests/test_travel.py",
    "documents/": "tests/test_documents.py",
    "contract": "tests/test_contract.py",
    "contract/compare": "tests/test_pair.py::test_the_command_line_compares",
    "contract/": "tests/test_core.py::test_what_was_told_is_changed_by_nobody",
    "kneel/review": "tests/test_review.py",
    "footage": "tests/test_footage.py",
    "footage/r": "tests/test_rates.py",
    "footage/strike": "tests/test_sound_and_swings.py",
    "footage/sound": "tests/test_sound_and_swings.py",
    "footage/export": "tests/test_sound_and_swings.py",
    "footage/probe": "tests/test_rates.py",
    "footage/edits": "tests/test_rates.py",
    "footage/table": "tests/test_rates.py",
    "footage/hearing": "tests/test_sound_and_swings.py",
    "footage/light": "tests/test_pair.py",
    "footage/motion": "tests/test_sound_and_swings.py",
    "footage/store": "tests/test_opening.py",
    "vision/c": "tests/test_vision.py",
    "vision/f": "tests/test_vision.py",
    "vision/s": "tests/test_vision.py",
    "vision/landmarks": "tests/test_looking.py",
    "vision/colour": "tests/test_colour.py",
    "vision/spot": "tests/test_colour.py",
    "vision/club": "tests/test_club.py",
    "vision/equipment": "tests/test_club.py",
    "vision/plan": "tests/test_club.py",
    "vision/best_way": "tests/test_club.py",
    "vision/ball": "tests/test_outline_and_ball.py",
    "landmarks/": "tests/test_people.py",
    "landmarks/outline": "tests/test_outline_and_ball.py",
    "landmarks/doubt": "tests/test_doubt.py",
    "landmarks/joints": "tests/test_joints.py",
    "vision/edges": "tests/test_steady.py",
    "vision/parallax": "tests/test_steady.py",
    "vision/steady": "tests/test_steady.py",
    "vision/stood": "tests/test_steady.py",
    "vision/unmoved": "tests/test_steady.py",
    "kneel/sim": "tests/test_sim.py",
    "sim/measures": "tests/test_measures.py",
    "motion/pair": "tests/test_pairs.py",
    "motion/square": "tests/test_square.py",
    "motion/draws": "tests/test_gradient.py",
    "motion/uncertain": "tests/test_gradient.py",
    "vision/keyframe": "tests/test_steady.py",
    "landmarks/standing": "tests/test_people.py",
    "landmarks/cuts": "tests/test_people.py",
    "clock": "tests/test_rates.py",
    "camera": "tests/test_core.py",
    "middle": "tests/test_core.py",
    "names": "tests/test_core.py",
    "points": "tests/test_core.py",
    "model": "tests/test_documents.py",
}

COMPARED = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
TURNED = {ast.Lt: ">", ast.LtE: ">", ast.Gt: "<", ast.GtE: "<", ast.Is: "is not", ast.IsNot: "is"}
RECKONED = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*", ast.BitAnd: "|", ast.BitOr: "&"}
CALLED = {
    "min": "max",
    "max": "min",
    "minimum": "maximum",
    "maximum": "minimum",
    "argmin": "argmax",
    "argmax": "argmin",
    "any": "all",
    "all": "any",
    "hypot": "maximum",
    "median": "max",
}


@dataclass(frozen=True)
class Mutant:
    """One change: bytes ``start`` to ``end`` of a file become ``put``.

    ``before`` and ``after`` are the line it stands on, by which it is known
    though line numbers change.
    """

    path: str
    line: int
    start: int
    end: int
    put: str
    before: str
    after: str

    @property
    def name(self) -> str:
        """How it stands in the list of those that change nothing."""
        return f"{self.path}: {self.before} => {self.after}"


def main(arguments: list[str]) -> int:
    """Draw, try, and print what survived; exit 1 where too many did."""
    parser = argparse.ArgumentParser(prog="mutants")
    parser.add_argument("--count", type=int, default=COUNT, help="changes of each package")
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--only", default="", help="only changes whose path or text holds this")
    parser.add_argument("--near", action="store_true", help="ask only the tests nearest to a change")
    asked = parser.parse_args(arguments)
    every = [m for m in mutants() if asked.only in m.name]
    drawn = [
        one
        for place in PLACES
        if (there := [m for m in every if m.path.startswith(place)])
        for one in random.Random(asked.seed).sample(there, min(asked.count, len(there)))
    ]
    alike = known_alike()
    began, survived, same = time.monotonic(), [], 0
    caught: Counter[str] = Counter()
    shares: dict[str, list[bool]] = {}
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for k in range(os.cpu_count() or 1):
            copies.put(copied(Path(folder) / str(k)))
        with ThreadPoolExecutor(copies.qsize()) as pool:
            whole = copies.get()
            broken = failing(whole, asked.only if asked.near else "", None, near=asked.near)
            longest_s = LONGEST * (time.monotonic() - began)
            copies.put(whole)
            if broken:
                print(f"the tests fail as they are: {broken}", file=sys.stderr)
                return 2
            for mutant, by in pool.map(lambda m: tried(m, copies, longest_s, near=asked.near), drawn):
                if by or mutant.name not in alike:
                    shares.setdefault(mutant.path.split("/")[2], []).append(bool(by))
                if by:
                    caught[by] += 1
                elif mutant.name in alike:
                    same += 1
                else:
                    survived.append(mutant)
                    print(f"survived  {mutant.line}  {mutant.name}", flush=True)
    minutes = (time.monotonic() - began) / 60
    found = caught.total()
    share = found / max(found + len(survived), 1)
    print(", ".join(f"{name} {count}" for name, count in caught.most_common()))
    print(", ".join(f"{name} {sum(them)} of {len(them)}" for name, them in shares.items()))
    print(
        f"{len(drawn)} of {len(every)} changes in {minutes:.0f} min: {found} caught, {same} change nothing,"
    )
    print(f"{len(survived)} survived; {100 * share:.0f} % of those that change something are caught")
    return 0 if all(sum(them) >= WANTED * len(them) for them in shares.values()) else 1


def mutants() -> Iterator[Mutant]:
    """Every change there is, in a fixed order."""
    for place in PLACES:
        root = ROOT / place
        for path in sorted([root] if root.is_file() else root.rglob("*.py")):
            if not any(part in LEFT_OUT for part in path.parts):
                yield from changes(str(path.relative_to(ROOT)), path.read_text(encoding="utf-8"))


def changes(path: str, text: str) -> Iterator[Mutant]:
    """The changes of one file."""
    raw = text.encode()
    starts = [0]
    for line in raw.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))

    def begin(node: ast.expr) -> int:
        return starts[node.lineno - 1] + node.col_offset

    def end(node: ast.expr) -> int:
        return starts[(node.end_lineno or 1) - 1] + (node.end_col_offset or 0)

    def mutant(line: int, start: int, stop: int, put: str) -> Mutant:
        first, last = raw.rfind(b"\n", 0, start) + 1, raw.find(b"\n", stop)
        before = raw[first:last].decode().strip()
        after = (raw[first:start] + put.encode() + raw[stop:last]).decode().strip()
        return Mutant(path, line, start, stop, put, before, after)

    def between(left: ast.expr, right: ast.expr, new: str) -> Iterator[Mutant]:
        """Replace the operator between two operands."""
        start, stop = end(left), begin(right)
        gap = raw[start:stop].decode()
        old = gap.strip(" ()\n")
        if old and "#" not in gap:
            yield mutant(right.lineno, start, stop, gap.replace(old, new, 1))

    for node in skipping_words(ast.parse(text)):
        if isinstance(node, ast.Compare) and len(node.ops) == 1:
            for table in (COMPARED, TURNED):
                if type(node.ops[0]) in table:
                    yield from between(node.left, node.comparators[0], table[type(node.ops[0])])
        elif isinstance(node, ast.BinOp) and type(node.op) in RECKONED:
            yield from between(node.left, node.right, RECKONED[type(node.op)])
        elif isinstance(node, ast.BoolOp):
            yield from between(
                node.values[0], node.values[1], "or" if isinstance(node.op, ast.And) else "and"
            )
        elif isinstance(node, ast.Call):
            word = getattr(node.func, "attr", getattr(node.func, "id", ""))
            if word in CALLED:
                yield mutant(node.lineno, end(node.func) - len(word), end(node.func), CALLED[word])
        elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
            yield mutant(node.lineno, begin(node), end(node), repr(not node.value))
        elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
            other = node.value * 2 if node.value not in (0, 1) else 1 - node.value
            yield mutant(node.lineno, begin(node), end(node), repr(other))


def skipping_words(tree: ast.AST) -> Iterator[ast.AST]:
    """All nodes but annotations, docstrings, the text of errors, and colours, of which none is right."""
    for node in ast.iter_child_nodes(tree):
        if isinstance(node, ast.Raise):
            continue
        if isinstance(node, ast.AnnAssign) and "Colour" in ast.unparse(node.annotation):
            continue
        if isinstance(node, ast.AnnAssign):
            node.annotation = ast.Constant("")
        if isinstance(node, ast.FunctionDef):
            node.returns = None
        if isinstance(node, ast.arg):
            node.annotation = None
        yield node
        yield from skipping_words(node)


def copied(folder: Path) -> Path:
    """A copy of what the tests need."""
    for name in ("src", "tests", "benchmarks", "docs", "tools"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", folder)
    return folder


def tried(mutant: Mutant, copies: Queue[Path], longest_s: float, *, near: bool) -> tuple[Mutant, str]:
    """What catches a change, nothing where it survives the tests."""
    folder = copies.get()
    path = folder / mutant.path
    raw = path.read_bytes()
    try:
        path.write_bytes(raw[: mutant.start] + mutant.put.encode() + raw[mutant.end :])
        return mutant, failing(folder, mutant.path, longest_s, near=near)
    finally:
        path.write_bytes(raw)
        copies.put(folder)


def failing(folder: Path, path: str, longest_s: float | None, *, near: bool) -> str:
    """The test file that fails first in a copy, those nearest to a change first; nothing where all pass."""
    own = [path] if path.endswith(".py") and ">>>" in (ROOT / path).read_text(encoding="utf-8") else []
    first = own + [test for word, test in FIRST.items() if word in path]
    order = first if near and first else [*first, *(test for test in TESTS if test not in first)]
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "-p", "no:xvfb", *order]
    home = folder / "home"
    environment = os.environ | {
        "PYTHONPATH": f"{folder / 'src'}:{folder}",
        "PYTHONDONTWRITEBYTECODE": "1",
        "HOME": str(home),
        "HYPOTHESIS_STORAGE_DIRECTORY": str(home),
        "OMP_NUM_THREADS": "1",
    }
    try:
        done = subprocess.run(
            command, cwd=folder, env=environment, capture_output=True, timeout=longest_s, check=False
        )
    except subprocess.TimeoutExpired:
        return "too slow"
    if done.returncode == 0:
        return ""
    said = re.search(r"^(?:FAILED|ERROR) ([^:\s]+)", done.stdout.decode(), re.MULTILINE)
    return said[1] if said else "import"


def known_alike() -> dict[str, str]:
    """Changes that change nothing, with the reason."""
    found = {}
    if ALIKE.exists():
        for line in ALIKE.read_text(encoding="utf-8").splitlines():
            name, _, reason = line.partition("  # ")
            if reason:
                found[name.strip()] = reason
    return found


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
