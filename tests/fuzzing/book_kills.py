"""Killing what writes to the Book, at random moments and at the nth ``fsync``: nothing acknowledged is lost.

``python -m tests.fuzzing.book_kills 200`` is part of ``make fuzz``. A child saves, takes lessons in, copies,
restores and purges, and tells each thing once it is done; the parent kills it, opens the Book and looks.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from importlib.resources import files
from pathlib import Path

import msgspec

from kneel.book import open_book
from kneel.book.exchange import exporting, importing
from kneel.book.index.indexing import file_swing
from kneel.book.maintenance import copies, purge
from kneel.book.repository import lessons, students, swings
from kneel.book.sync.saving import save_student
from kneel.documents.swing_file import SUFFIX
from kneel.model import Student

KINDS = ("saves", "import", "opening", "restore", "purge", "filing", "merge")
AT_EVERY = ("import", "purge", "filing", "merge")
"""What is killed at each of its ``fsync``s, one after another."""

LONGEST_S = 1.2
PATIENCE_S = 60.0
WHOLE = 200
MOST_SYNCS = 24
MOST_AT_EVERY = 60


def lesson_folder(home: Path) -> Path:
    """A student's lessons as they are sent, made once."""
    folder = home / "sent"
    if not folder.is_dir():
        day = home / "demo" / "2026-11-03"
        day.mkdir(parents=True)
        source = Path(str(files("kneel.demo") / "data" / "2026-11-03"))
        for path in source.glob("maren-tolhurst-iron.*"):
            shutil.copy(path, day)
        book = open_book(str(home / "sender.sqlite"))
        for document in day.glob(f"*{SUFFIX}"):
            file_swing(book, document)
        with book.reading() as db:
            (one,) = students.listed(db)
        exporting.export(book, one.id, folder)
        book.close()
    return folder


def child(kind: str, home: Path, times: int = 10_000) -> None:
    """Write to the Book for ever, and tell each thing once it is there."""
    book = open_book(str(home / "book" / "book.sqlite"))
    base, revision = Student("Ebba Merged"), 0
    print("ready", flush=True)
    for number in range(times):
        if kind == "saves":
            with book.writing() as db:
                student, revision = students.named(db, f"Ebba {number % 3}")
                students.save(db, Student(student.name, notes=f"{number}", id=student.id), revision)
        elif kind == "import":
            importing.take_in(book, home / "sent")
        elif kind == "opening":
            open_book(str(home / "book" / f"new-{number}.sqlite")).close()
        elif kind == "restore":
            copies.back_up(book, home / "book" / "copy.sqlite")
            copies.restore(home / "book" / "copy.sqlite", home / "book" / "book.sqlite")
        elif kind == "purge":
            with book.writing() as db:
                student, _ = students.save(db, Student(f"Ida {number}"), 0)
                purge.hide(db, "student", student.id)
            purge.purge(book, [student.id])
        elif kind == "filing":
            document = next((home / "demo").rglob(f"*iron{SUFFIX}"))
            file_swing(book, document)
        elif kind == "merge":
            # Two desks by turns, each from what it saw last itself: every save meets another's.
            mine = msgspec.structs.replace(base, notes=f"{base.notes}\n{number}".strip())
            saved = save_student(book, base, mine, revision)
            if number % 2:
                base, revision = saved.record, saved.revision
        print(number, flush=True)


def killed(kind: str, seed: int, home: Path, *, at_sync: bool = False) -> tuple[int, str]:
    """Kill one child: how much it had acknowledged, and what is wrong afterwards."""
    rng = random.Random(seed)
    book_folder = home / "book"
    shutil.rmtree(book_folder, ignore_errors=True)
    _begin(home, kind)
    words = [sys.executable, "-m", "tests.fuzzing.book_kills", "--child", kind, str(home)]
    if at_sync:
        when = rng.randrange(1, MOST_SYNCS)
        inject = f"inject=fsync,fdatasync:signal=SIGKILL:when={when}"
        words = [
            "strace",
            "-f",
            "-qq",
            "-o",
            "/dev/null",
            "-e",
            "trace=fsync,fdatasync",
            "-e",
            inject,
            *words,
        ]
    environment = os.environ | {"XDG_CACHE_HOME": str(home / "cache"), "XDG_STATE_HOME": str(home / "state")}
    with subprocess.Popen(
        words, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=environment
    ) as process:
        assert process.stdout is not None
        if at_sync:
            lines = process.stdout.read().split()
        else:
            started = process.stdout.readline() == "ready\n"
            if not started:
                process.kill()
                return 0, "the child did not start"
            time.sleep(rng.uniform(0, LONGEST_S))
            process.send_signal(signal.SIGKILL)
            lines = process.stdout.read().split()
    told = [int(line) for line in lines if line.isdigit()]
    return len(told), wrong_after(kind, home, told)


def _begin(home: Path, kind: str) -> None:
    """What lies there before: one student whom nothing may harm."""
    if kind == "opening" and not (home / "book").exists():
        (home / "book").mkdir(mode=0o700)
        return
    book = open_book(str(home / "book" / "book.sqlite"))
    with book.writing() as db:
        students.save(db, Student("Safe Harbour", notes="stays"), 0)
    book.close()


def wrong_after(kind: str, home: Path, told: list[int]) -> str:
    """What of all that was acknowledged is not there; empty where all is well."""
    book = open_book(str(home / "book" / "book.sqlite"))
    try:
        importing.sweep(book)
        purge.purge(book)
        found = copies.check(book)
        if found.troubles:
            return found.troubles[0]
        with book.reading() as db:
            if kind != "opening" and students.named(db, "safe harbour")[0].notes != "stays":
                return "a student that was there is not any more"
            wrong = _lost(kind, db, told) or _half(db)
        left = list((book.folder / importing.FOLDER).glob(f"{importing.STAGED}*"))
        return wrong or (f"{left[0]} was left" if left else "")
    finally:
        book.close()


def _lost(kind: str, db, told: list[int]) -> str:  # type: ignore[no-untyped-def]
    if kind == "saves":
        for one in range(3):
            last = max((number for number in told if number % 3 == one), default=None)
            notes = students.named(db, f"Ebba {one}")[0].notes
            if last is not None and int(notes or -1) < last:
                return f"lost {last} of Ebba {one}, there is {notes!r}"
    if kind == "merge":
        notes = students.named(db, "Ebba Merged")[0].notes.split("\n")
        missing = [number for number in told if str(number) not in notes]
        return f"lost {missing[0]} of a merged text" if missing else ""
    if kind == "filing" and told and not students.named(db, "Maren Tolhurst")[1]:
        return "lost a swing that was filed"
    if kind == "import" and told and not students.named(db, "Maren Tolhurst")[1]:
        return "lost a student who was taken in"
    return ""


def _half(db) -> str:  # type: ignore[no-untyped-def]
    """No swing without its numbers, its document and its clip."""
    for one in students.listed(db, archived=True):
        for lesson, _ in lessons.of_student(db, one.id):
            for row in swings.of_lesson(db, lesson.id):
                if not row.document.is_file() or not row.clip.is_file():
                    return f"{row.document} is half there"
        for measure, at, count in swings.measures_told(db, one.id)[:1]:
            if count < 1:
                return f"{measure} at {at} is half there"
    return ""


def at_every_sync(kind: str, home: Path) -> tuple[int, list[str]]:
    """Kill one piece of work at its first ``fsync``, its second, and so on until it ends: how many, and what
    was wrong after any of them.
    """
    found, when = [], 0
    environment = os.environ | {"XDG_CACHE_HOME": str(home / "cache"), "XDG_STATE_HOME": str(home / "state")}
    while when < MOST_AT_EVERY:
        when += 1
        shutil.rmtree(home / "book", ignore_errors=True)
        _begin(home, kind)
        trace = ["strace", "-f", "-qq", "-o", "/dev/null", "-e", "trace=fsync,fdatasync"]
        trace += ["-e", f"inject=fsync,fdatasync:signal=SIGKILL:when={when}"]
        words = [*trace, sys.executable, "-m", "tests.fuzzing.book_kills", "--once", kind, str(home)]
        done = subprocess.run(words, capture_output=True, text=True, env=environment, check=False)
        told = [int(line) for line in done.stdout.split() if line.isdigit()]
        if wrong := wrong_after(kind, home, told):
            found.append(f"{kind} at fsync {when}: {wrong}")
        if done.returncode == 0:
            return when - 1, found
    return when, found


def main() -> int:
    """Kill as many as asked for, kinds by turns, every second one at an ``fsync``."""
    if sys.argv[1:2] == ["--child"]:
        child(sys.argv[2], Path(sys.argv[3]))
        return 0
    if sys.argv[1:2] == ["--once"]:
        child(sys.argv[2], Path(sys.argv[3]), 1)
        return 0
    count = int(sys.argv[1]) if len(sys.argv) > 1 else WHOLE
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        os.environ["XDG_CACHE_HOME"] = str(home / "cache")
        lesson_folder(home)
        ends = [
            (seed, *killed(KINDS[seed % len(KINDS)], seed, home, at_sync=bool(seed // len(KINDS) % 2)))
            for seed in range(count)
        ]
        every = {kind: at_every_sync(kind, home) for kind in AT_EVERY}
    found = [f"{KINDS[seed % len(KINDS)]} {seed}: {wrong}" for seed, _, wrong in ends if wrong]
    found += [wrong for _, wrongs in every.values() for wrong in wrongs]
    print("; ".join(f"{kind}: killed at each of {count_} fsyncs" for kind, (count_, _) in every.items()))
    print(f"{count} kills, {sum(states for _, states, _ in ends)} acknowledged, {len(found)} losses")
    print("\n".join(found))
    return int(bool(found))


if __name__ == "__main__":
    sys.exit(main())
