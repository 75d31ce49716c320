"""Running mutated input through Kneel in a process of its own, and judging what became of it.

``make fuzz`` runs all of it: ``python -m tests.fuzzing.run``. A case is a kind
and a number; ``python -m tests.fuzzing.run points 17`` runs one and shows it.
"""

from __future__ import annotations

import contextlib
import faulthandler
import hashlib
import io
import os
import queue
import resource
import shutil
import subprocess
import sys
import tempfile
import threading
import traceback
from collections.abc import Callable, Iterator
from functools import cache
from importlib.resources import files
from pathlib import Path

from tests.fuzzing import clips, documents, options, points

WHOLE = {"points": 1000, "clips": 300, "documents": 200, "options": 150, "window": 200}
"""How many cases of each kind the whole run has."""

HANGS_S = 60.0
MOST_BYTES = 6 << 30
DEMO = "maren-tolhurst-iron"


# In the process that runs the cases


@cache
def _sound_clip() -> bytes:
    """A short film with sound whose index comes last."""
    import numpy as np

    from kneel.footage import write_clip
    from kneel.sim.sound import RATE, swing_sound

    path = Path("sound.mp4")
    noise = np.random.default_rng(1).integers(0, 255, (40, 96, 160, 3), dtype=np.uint8)
    write_clip(path, noise, rate=30.0, size=(160, 96), sound=(swing_sound(40 / 30, 0.7, 1), RATE))
    raw = path.read_bytes()
    path.unlink()
    return raw


def _demo(name: str) -> bytes:
    return (files("kneel.demo") / "data" / "2026-11-03" / name).read_bytes()


def _points(seed: int) -> list[str]:
    Path("in.csv").write_bytes(points.mutated(seed))
    words = ["analyze", "in.csv", "--json", ("out.json", "-")[seed % 2]]
    if seed % 3 == 0:
        words += [w for at in ("address=10", "top=60", "impact=78") for w in ("--checkpoint", at)]
    return words + [[], ["--stature", "170"], ["--cm-per-px", "0.3"], ["--fps-capture", "240"]][seed % 4]


def _clips(seed: int) -> list[str]:
    Path("in.mp4").write_bytes(clips.mutated(_sound_clip(), seed))
    kinds = (
        ["probe", "in.mp4", "--json", "out.json"],
        ["still", "in.mp4", "--frame", "3", "--out", "out.png"],
    )
    marks = ["track", "in.mp4", "--marks", "marks.csv", "--sources", "flow", "--out", "out.csv"]
    Path("marks.csv").write_text("frame,point,x_px,y_px\n2,left_hip,50,50\n9,left_hip,52,50\n")
    return (*kinds, marks)[min(seed % 8, 2) if seed % 8 < 3 else 0]


def _documents(seed: int) -> list[str]:
    _lesson(seed)
    return ["analyze", f"{DEMO}.swing.json", "--json", "out.json"]


def _lesson(seed: int) -> None:
    """The demo's clip with a mutated document; what was followed of it lies beside."""
    for suffix in (".mp4", ".mp4.evidence"):
        if not Path(DEMO + suffix).exists():
            Path(DEMO + suffix).write_bytes(_demo(DEMO + suffix))
    Path(f"{DEMO}.swing.json").write_bytes(documents.mutated(_demo(f"{DEMO}.swing.json"), seed))


def _options(seed: int) -> list[str]:
    Path("in.csv").write_bytes(points.mutated(0))
    Path("in.mp4").write_bytes(_sound_clip())
    Path("in.swing.json").write_text('{"kneel_swing": 1, "swing": {"takes": [{}]}}')
    Path("link.csv").symlink_to("in.csv")
    os.link("in.mp4", "hard.mp4")
    os.mkfifo("pipe")
    ro = Path("ro.json")
    ro.write_text("{}")
    ro.chmod(0o444)
    return options.line(seed)


CASES: dict[str, Callable[[int], list[str]]] = {
    "points": _points,
    "clips": _clips,
    "documents": _documents,
    "options": _options,
}


def judged(kind: str, seed: int, *, show: bool = False) -> str:
    """What is wrong with how one case ended, empty where nothing is; runs in the folder at hand."""
    with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):
        if kind == "window":
            return _in_the_window(seed)
        words = CASES[kind](seed)
        before = _states()
        out, err = (io.TextIOWrapper(io.BytesIO(), "utf-8", errors="surrogateescape") for _ in range(2))
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code, broke = _run(words)
        told = _text(err)
        if show:
            print(words, code, told, broke, sep="\n")
        if broke:
            return f"traceback of {words}: {broke}"
        if code == 2 and (not told.startswith("kneel") or told.count("\n") != 1):
            return f"not one sentence for {words}: {told!r}"
        if code not in (0, 2) or "Traceback" in told:
            return f"exit code {code} of {words}: {told!r}"
        return _destroyed(before, words)


def _run(words: list[str]) -> tuple[int, str]:
    from kneel.cli.main import main

    try:
        return main(words), ""
    except SystemExit as end:
        return int(end.code or 0), ""
    except BaseException:
        return 1, traceback.format_exc()[-1500:]


def _text(stream: io.TextIOWrapper) -> str:
    stream.flush()
    return stream.buffer.getvalue().decode("utf-8", "replace")


def _states() -> dict[str, tuple[int, str]]:
    """Kind, mode and content of every file here."""
    return {p.name: (p.lstat().st_mode, _content(p)) for p in sorted(Path().iterdir())}


def _content(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest() if path.is_file() else ""


def _destroyed(before: dict[str, tuple[int, str]], words: list[str]) -> str:
    """Which file that was there is changed or gone, or which part of one was left."""
    after = _states()
    changed = [name for name, state in before.items() if after.get(name) != state]
    left = [name for name in after if name not in before and name.startswith(".")]
    return f"{words} changed {changed} and left {left}" if changed or left else ""


@cache
def _window():  # type: ignore[no-untyped-def]
    """The window, its application, and what broke in it so far."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtCore import QSettings

    from kneel.desk.shell.app import make_application
    from kneel.desk.shell.window import Window

    application, _, look = make_application()
    broken: list[str] = []
    sys.excepthook = lambda *told: broken.append("".join(traceback.format_exception(*told))[-1500:])
    window = Window(look, QSettings("/nonexistent/desk.ini", QSettings.Format.IniFormat))
    window.show()
    return application, window, broken


def _in_the_window(seed: int) -> str:
    """Open a mutated document on the desk, step, pin, paint, undo and close it."""
    from PyQt6.QtWidgets import QApplication

    application, window, broken = _window()
    _lesson(seed)
    document = Path(f"{DEMO}.swing.json").absolute()
    raw = document.read_bytes()
    ended: list[object] = []
    ends = [
        window.opener.failed.connect(ended.append),
        window.on_desk.opened.connect(lambda: ended.append(1)),
    ]
    window.open_path(document)
    while not ended:
        application.processEvents()
    if ended[0] == 1:
        for key in ("checkpoint_top", "on", "back_ten", "pin", "undo", "mark", "cancel", "first", "last"):
            window.actions_by_key[key].trigger()
            application.processEvents()
            window.grab()
        window.on_desk.gathering.stop()
        window.on_desk.document.undo()
    for box in QApplication.topLevelWidgets():
        if box is not window:
            box.close()
    window.on_desk.close()
    application.processEvents()
    for end in ends:
        with contextlib.suppress(TypeError):
            window.disconnect(end)
    from kneel.desk.operations.threads import BROKE

    said, broken[:] = "".join(broken) or (BROKE if str(ended[0]) == BROKE else ""), []
    return said or ("" if document.read_bytes() == raw or ended[0] == 1 else "a document refused was changed")


def _child(kind: str, seeds: list[int]) -> None:
    faulthandler.enable()
    resource.setrlimit(resource.RLIMIT_AS, (MOST_BYTES, MOST_BYTES))
    os.chdir(os.environ["KNEEL_FUZZ"])
    for seed in seeds:
        print(f"begin {seed}", flush=True)
        wrong = judged(kind, seed)
        print(f"end {seed} {wrong!r}", flush=True)
    os._exit(0)


# In the process that watches


def faults(kind: str, seeds: list[int]) -> Iterator[str]:
    """What went wrong in cases of a kind; a crash or a hang costs one case, not the run."""
    left = list(seeds)
    while left:
        folder = tempfile.mkdtemp()
        home = {f"XDG_{n}_HOME": f"{folder}/{n}" for n in ("DATA", "CONFIG", "CACHE", "STATE")}
        words = [sys.executable, "-m", "tests.fuzzing.run", "--child", kind, *map(str, left)]
        path = os.pathsep.join(p for p in (str(Path.cwd()), os.environ.get("PYTHONPATH", "")) if p)
        environment = os.environ | home | {"KNEEL_FUZZ": folder, "PYTHONPATH": path}
        with subprocess.Popen(
            words,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=environment,
            errors="replace",
        ) as child:
            listeners: list[threading.Thread] = []
            yield from _watched(child, kind, left, listeners)
            child.kill()
            for listener in listeners:
                listener.join()
        shutil.rmtree(folder, ignore_errors=True)


def _watched(
    child: subprocess.Popen[str], kind: str, left: list[int], listeners: list[threading.Thread]
) -> Iterator[str]:
    """Take the cases that a child has ended off ``left``, with what was wrong."""
    lines: queue.Queue[str] = queue.Queue()
    said: list[str] = []

    def listen() -> None:
        for line in child.stdout or ():
            lines.put(line)
        lines.put("")

    listeners += [threading.Thread(target=t) for t in (listen, lambda: said.extend(child.stderr or ()))]
    for listener in listeners:
        listener.start()
    while True:
        try:
            line = lines.get(timeout=HANGS_S)
        except queue.Empty:
            child.kill()
            yield f"{kind} {left.pop(0)}: hangs"
            return
        if line.startswith("end"):
            _, seed, wrong = line.split(" ", 2)
            left.pop(0)
            if wrong.strip() != "''":
                yield f"{kind} {seed}: {wrong.strip()}"
        elif not line:
            child.wait()
            if left:
                end = f"the process ended with {child.returncode}: {''.join(said)[-4000:]}"
                yield f"{kind} {left.pop(0)}: {end}"
            return


def main() -> int:
    """The whole of it, or what is asked for."""
    if sys.argv[1:2] == ["--child"]:
        _child(sys.argv[2], [int(s) for s in sys.argv[3:]])
    if len(sys.argv) == 3 and sys.argv[2].isdigit():
        with tempfile.TemporaryDirectory() as folder:
            os.environ |= {f"XDG_{n}_HOME": f"{folder}/{n}" for n in ("DATA", "CONFIG", "CACHE", "STATE")}
            print(judged(sys.argv[1], int(sys.argv[2]), show=True))
        return 0
    count = 0
    for kind in sys.argv[1:] or WHOLE:
        found = list(faults(kind, list(range(WHOLE[kind]))))
        print(f"{kind}: {WHOLE[kind]} cases, {len(found)} faults", flush=True)
        print("\n".join(found), flush=True)
        count += len(found)
    return int(count > 0)


if __name__ == "__main__":
    sys.exit(main())
