"""``kneel changed A B C --after D E F``: did the student change, or do only these swings differ?"""

from __future__ import annotations

import argparse

from kneel.cli.outputs import Output
from kneel.cli.parts import write_json
from kneel.cli.several import demand_different, load_all, prescribed_of, read_all, stood_of
from kneel.compare.difference import LEAST_SWINGS, two_sides
from kneel.compare.family import asked_by, compare_all
from kneel.contract.plan import changed_result
from kneel.contract.v1 import as_content
from kneel.model import UsageError
from kneel.motion.failure import Failed
from kneel.speech.change import change_sentence


def run(asked: argparse.Namespace) -> int:
    """Compare two sides of swings and say what changed beyond error."""
    outputs = Output.of(asked.json, "--json")
    prescribed = prescribed_of(asked.measure, asked.least)
    swings = [load_all(asked, outputs, names) for names in (asked.inputs, asked.after)]
    demand_different([*asked.inputs, *asked.after], [study for side in swings for _, study in side])
    before, after = (read_all(side) for side in swings)
    groups = {one.group for side in (before, after) for one in side.filmed}
    if len(groups) > 1:
        raise UsageError("The two sides are not of one view, club and kind; only like is compared with like.")
    stood = stood_of([*swings[0], *swings[1]]) if asked.camera is None else asked.camera == "stood"
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


def _nothing(counts: tuple[int, int]) -> str:
    if min(counts) < LEAST_SWINGS:
        return "These swings do not differ beyond error; film three a side to know of the student."
    return "Nothing changed by more than the error and the usual spread from swing to swing can make."
