"""Take the pictures in docs/screenshots from the demo lesson, without a screen."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HOME = tempfile.mkdtemp(prefix="kneel-screenshots-")
for _name in ("DATA", "CONFIG", "CACHE", "STATE"):
    os.environ[f"XDG_{_name}_HOME"] = HOME

from kneel.book.swing_file import load_swing  # noqa: E402
from kneel.demo.place import demo_lesson  # noqa: E402
from kneel.desk.app import make_application  # noqa: E402
from kneel.desk.filming import show_filming  # noqa: E402
from kneel.desk.theme import Look  # noqa: E402
from kneel.desk.window import Window  # noqa: E402
from kneel.vision import installed  # noqa: E402

SIZE = (1280, 800)
PATIENCE_S = 240.0


def main(folder: Path) -> int:
    """Write every picture into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    application, settings, look = make_application()
    window = Window(look, settings)
    window.resize(*SIZE)
    window.show()

    def settle(ready: Callable[[], bool]) -> None:
        end = time.monotonic() + PATIENCE_S
        while not ready():
            application.processEvents()
            time.sleep(0.01)
            if time.monotonic() > end:
                raise TimeoutError("the desk did not get ready")
        for _ in range(30):
            application.processEvents()
            time.sleep(0.01)

    def shoot(name: str) -> None:
        settle(lambda: True)
        window.grab().save(str(folder / f"{name}.png"))
        print(f"took {name}.png", file=sys.stderr)

    def open_clip(path: Path) -> None:
        window.open_path(path)
        session = window.on_desk
        settle(lambda: session.store is not None and session.store.info.path == path)
        settle(lambda: not session.gathering.following.busy and session.store.held == session.frames)

    shoot("empty")
    first = demo_lesson()
    open_clip(first)
    window.on_desk.selection.choose("sway")
    shoot("bench")
    look.choose(dark=False)
    shoot("bench-light")
    look.choose(dark=True)
    window.on_desk.go_to("impact")
    shoot("bench-impact")
    open_clip(first.with_name("idris-vale-iron.mp4"))
    window.on_desk.selection.choose("sway")
    shoot("bench-left-handed")
    open_clip(first.with_name("maren-tolhurst-iron-line.mp4"))
    window.on_desk.go_to("impact")
    shoot("bench-line")
    take_filming(window, look, folder / "filming.png")
    take_unmarked(window, first, open_clip, shoot)
    if installed():
        bare = alone(first, "just-dropped.mp4")
        open_clip(bare)
        settle(lambda: bool(window.on_desk.looked.sightings))
        window.on_desk.selection.choose("sway")
        shoot("bench-found")
    window.close()
    return 0


def take_filming(window: Window, look: Look, path: Path) -> None:
    """The page on how to film."""
    page = show_filming(window, look)
    page.adjustSize()
    page.grab().save(str(path))
    page.close()


def take_unmarked(
    window: Window, first: Path, open_clip: Callable[[Path], None], shoot: Callable[[str], None]
) -> None:
    """A clip nobody has marked, with its first mark being set."""
    open_clip(alone(first, "new-clip.mp4"))
    known = load_swing(first.with_name("maren-tolhurst-iron.swing.json")).marks
    hip = next(mark for mark in known if mark.point == "left_hip")
    window.on_desk.cursor.go(hip.frame)
    window.bench.marking.start()
    window.on_desk.document.place(hip.point, window.on_desk.cursor.frame, hip.x, hip.y)
    window.bench.marking.advance()
    shoot("bench-marking")


def alone(clip: Path, name: str) -> Path:
    """A copy of a clip where no document knows it."""
    folder = Path(tempfile.mkdtemp(prefix="kneel-clip-", dir=HOME))
    return Path(shutil.copyfile(clip, folder / name))


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path("docs/screenshots")))
