"""A large Book: 1,000 students, 5,000 lessons, 20,000 swings, made by this script; views, search, trends."""

from __future__ import annotations

import datetime
import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing
from importlib.resources import files
from pathlib import Path
from tempfile import TemporaryDirectory

import msgspec
import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from sqlalchemy import insert

from benchmarks.measure import Row, median_ms
from benchmarks.window import own_home, run_until, shown_window
from kneel.book import Book, open_book
from kneel.book.db.tables import lessons, names, numbers, swings
from kneel.book.db.tables import students as student_table
from kneel.book.exchange.snapshot import Sent
from kneel.book.index.versions import versions
from kneel.book.repository import students
from kneel.book.repository.records import as_json, packed_causes
from kneel.book.repository.search_text import gathered, name_key
from kneel.book.views.student_page import page_of
from kneel.demo.remembered import SHIPPED
from kneel.desk.shell.window import Window
from kneel.judge import at_hand

STUDENTS, LESSONS, SWINGS = 1000, 5, 4
FIRST_NAMES = ("Ada", "Bo", "Cleo", "Dag", "Edda", "Finn", "Gil", "Hedda", "Ines", "Jo")
LAST_NAMES = ("Quill", "Fenn", "Harrow", "Marsh", "Vale", "Mead", "Ostrow", "Brack", "Tolh", "Sand")
SAID = (
    "Turn the hip back not the knee trail toe out a little slower than last time ankle sprain bag wall mirror"
)
TIMES = 9


def rows() -> Iterator[Row]:
    """All rows about a large Book."""
    with TemporaryDirectory() as folder, own_home():
        path = Path(folder) / "book.sqlite"
        began = time.perf_counter()
        book = open_book(str(path))
        busiest = fill(book)
        book.close()
        size = path.stat().st_size / 1e6
        print(f"<!-- filled in {time.perf_counter() - began:.0f} s, {size:.0f} MB -->", flush=True)
        reference = "every student's record read by sqlite3"
        plain = median_ms(lambda: _plain(path))

        def row(what: str, work: object, aim: str = "< 100 ms") -> Row:
            return Row(what, median_ms(work, TIMES), reference, plain, aim)  # type: ignore[arg-type]

        yield row("a Book of 20,000 swings: opened", lambda: open_book(str(path)).close(), "under 1 s")
        book = open_book(str(path))
        for what, query in (
            ("all students", ""),
            ("one word", "mirror"),
            ("three words", "ankle fenn wall"),
            ("nothing found", "xylophone"),
        ):
            yield row(f"the list, {what}", lambda q=query: _listed(book, q))
        yield row("a student's page with the trend that matters", lambda: _page(book, busiest, None))
        yield row("another number of the same", lambda: _page(book, busiest, ("pelvis_lift", "impact")))
        book.close()
        yield from _desk(path, plain, reference)


def fill(book: Book) -> str:
    """Fill a Book with students like the demo's, their numbers scattered; gives the id of the busiest."""
    raw = (files("kneel.demo") / "data" / SHIPPED).read_bytes()
    sent = msgspec.json.decode(raw, type=list[Sent])
    patterns = [(one, [(lesson, swing) for lesson in one.lessons for swing in lesson.swings]) for one in sent]
    now, rng = versions(at_hand()[0]), np.random.default_rng(17)
    words = SAID.split()
    people, keys, days, filed, told = [], [], [], [], []
    swing_id = 0
    for number in range(STUDENTS):
        one, some = patterns[number % len(patterns)]
        key = f"{number:032x}"
        name = f"{FIRST_NAMES[number % 10]} {LAST_NAMES[number // 10 % 10]} {number}"
        person = replace(one.student, id=key, name=name)
        people.append(
            {
                "id": key,
                "revision": 1,
                "name": name,
                "record": as_json(person),
                "archived": False,
                "hidden": None,
            }
            | {
                "words": gathered([name, person.goals]),
                "check_in": person.plan.check_in if person.plan else None,
            }
        )
        keys.append({"key": name_key(name), "student": key})
        for visit in range(LESSONS if number else 40):
            day = datetime.date(2026, 11, 20) - datetime.timedelta(days=9 * visit + number % 9)
            lesson = f"{number:016x}{visit:016x}"
            said = " ".join(rng.choice(words, 18))
            record = replace(some[visit % len(some)][0].lesson, id=lesson, student=key, day=day, said=said)
            root = record.root
            days.append(
                {"id": lesson, "revision": 1, "student": key, "day": day, "record": as_json(record)}
                | {"words": gathered([said, record.complaint]), "fault": root.fault if root else ""}
                | {"verdict": root.verdict if root else "", "archived": False, "hidden": None}
            )
            for ball in range(SWINGS):
                swing_id += 1
                swing = some[(visit + ball) % len(some)][1]
                filed.append(
                    {"id": swing_id, "lesson": lesson, "document": f"/range/{lesson}/{ball}.swing.json"}
                    | {"stamp": "x", "program": now.program, "knowledge": now.knowledge, "content": ""}
                    | {
                        "clip": f"/range/{lesson}/{ball}.mp4",
                        "view": swing.view.value,
                        "club": swing.club.value,
                    }
                    | {
                        "kind": swing.kind.value,
                        "school": swing.school,
                        "facts": as_json(swing.facts),
                        "words": "",
                    }
                )
                for n in swing.numbers:
                    causes = {tuple(k.split("/")): v for k, v in n.causes.items()}
                    told.append(
                        {"swing": swing_id, "measure": n.measure, "at": n.at, "unit": n.unit}
                        | {"value": n.value + float(rng.normal(0, 1)), "sigma": n.sigma}
                        | {"causes": packed_causes(causes, n.sigma)}
                    )
    with book.writing() as db:
        for table, many in (
            (student_table, people),
            (names, keys),
            (lessons, days),
            (swings, filed),
            (numbers, told),
        ):
            for start in range(0, len(many), 5000):
                db.execute(insert(table), many[start : start + 5000])
    return f"{0:032x}"


def _plain(path: Path) -> None:
    with closing(sqlite3.connect(path)) as db:
        db.execute("SELECT name, record FROM students").fetchall()


def _listed(book: Book, query: str) -> None:
    with book.reading() as db:
        students.listed(db, query)


def _page(book: Book, key: str, asked: tuple[str, str] | None) -> None:
    with book.reading() as db:
        page_of(db, key, asked, at_hand()[0])


def _desk(path: Path, plain: float, reference: str) -> Iterator[Row]:
    """At the window: the key to the Book, to a painted page; a letter typed, to a painted list."""
    os.environ["KNEEL_BOOK"] = str(path)
    application, window = shown_window(path.parent)
    run_until(application, window.isActiveWindow)
    place, took, typed = window.book, [], []
    window.book.student_page._renewed.update(f"{k:032x}" for k in range(STUDENTS))
    for k in range(TIMES):
        window.go_to(window.bench)
        place.student_page.page, place._stale, place.student_page.student = None, True, f"{k:032x}"
        began = time.perf_counter()
        QTest.keyClick(window, Qt.Key.Key_F7)
        run_until(application, lambda: place.student_page.page is not None)
        window.grab()
        took.append(1000 * (time.perf_counter() - began))
    for word in ("mirror", "ankle", "wall", "slower", "toe"):
        place.people.line.setText("")
        run_until(application, lambda: len(place.student_page.students) == STUDENTS)
        before = place.student_page.students
        began = time.perf_counter()
        place.people.line.setText(f"{word} fenn")
        run_until(application, lambda before=before: place.student_page.students is not before)
        window.grab()
        typed.append(1000 * (time.perf_counter() - began) - 120)
    kept, closed = _busy(application, window, path)
    del os.environ["KNEEL_BOOK"]
    yield Row(
        "a change to its paint, the Book kept busy by another program", kept, reference, plain, "< 50 ms"
    )
    yield Row("closing, the Book kept busy", closed, reference, plain, "under 1 s")
    yield Row(
        "F7 to the painted page", sorted(took)[len(took) // 2], reference, plain, "< 100 ms and a paint"
    )
    yield Row(
        "two words to the painted list, after the pause in typing",
        sorted(typed)[len(typed) // 2],
        reference,
        plain,
        "< 100 ms and a paint",
    )


def _busy(application: QApplication, window: Window, path: Path) -> tuple[float, float]:
    """With somebody else writing: from a change to its paint, and closing with that not written."""
    student_page, took = window.book.student_page, []
    run_until(application, lambda: student_page.page is not None)
    with closing(sqlite3.connect(path, timeout=60)) as other:
        other.execute("BEGIN IMMEDIATE")
        for k in range(TIMES):
            began = time.perf_counter()
            student_page.set_student("Change", minutes=20 + k)
            window.grab()
            took.append(1000 * (time.perf_counter() - began))
            application.processEvents()
        began = time.perf_counter()
        window.close()
        closed = 1000 * (time.perf_counter() - began)
        other.rollback()
    return sorted(took)[len(took) // 2], closed


if __name__ == "__main__":
    for line in rows():
        print(line.text(), flush=True)
