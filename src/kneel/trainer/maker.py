"""One nice process that makes swings: wishes come line by line, and it rests whenever it is told to."""

from __future__ import annotations

import os
import queue
import shutil
import sys
import threading
from pathlib import Path

import msgspec

from kneel.model import Hand, KneelError, View
from kneel.trainer import stock
from kneel.trainer.asked import asked_in, pairs_in
from kneel.trainer.drawing import draw
from kneel.trainer.filming import make
from kneel.trainer.records import CLOTHES, GO_ON, REST, Clothes, LightKind, Shot

NICENESS = 19


def serve(folder: Path) -> None:
    """Make every shot that is asked for, and say its name once it is there; an empty line for one that cannot
    be. ``rest`` and ``go on`` are heard between two frames. Ends when standard input does.
    """
    os.nice(NICENESS)
    wishes: queue.Queue[Shot] = queue.Queue()
    free = threading.Event()
    free.set()
    threading.Thread(target=_listen, args=(wishes, free), daemon=True).start()
    stock.sweep(folder)
    while True:
        shot = wishes.get()
        free.wait()
        print(_made(shot, folder, free), flush=True)


def _listen(wishes: queue.Queue[Shot], free: threading.Event) -> None:
    for line in sys.stdin:
        said = line.strip()
        if said == REST:
            free.clear()
        elif said == GO_ON:
            free.set()
        else:
            wishes.put(msgspec.json.decode(said, type=Shot))
    os._exit(0)


def _made(shot: Shot, folder: Path, free: threading.Event) -> str:
    drawn = draw(shot)
    free.wait()
    if drawn is None:
        return ""

    def rest(done: int, total: int) -> None:  # noqa: ARG001
        free.wait()

    try:
        made = make(drawn, folder, progress=rest)
    except (KneelError, OSError) as error:
        print(error, file=sys.stderr)
        return ""
    return made.id if made is not None else ""


# What ships: every fault once, each in the size that a round has where nobody asks for another, and swings
# with nothing wrong and with two faults; both hands, all clothes, both kinds of light.
_NOTHING_EACH = 4


def shipped_shots() -> list[Shot]:
    """The 24 that ship."""
    shots: list[Shot] = []
    for view in (View.FACE_ON, View.DOWN_THE_LINE):
        alone: list[tuple[str, ...]] = [(one.key,) for one in asked_in(view)]
        planted = [*alone, *[()] * _NOTHING_EACH, *pairs_in(view)]
        for number, faults in enumerate(planted):
            hand = Hand.LEFT if number % 3 == 2 else Hand.RIGHT
            clothes: Clothes = CLOTHES[number % 3 if number % 2 else 0]
            light: LightKind = "poor" if number % 4 == 3 else "good"
            shots.append(Shot(view, hand, 1.5, faults, clothes, light, 4100 + len(shots)))
    return shots


def ship(folder: Path) -> None:
    """Film what ships anew."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    for shot in shipped_shots():
        drawn = draw(shot)
        if drawn is None:
            raise KneelError(f"No body that was tried does {', '.join(shot.planted)} as asked.")
        made = make(drawn, folder, alone=False)
        assert made is not None
        made.folder.chmod(0o755)
        print(f"made {made.id}: {', '.join(shot.planted) or 'nothing wrong'}", file=sys.stderr)
