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
sys.path.insert(0, str(Path(__file__).parents[1]))
HOME = tempfile.mkdtemp(prefix="kneel-screenshots-")
for _name in ("DATA", "CONFIG", "CACHE", "STATE"):
    os.environ[f"XDG_{_name}_HOME"] = HOME

from tools.upright import upright  # noqa: E402

from kneel.demo.place import demo_lesson  # noqa: E402
from kneel.desk.app import make_application  # noqa: E402
from kneel.desk.chooser import Chooser  # noqa: E402
from kneel.desk.filming import show_filming  # noqa: E402
from kneel.desk.panels import Panel  # noqa: E402
from kneel.desk.window import Window  # noqa: E402
from kneel.documents.swing_file import load_swing  # noqa: E402
from kneel.vision import installed  # noqa: E402

SIZE, SMALLEST = (1280, 800), (1000, 640)
PATIENCE_S = 240.0


class Desk:
    """The window, and what it takes to photograph it."""

    def __init__(self, folder: Path) -> None:
        self.application, settings, self.look = make_application()
        self.folder, self.window = folder, Window(self.look, settings)
        self.window.resize(*SIZE)
        self.window.show()

    def settle(self, ready: Callable[[], bool]) -> None:
        """Turn the event loop until something is so, and a moment longer. Raises ``TimeoutError``."""
        end = time.monotonic() + PATIENCE_S
        while not ready():
            self.application.processEvents()
            time.sleep(0.01)
            if time.monotonic() > end:
                raise TimeoutError("the desk did not get ready")
        for _ in range(40):
            self.application.processEvents()
            time.sleep(0.01)

    def shoot(self, name: str) -> None:
        """Take a picture of the window as it is."""
        self.settle(lambda: True)
        self.window.grab().save(str(self.folder / f"{name}.png"))
        print(f"took {name}.png", file=sys.stderr)

    def open(self, path: Path, fault: str = "") -> None:
        """Open a clip or a document, and choose a finding."""
        session = self.window.on_desk
        self.window.open_path(path)
        self.settle(lambda: session.store is not None and path in (session.store.info.path, session.path))
        self.settle(lambda: not session.gathering.following.busy and session.store.held == session.frames)
        if fault:
            session.selection.choose(fault)

    def panel(self, kind: type[Panel]) -> Panel:
        """The panel of a kind that is open."""
        return next(one for one in self.window.findChildren(kind) if one.isVisible())


def main(folder: Path) -> int:
    """Write every picture into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    desk = Desk(folder)
    desk.shoot("empty")
    first = demo_lesson()
    before = first.parents[1] / "2026-09-29"
    chain = before / "lorcan-mead-iron.mp4"
    take_chain(desk, chain)
    take_panels(desk)
    desk.open(before / "oona-brackley-iron-line.mp4", "early_extension")
    desk.shoot("bench-line")
    desk.window.resize(*SMALLEST)
    desk.shoot("smallest")
    desk.window.resize(*SIZE)
    desk.open(upright(chain, Path(tempfile.mkdtemp(prefix="kneel-upright-", dir=HOME))), "sway")
    desk.shoot("bench-upright")
    desk.open(first)
    desk.settle(lambda: desk.window.practice.offer.drills is not None)
    desk.window.go_to(desk.window.plan)
    desk.shoot("plan")
    take_book(desk)
    desk.window.go_to(desk.window.bench)
    take_unmarked(desk, first)
    if installed():
        desk.window.open_path(alone(first, "just-dropped.mp4"))
        desk.settle(lambda: bool(desk.window.on_desk.looked.sightings))
        desk.shoot("looking")
    desk.window.close()
    return 0


def take_book(desk: Desk) -> None:
    """The student's page in the Book, and the page that goes home."""
    window = desk.window
    window.go_to(window.book)
    desk.settle(lambda: window.book.ledger.page is not None)
    desk.settle(lambda: len(window.book.stills.found) == len(window.book.stills.points) > 0)
    desk.shoot("book")
    window.home.academy.setText("Saltmarsh Links")
    window.go_to(window.home)
    desk.settle(lambda: window.home.made is not None)
    desk.shoot("handout")


def take_chain(desk: Desk, clip: Path) -> None:
    """A swing with a chain of findings, dark and light, and as the student sees it."""
    desk.open(clip, "sway")
    desk.shoot("bench")
    desk.look.choose(dark=False)
    desk.shoot("bench-light")
    desk.look.choose(dark=True)
    desk.window.bench.student.show(True)
    # The screen that is only thought of is smaller.
    desk.window.showNormal()
    desk.window.resize(*SIZE)
    desk.shoot("student")
    desk.window.bench.student.show(False)
    desk.window.resize(*SIZE)


def take_panels(desk: Desk) -> None:
    """The guided reading, the palette, and the page on how to film, over the Bench."""
    window = desk.window
    window.guide.start()
    window.guide.step(1)
    desk.shoot("guide")
    window.guide.end()
    window.actions_by_key["palette"].trigger()
    palette = desk.panel(Chooser)
    palette.line.setText("check")
    desk.shoot("palette")
    palette.close()
    page = show_filming(window, desk.look)
    desk.shoot("filming")
    page.close()


def take_unmarked(desk: Desk, first: Path) -> None:
    """A clip nobody has marked, with its first mark being set."""
    desk.open(alone(first, "new-clip.mp4"))
    window = desk.window
    known = load_swing(first.with_name("maren-tolhurst-iron.swing.json")).marks
    hip = next(mark for mark in known if mark.point == "left_hip")
    window.on_desk.cursor.go(hip.frame)
    window.bench.marking.start()
    window.on_desk.document.place(hip.point, window.on_desk.cursor.frame, hip.x, hip.y)
    window.bench.marking.advance()
    desk.shoot("bench-marking")


def alone(clip: Path, name: str) -> Path:
    """A copy of a clip where no document knows it."""
    folder = Path(tempfile.mkdtemp(prefix="kneel-clip-", dir=HOME))
    return Path(shutil.copyfile(clip, folder / name))


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path("docs/screenshots")))
