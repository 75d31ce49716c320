"""Shared pieces: simulated points, and the demo's clips in a folder of their own."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterator
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings
from PyQt6.QtCore import QSettings

from kneel.demo.place import TODAY
from kneel.desk.shell.app import make_application
from kneel.desk.shell.window import Window
from kneel.desk.swing import numbers
from kneel.model import Hand, PointRows
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import NEUTRAL, SwingPlan
from kneel.sim.truth import Truth

# How long an example takes says nothing on a machine with other work.
settings.register_profile("kneel", deadline=None)
settings.load_profile("kneel")

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# Without a window manager no window of a virtual screen gets the keys, so the
# desk is driven offscreen; one test starts it on the virtual screen itself.

Simulated = tuple[PointRows, Truth]


@pytest.fixture(autouse=True)
def own_home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test reads or writes the user's own data."""
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_STATE_HOME"):
        monkeypatch.setenv(name, str(tmp_path / name.lower()))


@pytest.fixture(autouse=True)
def patient_numbers(monkeypatch: pytest.MonkeyPatch) -> None:
    """What a test asks for is computed before it looks, however busy the machine is."""
    monkeypatch.setattr(numbers, "AT_ONCE_S", 60.0)


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
        truth = shoot.truth()
        rng = np.random.default_rng(seed)
        xy = {name: p + rng.normal(0, noise, p.shape) for name, p in truth.pixels.items()}
        count = len(shoot.times_s)
        silent = {name: np.full(count, np.nan) for name in xy}
        return PointRows(np.arange(count), shoot.times_s, xy, silent), truth

    return run


@pytest.fixture
def demo(tmp_path: Path) -> Path:
    """A copy of the demo's latest day."""
    folder = tmp_path / "lesson"
    shutil.copytree(str(files("kneel.demo") / "data" / TODAY), folder)
    return folder


@pytest.fixture
def window(qtbot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    """The desk; what takes its time has tests of its own: the body model (test_looking), sets (test_rack),
    filing in the Book (test_desk_book).
    """
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: False)
    for waits in (
        "places.bench.rack.others.READ_AFTER_MS",
        "places.book.filing.AFTER_MS",
        "records.housekeeping.AFTER_MS",
    ):
        monkeypatch.setattr(f"kneel.desk.{waits}", 3_600_000)
    _, _, look = make_application()
    look.choose(dark=True)
    made = Window(look, QSettings(str(tmp_path / "desk.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.close()
