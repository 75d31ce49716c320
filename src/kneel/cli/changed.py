"""``kneel changed A B C --after D E F``: did the student change, or do only these swings differ?"""

from __future__ import annotations

import argparse
from collections.abc import Sequence

from kneel.cli.loading import Loaded
from kneel.cli.outputs import Output
from kneel.cli.parts import write_json
from kneel.cli.several import demand_different, load_all, read_all
from kneel.compare.difference import LEAST_SWINGS, two_sides
from kneel.compare.family import AskedNumber, asked_by, compare_all
from kneel.contract.plan import as_content, changed_result
from kneel.judge.kinds import ONCE
from kneel.model import CHECKPOINTS, UsageError
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.study import Study
from kneel.speech.change import change_sentence


def run(asked: argparse.Namespace) -> int:
    """Compare two sides of swings and say what changed beyond error."""
    outputs = Output.of(asked.json, "--json")
    prescribed = _prescribed(asked.measure, asked.least)
    swings = [load_all(asked, outputs, names) for names in (asked.inputs, asked.after)]
    demand_different([*asked.inputs, *asked.after], [study for side in swings for _, study in side])
    before, after = (read_all(side) for side in swings)
    groups = {one.group for side in (before, after) for one in side.filmed}
    if len(groups) > 1:
        raise UsageError("The two sides are not of one view, club and kind; only like is compared with like.")
    stood = _stood([*swings[0], *swings[1]]) if asked.camera is None else asked.camera == "stood"
    lessons = asked.lessons == "different"
    sides = two_sides(before.each, after.each, lessons=lessons, stood=stood)
    found = compare_all(*sides, asked_by(before.reading.school, before.each[0]), prescribed=prescribed)
    if isinstance(found.prescribed, Failed):
        raise UsageError(f"{asked.measure} cannot be compared: {found.prescribed.reason}")
    first = [found.prescribed] if found.prescribed is not None else []
    said = [*first, *(one for one in found.claimed if one is not found.prescribed)]
    lines = [change_sentence(one) for one in said] or [_nothing(found.counts)]
    view, club, kind = groups.pop()
    for output in outputs:
        result = changed_result(
            found,
            view.value,
            club.value,
            kind.value,
            lessons=lessons,
            stood=stood,
            text=" ".join(lines),
        )
        write_json(as_content(result), output)
    if asked.json != "-":
        for line in lines:
            print(line)
    return 0


def _stood(swings: Sequence[tuple[Loaded, Study]]) -> bool:
    """Whether the pictures show that the camera stood; points show nothing of it."""
    known = [(loaded.stretch, study) for loaded, study in swings if loaded.stretch is not None]
    if len(known) < len(swings):
        return False
    from kneel.evidence.stood import stood_through

    return stood_through(known)


def _nothing(counts: tuple[int, int]) -> str:
    if min(counts) < LEAST_SWINGS:
        return "These swings do not differ beyond error; film three a side to know of the student."
    return "Nothing changed by more than the error and the usual spread from swing to swing can make."


def _prescribed(text: str | None, least: float | None) -> AskedNumber | None:
    """The number that is asked alone, as ``pelvis_shift@top``. Raises :class:`UsageError`."""
    if text is None:
        return None
    measure, _, at = text.partition("@")
    if measure not in REGISTRY:
        raise UsageError(f"There is no measure “{measure}”.")
    at = at or (ONCE if REGISTRY[measure].domain is Domain.ONCE else "")
    if at not in (*CHECKPOINTS, ONCE):
        raise UsageError(
            f"--measure takes MEASURE@CHECKPOINT, not {text}; known are {', '.join(CHECKPOINTS)}."
        )
    if least is not None and not 0 < least < 1000:
        raise UsageError(f"--least takes more than 0, not {least:g}.")
    return AskedNumber(measure, at, least or 0.0)
