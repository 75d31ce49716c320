"""Work off the interface thread: whom an answer is for, how each end is told, and the processes beside."""

from __future__ import annotations

import ast
import gc
import os
import subprocess
import sys
import threading
import time
import weakref
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import QObject

import kneel
from kneel.desk.operations import Beside, Jobs, Lane, Operation
from kneel.model import KneelError
from tests.desk import PATIENCE_MS

POOL = """
import sys
sys.path.remove("")
from dataclasses import replace
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, _all_pictures
if __name__ == "__main__":
    shoot = Shoot(rate=24.0, camera=replace(Camera(), width=64, height=48))
    assert sum(1 for _ in _all_pictures(shoot)) > 59
"""


def count_to(number, *, progress, part, stopped):
    """Counts slowly; called in another process."""
    for k in range(number):
        if stopped():
            return None
        progress(k, number)
        part(k)
        time.sleep(0.01)
    return os.getpid()


def break_off(*, progress, part, stopped):
    os._exit(3)


def refuse(*, progress, part, stopped):
    raise KneelError("not today")


def unpicklable(*, progress, part, stopped):
    raise OddError(lambda: None)


def odd_answer(*, progress, part, stopped):
    return lambda: None


class OddError(KneelError):
    def __init__(self, what):
        super().__init__("odd")
        self.what = what


@pytest.fixture
def beside(monkeypatch):
    """The processes beside the desk, which find this module."""
    monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parent.parent))
    made = Beside()
    yield made
    made.close()


def test_what_cannot_travel_ends_the_call_and_never_the_caller(beside):
    one = beside.call(count_to, 1)
    with pytest.raises(KneelError, match="odd"):
        beside.call(unpicklable)
    with pytest.raises(KneelError, match="your marks are safe"):
        beside.call(odd_answer)
    with pytest.raises(KneelError, match="your marks are safe"):
        beside.call(count_to, lambda: None)
    assert beside.call(count_to, 1) == one, "the process is the same"


def test_a_short_call_does_not_wait_behind_a_long_one(beside):
    stop, order = threading.Event(), []
    at_work = threading.Event()

    def run():
        beside.call(count_to, 100_000, long=True, part=lambda _: at_work.set(), stopped=stop.is_set)
        order.append("long")

    thread = threading.Thread(target=run)
    thread.start()
    assert at_work.wait(60)
    beside.call(count_to, 1)
    order.append("short")
    stop.set()
    thread.join(60)
    assert order == ["short", "long"]


def test_renewing_the_processes_takes_no_call_under_way_its_answer(beside):
    """A film that is being written goes on while a window is dragged; what comes after knows of it."""
    one, at_work, answers = beside.call(count_to, 1), threading.Event(), []

    def long():
        answers.append(beside.call(count_to, 40, part=lambda _: at_work.set()))

    working = threading.Thread(target=long)
    working.start()
    assert at_work.wait(60)
    beside.renew()
    working.join(60)
    assert answers == [one]
    new = beside.call(count_to, 1)
    assert new != one
    assert beside.call(count_to, 1) == new


def test_a_module_beside_a_clip_is_none_of_ours(beside, tmp_path, monkeypatch):
    """A stranger's folder is the working folder: what lies in it is run by nobody."""
    for name in ("msgspec", "numpy", "cv2", "multiprocessing"):
        (tmp_path / f"{name}.py").write_text(f"open({str(tmp_path / 'ran')!r}, 'a').write({name!r})")
    monkeypatch.chdir(tmp_path)
    assert beside.call(twice, 21) == 42
    for words in (["-m", "kneel", "--version"], ["-c", POOL]):
        done = subprocess.run([sys.executable, *words], capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr
    assert [path.name for path in tmp_path.glob("ran")] == []


def twice(number, *, progress, part, stopped):
    return 2 * number


def test_work_beside_tells_its_progress_stops_and_survives_its_own_end(beside):
    parts: list[int] = []
    other = beside.call(count_to, 5, part=parts.append)
    assert parts == [0, 1, 2, 3, 4] and other != os.getpid()
    stop = threading.Event()
    done = []
    thread = threading.Thread(
        target=lambda: done.append(
            beside.call(count_to, 10_000, part=lambda k: k > 3 and stop.set(), stopped=stop.is_set)
        )
    )
    thread.start()
    thread.join(20)
    assert done == [None]
    assert beside.call(count_to, 2) == other, "one process serves all calls"
    with pytest.raises(KneelError, match="not today"):
        beside.call(refuse)
    with pytest.raises(KneelError, match="broke off; your marks are safe"):
        beside.call(break_off)
    assert beside.call(count_to, 2) not in (other, os.getpid())


# Lanes


@pytest.fixture
def owner(qtbot):
    return QObject()


def test_an_answer_reaches_only_whom_it_was_made_for(qtbot, owner):
    """Done and failed alike; what nobody takes is let go, and every operation ends once."""
    lane, subject, told = Lane(owner, most=4), ["Maren"], []

    def run(work, name):
        lane.start(
            Operation(
                subject=lambda: subject[0],
                work=work,
                done=lambda answer: told.append((name, answer)),
                failed=lambda error: told.append((name, str(error))),
                ended=lambda: told.append((name, "ended")),
                drop=lambda answer: told.append((name, f"let go {answer}")),
            )
        )

    def fails(_):
        raise KneelError("no page")

    run(lambda _: "page", "a")
    run(fails, "b")
    qtbot.waitUntil(lambda: not lane.busy, timeout=PATIENCE_MS)
    assert sorted(told) == [("a", "ended"), ("a", "page"), ("b", "ended"), ("b", "no page")]
    told.clear()
    gate = threading.Event()
    run(lambda _: gate.wait(60) and "page", "a")
    run(lambda _: gate.wait(60) and fails(_), "b")
    subject[0] = "Idris"
    gate.set()
    qtbot.waitUntil(lambda: not lane.busy, timeout=PATIENCE_MS)
    assert sorted(told) == [("a", "ended"), ("a", "let go page"), ("b", "ended")]


def test_a_lane_owns_progress_stop_and_every_end(qtbot, owner):
    jobs, told = Jobs(), []
    lane = Lane(owner, jobs, "making the page", newest=True)
    began, gate = threading.Event(), threading.Event()

    def work(task):
        task.progress(1, 4)
        began.set()
        gate.wait(60)
        return "page"

    def start(name):
        lane.start(
            Operation(
                work=work,
                done=lambda answer: told.append((name, answer)),
                ended=lambda: told.append((name, "ended")),
            )
        )

    start("a")
    assert not jobs.running, "what is over at once is not shown"
    qtbot.waitUntil(lambda: [job.done for job in jobs.running] == [1], timeout=PATIENCE_MS)
    assert [job.sentence for job in jobs.running] == ["making the page, 25 %"]
    start("b")
    assert told == [("a", "ended")] and lane.busy, "the newest takes its place"
    jobs.stop()
    assert told == [("a", "ended"), ("b", "ended")] and not lane.busy and not jobs.running
    gate.set()
    start("c")
    qtbot.waitUntil(lambda: not lane.busy, timeout=PATIENCE_MS)
    assert told[2:] == [("c", "page"), ("c", "ended")] and not jobs.running


def test_a_thread_is_used_again_and_holds_nothing_of_what_it_did(qtbot, owner):
    """Work begins at once, however busy the interpreter is; a swing that was let go is let go."""

    class Held:
        pass

    seen, lane = [], Lane(owner)

    def let_go(gone):
        gc.collect()
        return not lane.busy and gone() is None

    for _ in range(3):
        held = Held()
        gone = weakref.ref(held)
        lane.start(
            Operation(work=lambda _, held=held: seen.append(threading.current_thread()), done=lambda _: None)
        )
        del held
        qtbot.waitUntil(partial(let_go, gone), timeout=PATIENCE_MS)
    assert len(set(seen)) < 3


def test_what_runs_beside_the_desk_loads_no_view():
    """Every function that the desk has called in the other process, with all that its module loads: a package
    that loads a view by itself would make each of these processes start as slowly as a window.
    """
    source = Path(kneel.__file__).parent
    asked: dict[str, str] = {}
    for path in (source / "desk").rglob("*.py"):
        tree = ast.parse(path.read_text("utf-8"))
        known = {
            name.asname or name.name: node.module
            for node in ast.walk(tree)
            if isinstance(node, ast.ImportFrom) and node.module
            for name in node.names
        }
        for node in ast.walk(tree):
            match node:
                case ast.Call(func=ast.Attribute(attr="call"), args=[ast.Name(id=name), *_]):
                    asked[name] = known[name]
    assert {"file_beside", "look_at", "page_beside"} <= {*asked} and len(asked) > 7
    script = (
        f"import sys, importlib\nfor name in {sorted(set(asked.values()))}: importlib.import_module(name)\n"
        "print([one for one in sys.modules if one.endswith('.view') or one.startswith('kneel.desk.shell')])"
    )
    told = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    assert told.stdout.strip() == "[]"
