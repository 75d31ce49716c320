"""The real window from outside: a swing opened again, and a clip dropped that nobody has seen yet."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

from benchmarks.measure import Row, median_ms
from benchmarks.window import PATIENCE_S, own_home, run_until, shown_window
from kneel.demo.place import demo_lesson
from kneel.footage import Clip, picture_of
from kneel.vision import installed

TIMES = 5


def rows() -> Iterator[Row]:
    """All rows about the desk."""
    with own_home():
        first = demo_lesson()
        if installed():
            yield from _dropped(first)
        yield _opened_again(first)
        yield from _window(first)


def _window(path: Path) -> Iterator[Row]:
    """The window made, and its look changed from dark to light and back, each to what is painted."""
    application, window = shown_window(path.parent)
    reference = "a plain repaint of the window"
    plain = median_ms(window.grab)

    def made() -> None:
        _, another = shown_window(path.parent)
        another.close()
        another.deleteLater()

    def changed() -> None:
        window.preferences.switch_look()
        application.processEvents()
        window.grab()

    # First, as the windows that are made are let go only once a loop runs, and would change with it.
    yield Row("dark to light, to the painted window", median_ms(changed), reference, plain, "< 50 ms")
    yield Row("the window, made and painted", median_ms(made, TIMES), reference, plain, "")
    window.close()


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


def _dropped(path: Path) -> Iterator[Row]:
    """A clip dropped: its first picture, points and verdict; the longest block; the memory it takes."""
    with TemporaryDirectory() as folder:
        clip = Path(shutil.copyfile(path, Path(folder) / "dropped.mp4"))
        application, window = shown_window(Path(folder))
        on_desk, began = window.on_desk, time.perf_counter()
        before, seen, blocks = _memory_mb(), {}, []
        window.open_several([clip])
        last = began
        while "all" not in seen and last - began < PATIENCE_S:
            application.processEvents()
            now = time.perf_counter()
            blocks.append(1000 * (now - last))
            reading = on_desk.numbers.reading
            for what, there in (
                ("picture", on_desk.store is not None and window.bench.stage.exact),
                ("points", bool(on_desk.looked.sightings)),
                ("verdict", reading is not None and reading.of("sway").value is not None),
                ("all", bool(on_desk.looked.sightings) and not on_desk.gathering.busy),
            ):
                if there:
                    seen.setdefault(what, 1000 * (now - began))
            time.sleep(0.001)
            last = now
        memory = _memory_mb() - before
        window.close()
    with Clip(path) as source:
        frames, size = source.info.frames, source.info.width * source.info.height * 1.5 / 1e6

    def plain() -> None:
        with Clip(path) as again:
            for _ in again.frames():
                pass

    decoded = median_ms(plain, repeats=1)
    reference = "plain decode of the clip"
    for what, aim in (("picture", ""), ("points", ""), ("verdict", "< 60 s"), ("all", "")):
        yield Row(
            f"a clip dropped: to its first {what}" if what != "all" else "the same, all of it",
            seen[what],
            reference,
            decoded,
            aim,
        )
    yield Row("the longest block while it opens and is looked at", max(blocks), reference, decoded, "< 50 ms")
    yield Row("MB that an open clip takes", memory, "MB of its frames", frames * size, "")


def _memory_mb() -> float:
    """Memory of this process, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


if __name__ == "__main__":
    for row in rows():
        print(row.text(), flush=True)
