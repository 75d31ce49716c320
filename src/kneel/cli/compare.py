"""``kneel compare A B``: two swings in step, and what differs between them by more than their errors."""

from __future__ import annotations

import argparse
from pathlib import Path

from kneel.cli.loading import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.cli.parts import write_json
from kneel.cli.several import filmed_of, prescribed_of, stood_of
from kneel.compare.family import asked_by
from kneel.compare.pair import Alike, paired
from kneel.contract.compare import SwingTold, compare_result
from kneel.contract.v1 import as_content
from kneel.judge import Reading
from kneel.motion.study import Study
from kneel.speech.pair import pair_sentences

OWN = {"hand": "handed", "stature": "stature", "fps_capture": "fps_capture"}
"""What can be said of either of the two alone, and what it stands for where it is said of both."""


def run(asked: argparse.Namespace) -> int:
    """Compare two swings and say what differs beyond error."""
    outputs = Output.of(asked.json, "--json")
    prescribed = prescribed_of(asked.measure, asked.least)
    swings = [_loaded(asked, outputs, side) for side in ("a", "b")]
    filmed = filmed_of(swings)
    (a, study_a), (b, study_b) = swings
    first, second = filmed[0].numbers, filmed[1].numbers
    pair = paired(
        (study_a, study_b),
        (first, second),
        asked_by(filmed[0].reading.school, first),
        Alike(
            lesson=asked.lessons == "same",
            camera=stood_of(swings) if asked.camera is None else asked.camera == "stood",
            golfer=_one_golfer(asked, a, b),
        ),
        prescribed=prescribed,
    )
    lines = pair_sentences(pair)
    for output in outputs:
        result = compare_result(
            pair,
            study_a.setup.view.value,
            (_told(asked.a, filmed[0].reading), _told(asked.b, filmed[1].reading)),
            (study_a.times_s, study_b.times_s),
            (a.frames, b.frames),
            " ".join(lines),
        )
        write_json(as_content(result), output)
    if asked.json != "-":
        for line in lines:
            print(line)
    return 0


def _loaded(asked: argparse.Namespace, outputs: list[Output], side: str) -> tuple[Loaded, Study]:
    """One of the two, with what is said of it alone over what is said of both."""
    said = vars(asked)
    own = {
        of_both: said[f"{name}_{side}"] for name, of_both in OWN.items() if said[f"{name}_{side}"] is not None
    }
    pins = [*asked.checkpoint, *said[f"checkpoint_{side}"]]
    one = argparse.Namespace(**{**said, **own, "input": said[side], "checkpoint": pins})
    loaded = load(one, outputs)
    return loaded, analysed_as(loaded, one)


def _one_golfer(asked: argparse.Namespace, a: Loaded, b: Loaded) -> bool:
    """Whether both are of one golfer: as it is said, else where both name the same."""
    if asked.golfers is not None:
        return bool(asked.golfers == "same")
    if not (a.swing.golfer and b.swing.golfer):
        # The names' rule is the Book's, which takes its time to load.
        return False
    from kneel.book.repository.search_text import same_golfer

    return same_golfer(a.swing.golfer, b.swing.golfer)


def _told(name: str, reading: Reading) -> SwingTold:
    first = reading.of(reading.priority[0]) if reading.priority else None
    return SwingTold(
        Path(name).name,
        None if first is None else first.key,
        None if first is None else first.verdict.value,
    )
