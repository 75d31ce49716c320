"""Shared pieces: simulated points, and the demo's clips in a folder of their own."""

from __future__ import annotations

import datetime
import gc
import hashlib
import os
import shutil
from collections.abc import Callable, Iterator
from importlib.resources import files
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import settings
from msgspec.structs import replace
from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QEvent, QSettings, Qt
from sqlalchemy import Connection, event, inspect

import kneel.sim.film
from kneel.book import open_book
from kneel.book.db import schema
from kneel.book.repository import lessons, students
from kneel.demo.place import TODAY as DEMO_DAY
from kneel.desk.shell.app import make_application
from kneel.desk.shell.window import Window
from kneel.desk.swing import autosave, numbers
from kneel.footage.store import FrameStore
from kneel.model import Hand, PointRows, Student
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import NEUTRAL, SwingPlan
from kneel.sim.truth import Truth
from tests.book_on_desk import TODAY
from tests.desk import PATIENCE_MS, press
from tests.filed import DAYS, filed_in

# How long an example takes says nothing on a machine with other work.
settings.register_profile("kneel", deadline=None)
settings.load_profile("kneel")

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# Without a window manager no window of a virtual screen gets the keys, so the
# desk is driven offscreen; one test starts it on the virtual screen itself.

kneel.sim.film.WORTH_SHARING = 1_000_000
# A film is drawn by its test alone, as the cores are busy with others.

Simulated = tuple[PointRows, Truth]


HOMES = ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME")
MAKERS = ("evidence", "footage", "sim", "vision")
"""The packages that make films and what is seen in them."""


@pytest.fixture(scope="session")
def kept(pytestconfig: pytest.Config, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder for what takes long to make, kept from run to run while what makes it is the same."""
    if not pytestconfig.pluginmanager.hasplugin("cacheprovider"):
        return tmp_path_factory.mktemp("kept")
    made_of = hashlib.sha256()
    for path in sorted(p for name in MAKERS for p in Path(str(files("kneel"))).glob(f"{name}/**/*.py")):
        made_of.update(path.read_bytes())
    now = pytestconfig.cache.mkdir("kneel-" + made_of.hexdigest()[:16])
    for before in now.parent.glob("kneel-*"):
        if before != now:
            shutil.rmtree(before, ignore_errors=True)
    return now


@pytest.fixture(autouse=True)
def own_home(request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test reads or writes the user's own data. What one test followed in a clip the next finds, but for
    those marked ``nothing_kept``.
    """
    for name in HOMES:
        monkeypatch.setenv(name, str(tmp_path / name.lower()))
    if request.node.get_closest_marker("nothing_kept") is None:
        shared = request.getfixturevalue("kept") / "evidence"
        shared.mkdir(exist_ok=True)
        home = tmp_path.with_name(tmp_path.name + "-cache")
        (home / "kneel").mkdir(parents=True)
        (home / "kneel" / "evidence").symlink_to(shared)
        monkeypatch.setenv("XDG_CACHE_HOME", str(home))


@pytest.fixture(autouse=True)
def beside_other_tests(monkeypatch: pytest.MonkeyPatch) -> None:
    """What a test asks for is computed before it looks, however busy the machine is, and saved soon."""
    monkeypatch.setattr(numbers, "AT_ONCE_S", 60.0)
    monkeypatch.setattr(autosave, "SAVE_AFTER_MS", 60)


def pytest_collection_finish() -> None:
    """What was loaded stays: it is not looked through for garbage again and again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(10_000)


_MADE_BY: list[tuple[str, Any]] = []
"""What makes a new Book, statement by statement, as its migrations said it the first time."""


@pytest.fixture(autouse=True)
def new_books_are_quick(monkeypatch: pytest.MonkeyPatch) -> None:
    """The migrations of a new Book say the same every time: they are run once, and then repeated."""
    by_hand = schema.migrate

    def migrate(db: Connection, to: str) -> None:
        if db.dialect.name != "sqlite" or to != schema.newest() or inspect(db).get_table_names():
            by_hand(db, to)
            return
        for statement, values in _MADE_BY:
            db.exec_driver_sql(statement, values)
        if not _MADE_BY:
            said: list[tuple[str, Any]] = []
            event.listen(db, "before_cursor_execute", lambda *told: said.append(told[2:4]))
            by_hand(db, to)
            # Only once all went well: half of what makes a Book makes none.
            _MADE_BY.extend(said)

    monkeypatch.setattr(schema, "migrate", migrate)


_TRUTHS: dict[str, Truth] = {}


def truth_of(shoot: Shoot) -> Truth:
    """What is true of a swing: told once for all tests, which only read it."""
    key = repr(shoot)
    if key not in _TRUTHS:
        _TRUTHS[key] = shoot.truth()
    return _TRUTHS[key]


def rows_seen(shoot: Shoot, noise: float, seed: int) -> PointRows:
    """A swing's points as its camera sees them, with white noise (px) that is not stated."""
    rng, count = np.random.default_rng(seed), len(shoot.times_s)
    xy = {name: p + rng.normal(0, noise, p.shape) for name, p in truth_of(shoot).pixels.items()}
    silent = {name: np.full(count, np.nan) for name in xy}
    return PointRows(np.arange(count), shoot.times_s, xy, silent)


@pytest.fixture
def simulate() -> Callable[..., Simulated]:
    """Points as a camera would see them, with white noise, and the truth."""

    def run(
        *,
        sway: float = 0.0,
        hand: Hand = Hand.RIGHT,
        stature: float = 176.0,
        rate: float = 120.0,
        noise: float = 1.0,
        seed: int = 0,
        tempo: float = 1.0,
        pattern: str = NEUTRAL,
        **camera: float,
    ) -> Simulated:
        shoot = Shoot(
            Golfer(stature, hand),
            SwingPlan({"sway": sway}, pattern, tempo),
            Camera(hand=hand, **camera),
            rate,
        )
        return rows_seen(shoot, noise, seed), truth_of(shoot)

    return run


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    """A copy of the demo's latest day."""
    folder = tmp_path / "lesson"
    shutil.copytree(str(files("kneel.demo") / "data" / DEMO_DAY), folder)
    return folder


@pytest.fixture
def window(
    qtbot, request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[Window]:
    """The desk; what takes its time has tests of its own: the body model (test_looking), sets (test_rack),
    filing in the Book (test_desk_lesson), what makes pages (test_desk_handout), another camera's clip
    (test_desk_cameras), frames decoded before they are asked for (those marked ``reads_ahead``).
    """
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: False)
    for waits in (
        "places.bench.rack.others.READ_AFTER_MS",
        "places.book.filing.AFTER_MS",
        "records.housekeeping.AFTER_MS",
        "places.handout.ready.READY_MS",
    ):
        monkeypatch.setattr(f"kneel.desk.{waits}", 3_600_000)
    monkeypatch.setattr("kneel.desk.places.bench.linking.MOST_TRIED", 0)
    if request.node.get_closest_marker("reads_ahead") is None:
        monkeypatch.setattr(FrameStore, "_ingest", lambda store: store._on_progress(store.held, store.held))
    # Swings for the Trainer are made in a process that would take the tests' time; it has a test of its own.
    monkeypatch.setattr("kneel.desk.places.trainer.stocking.Stocking._start", lambda self: None)
    _, _, look = make_application()
    look.choose(dark=True)
    made = Window(look, QSettings(str(tmp_path / "desk.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield made
    # A loop that waits for something in another fixture may have taken it away already.
    if not sip.isdeleted(made):
        made.close()
    # Without a loop that runs, what is to be deleted stays, and changes its look with every window after it.
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


@pytest.fixture
def today(monkeypatch):
    monkeypatch.setattr("kneel.desk.records.practice.Practice.today", property(lambda self: TODAY))


@pytest.fixture
def book(tmp_path):
    """The user's Book with Maren's three lessons, and a second student."""
    made = open_book()
    filed_in(made, tmp_path / "range")
    with made.writing() as db:
        students.save(db, Student("Ebba Quill", goals="A draw"), 0)
        key = students.student_id(db, "Maren Tolhurst")
        for day, said in zip(DAYS, ("Old ankle sprain", "Feels on the lead side", ""), strict=True):
            lesson, revision = lessons.on_day(db, key, datetime.date.fromisoformat(day))
            lessons.save(db, replace(lesson, said=said), revision)
    yield made
    made.close()


@pytest.fixture
def on_book(qtbot, window, book, today):
    """The Book place on show, with a page read."""
    qtbot.waitUntil(window.isActiveWindow, timeout=PATIENCE_MS)
    press(qtbot, window, Qt.Key.Key_F7)
    assert window.place is window.book
    qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
    return window.book
