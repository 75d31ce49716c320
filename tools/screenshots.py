"""Take the pictures in docs/screenshots from the demo lesson, without a screen."""

from __future__ import annotations

import datetime
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
os.environ["KNEEL_MICROPHONE"] = "simulated"

from PyQt6.QtCore import QPoint  # noqa: E402
from PyQt6.QtTest import QTest  # noqa: E402
from tools.trainee import answers, write  # noqa: E402
from tools.upright import upright  # noqa: E402

from kneel.demo.place import demo_lesson  # noqa: E402
from kneel.desk.places.pair.both import Shown  # noqa: E402
from kneel.desk.places.schools.canvas import Handle  # noqa: E402
from kneel.desk.places.trainer.running import Phase  # noqa: E402
from kneel.desk.shell.app import make_application  # noqa: E402
from kneel.desk.shell.window import Window  # noqa: E402
from kneel.desk.swing.aim import Aimed  # noqa: E402
from kneel.documents.swing_file import load_swing  # noqa: E402
from kneel.model import TypedValue  # noqa: E402
from kneel.trainer.records import Sure  # noqa: E402
from kneel.vision import installed  # noqa: E402

SIZE = (1280, 800)
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


def main(folder: Path) -> int:
    """Write every picture into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    desk = Desk(folder)
    first = demo_lesson()
    before = first.parents[1] / "2026-09-29"
    chain = before / "lorcan-mead-iron.mp4"
    take_chain(desk, chain)
    desk.open(before / "oona-brackley-iron-line.mp4", "early_extension")
    desk.shoot("bench-line")
    desk.open(upright(chain, Path(tempfile.mkdtemp(prefix="kneel-upright-", dir=HOME))), "steep_pelvis")
    desk.shoot("bench-upright")
    desk.open(first)
    take_schools(desk)
    take_trainer(desk)
    desk.settle(lambda: desk.window.practice.offer.drills is not None)
    desk.window.go_to(desk.window.plan)
    desk.shoot("plan")
    take_pair(desk, first)
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
    desk.settle(lambda: window.book.student_page.page is not None)
    stills = window.book.stills
    for _ in range(4):
        # Numbers that are told anew meanwhile have the pictures read again.
        desk.settle(lambda: len(stills.found) == len(stills.points) > 0)
    desk.shoot("book")
    # Feet that were looked at beside the ball: a line of the set-up goes home besides the movement.
    straight = (("lead_foot_flare", 5.0), ("trail_foot_flare", 1.0))
    typed = tuple(TypedValue(measure, value, 1.0, "address", "typed") for measure, value in straight)
    window.on_desk.set("Type in a value", typed=typed)
    window.handout.academy.setText("Saltmarsh Links")
    window.go_to(window.handout)
    desk.settle(lambda: window.handout.made is not None)
    desk.shoot("handout")


def take_pair(desk: Desk, first: Path) -> None:
    """Then and now, beside each other and across an edge; and a slide with a reference."""
    name, pair = first.name.replace("iron.", "iron-line."), desk.window.pair

    def compared(checkpoint: str) -> None:
        desk.settle(lambda: pair.comparing.pair is not None and not pair.other.gathering.busy)
        desk.window.on_desk.go_to(checkpoint)
        shown = [canvas for canvas in pair.laying.pictures if canvas.isVisible()]
        desk.settle(lambda: all(canvas.exact for canvas in shown))

    desk.open(first.with_name(name))
    desk.window.go_to(pair)
    pair.hold_beside(first.parents[1] / "2026-08-04" / name)
    compared("impact")
    desk.shoot("pair")
    desk.window.go_to(desk.window.bench)
    desk.open(first, "sway")
    take_aim(desk)
    take_cameras(desk, first.with_name(name))
    desk.open(first.with_name("priya-sandell-driver.mp4"), "slide")
    desk.window.actions_by_key["pair_reference"].trigger()
    pair.show_way(Shown.GHOST)
    desk.settle(lambda: pair.other.path is not None and pair.comparing.pair is not None)
    compared("impact")
    desk.shoot("pair-reference")
    pair.show_way(Shown.BESIDE)
    desk.window.go_to(desk.window.bench)
    desk.open(first)


def take_aim(desk: Desk) -> None:
    """The corrected ghost over a sway."""
    actions = desk.window.actions_by_key
    actions["aim"].trigger()
    desk.shoot("aim")
    take_review(desk)
    actions["aim"].trigger()


def take_review(desk: Desk) -> None:
    """A review while it is recorded, and as it is edited; its film lies beside the clip afterwards."""
    window, recorder, stage = desk.window, desk.window.reviewing.recorder, desk.window.bench.stage
    recorder.begin()
    desk.settle(lambda: recorder.seconds > 0.2)
    for number, name in enumerate(("address", "half_back", "top")):
        window.on_desk.go_to(name)
        for step in range(5):
            QTest.mouseMove(stage, QPoint(430 + 30 * number + 16 * step, 250 + 12 * step))
            desk.settle(lambda: True)
    recorder.stop()
    place = window.review
    desk.settle(lambda: window.place is place and place.shown.history is not None)
    place.player.go(0.5 * place.player.seconds)
    place.wave.chosen = (0.62 * place.player.seconds, 0.78 * place.player.seconds)
    place.wave.chose.emit()
    desk.settle(lambda: any(canvas.exact for canvas in place.screen._canvases.values()))
    desk.shoot("review")
    place._actions.write(upright=False)
    desk.settle(lambda: any(place.shown.path.parent.glob("*.mp4")))
    window.go_to(window.bench)


def take_cameras(desk: Desk, other: Path) -> None:
    """The swing on the desk by two cameras; they are parted again."""
    window = desk.window
    window.bench.linking.link(other)
    desk.settle(lambda: window.takes.linked is not None and not window.on_desk.numbers.busy)
    window.on_desk.go_to("top")
    desk.settle(lambda: window.bench.stage.exact and window.bench.cameras.other.exact)
    desk.shoot("bench-cameras")
    window.undo()
    desk.settle(lambda: not window.takes.shown)


def take_chain(desk: Desk, clip: Path) -> None:
    """A swing with a chain of findings, dark and light, and as the student sees it."""
    desk.open(clip, "steep_pelvis")
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


def take_schools(desk: Desk) -> None:
    """A school of one's own, shaped at the top, beside another one, over the swing on the desk."""
    window, place = desk.window, desk.window.schools
    desk.settle(lambda: window.on_desk.numbers.reading is not None)
    window.go_to(place)
    desk.settle(lambda: not place.shelf.busy)
    place.measure, place.beside_key = "pelvis_shift", "forward"
    lower = Handle("top", "lo")
    place.canvas.chosen = lower
    place.canvas.moved.emit(lower, -3.0)
    desk.settle(lambda: not place.shelf.busy and bool(place.two.differ.text()))
    desk.shoot("schools")
    window.undo()
    window.undo()
    desk.settle(lambda: not place.shelf.busy)


def take_trainer(desk: Desk) -> None:
    """A sway that is asked about, the answer argued, and what a made-up trainee's answers come to."""
    place = desk.window.trainer
    write(place.kept.path, answers(datetime.datetime.now(datetime.UTC)))
    desk.window.go_to(place)
    desk.settle(lambda: bool(place.stock.swings and place.kept.answers) and not place._scorers.busy)
    desk.shoot("trainer-scores")
    place.run([one for one in place.stock.swings if one.stocked.shot.planted in (("sway",), ("slide",))])
    desk.settle(lambda: place.round.phase is Phase.ANSWERING)
    fault = place.round.stocked.shot.planted[0]
    place.round.name(fault)
    place.question.at_wanted.emit(fault)
    place.stage.anchor = (330.0, 322.0)
    place.round.say_size(round(place.round.stocked.values[fault] * 1.4))
    place.round.say_sure(Sure.RATHER)
    desk.settle(lambda: place.stage.exact)
    desk.shoot("trainer")
    place.go_on()
    place.trained.aim.toggle(Aimed.GHOST)
    desk.settle(lambda: place.stage.exact and place.trained.aim.study is not None)
    desk.shoot("trainer-answer")
    place.handlers()["eye_begin"]()


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
