"""A swing opened again, on the real window: from the asking to the painted verdict."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.measure import Row, median_ms
from benchmarks.window import own_home, run_until, shown_window
from kneel.demo.place import demo_lesson
from kneel.footage import Clip, picture_of

TIMES = 5


def rows() -> Iterator[Row]:
    """All rows about the desk."""
    with own_home():
        yield _opened_again(demo_lesson())


def _opened_again(path: Path) -> Row:
    application, window = shown_window(path.parent)
    session = window.on_desk
    others = sorted(p for p in path.parent.glob("*-iron.mp4") if p != path)

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
        run_until(
            application,
            lambda: session.store is not None and session.store.info.path == clip and shown(),
        )
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
