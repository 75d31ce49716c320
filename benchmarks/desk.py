"""A swing opened again, on the real window: from the asking to the painted verdict."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from benchmarks.measure import Row, median_ms
from kneel.demo.place import demo_lesson
from kneel.footage import Clip, picture_of

TIMES = 5
PATIENCE_S = 60.0


def rows() -> Iterator[Row]:
    """All rows about the desk."""
    with tempfile.TemporaryDirectory() as home:
        for name in ("DATA", "CONFIG", "CACHE", "STATE"):
            os.environ[f"XDG_{name}_HOME"] = home
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        yield _opened_again(demo_lesson())


def _opened_again(path: Path) -> Row:
    from PyQt6.QtCore import QSettings

    from kneel.desk.app import make_application
    from kneel.desk.window import Window

    application, _, look = make_application()
    window = Window(look, QSettings(str(path.parent / "bench.ini"), QSettings.Format.IniFormat))
    window.resize(1280, 800)
    window.show()
    session = window.on_desk
    others = sorted(p for p in path.parent.glob("*-iron.mp4") if p != path)

    def until(ready: Callable[[], bool]) -> None:
        end = time.monotonic() + PATIENCE_S
        while not ready():
            application.processEvents()
            if time.monotonic() > end:
                raise TimeoutError("the desk did not get ready")

    def shown() -> bool:
        """Judged from all that is known of it, and nothing more to come."""
        reading = session.numbers.reading
        known = reading is not None and any(f.value is not None for f in reading.findings)
        return (
            known
            and not session.gathering.following.busy
            and session.store.get(session.first + session.cursor.frame) is not None
        )

    def opening(clip: Path) -> float:
        began = time.perf_counter()
        window.open_path(clip)
        until(lambda: session.store is not None and session.store.info.path == clip and shown())
        window.grab()
        return 1000 * (time.perf_counter() - began)

    opening(path)
    took = []
    for k in range(TIMES):
        opening(others[k % len(others)])
        took.append(opening(path))
    window.close()

    def plain() -> None:
        with Clip(path) as clip:
            picture_of(clip.frame(clip.info.frames // 2), clip.upright)

    reference = "its middle frame decoded to RGB"
    median = sorted(took)[TIMES // 2]
    return Row(
        "a swing opened again, to its painted verdict", median, reference, median_ms(plain), "under 1 s"
    )
