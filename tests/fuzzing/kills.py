"""Killing the program with its window at random moments: what it said was saved must be on the disk.

``python -m tests.fuzzing.kills 200`` is part of ``make fuzz``.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from kneel.demo.place import demo_lesson
from kneel.documents.swing_file import load_swing

LONGEST_S = 2.5
PATIENCE_S = 60.0
WHOLE = 200


def _child(document: Path) -> None:
    """Open a swing and set marks with the mouse, telling each state that is said to be saved."""
    from PyQt6.QtCore import QSettings, Qt, QTimer
    from PyQt6.QtTest import QTest

    from kneel.desk.shell.app import make_application
    from kneel.desk.shell.window import Window

    application, _, look = make_application()
    window = Window(look, QSettings(str(document) + ".ini", QSettings.Format.IniFormat))
    window.show()
    on_desk, stage = window.on_desk, window.bench.stage

    def told() -> None:
        print(
            json.dumps(sorted(m.frame for m in on_desk.autosave.safe.marks if m.point == "head")), flush=True
        )

    def mark() -> None:
        frame = (on_desk.cursor.frame + 1) % on_desk.frames
        QTest.keyClick(window, Qt.Key.Key_Right)
        if frame != on_desk.cursor.frame:
            on_desk.cursor.go(frame)
        stage.arm("head")
        QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=stage.rect().center())
        stage.arm(None)

    timer = QTimer(interval=97)
    timer.timeout.connect(mark)
    on_desk.autosave.saved.connect(told)
    on_desk.opened.connect(lambda: (print("ready", flush=True), timer.start()))
    window.open_path(document)
    application.exec()


def killed(seed: int, lesson: Path) -> tuple[int, str]:
    """Kill one program at a random moment: how many states it had acknowledged, and which marks were lost."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as home:
        folder = Path(home) / "lesson"
        folder.mkdir()
        for path in lesson.parent.glob(lesson.stem + ".*"):
            shutil.copy(path, folder)
        document = folder / f"{lesson.stem}.swing.json"
        before = {(m.point, m.frame) for m in load_swing(document).marks}
        homes = {f"XDG_{n}_HOME": home for n in ("DATA", "CONFIG", "CACHE", "STATE")}
        environment = os.environ | homes | {"QT_QPA_PLATFORM": "offscreen"}
        words = [sys.executable, "-m", "tests.fuzzing.kills", "--child", str(document)]
        lines: list[str] = []
        ready = threading.Event()

        def listen() -> None:
            for line in child.stdout or ():
                ready.set() if line == "ready\n" else lines.append(line)

        with subprocess.Popen(words, stdout=subprocess.PIPE, text=True, env=environment) as child:
            listener = threading.Thread(target=listen)
            listener.start()
            started = ready.wait(PATIENCE_S)
            end = time.monotonic() + PATIENCE_S
            while seed % 2 and not lines and time.monotonic() < end:
                # Every second one is killed after something has been acknowledged, whatever the machine does.
                time.sleep(0.01)
            time.sleep(rng.uniform(0, LONGEST_S))
            child.send_signal(signal.SIGKILL)
            listener.join()
        if not started:
            return 0, "the program did not start"
        swing = load_swing(document)
        there = {(m.point, m.frame) for m in swing.marks}
        said = {("head", frame) for line in lines[-1:] for frame in json.loads(line)}
        lost = (before | said) - there
        return len(lines), f"lost {sorted(lost)}" if lost else ""


def main() -> int:
    """Kill as many as asked for."""
    if sys.argv[1:2] == ["--child"]:
        _child(Path(sys.argv[2]))
        return 0
    count = int(sys.argv[1]) if len(sys.argv) > 1 else WHOLE
    with tempfile.TemporaryDirectory() as home:
        os.environ["XDG_DATA_HOME"] = home
        lesson = demo_lesson()
        ends = [killed(seed, lesson) for seed in range(count)]
    found = [f"{seed}: {wrong}" for seed, (_, wrong) in enumerate(ends) if wrong]
    told = sum(states for states, _ in ends)
    print(f"{count} kills, {told} states acknowledged, {len(found)} losses")
    print("\n".join(found))
    return int(bool(found))


if __name__ == "__main__":
    sys.exit(main())
