"""A swing judged with what it is about: a drill by its own numbers, an exaggeration by how far it goes."""

from __future__ import annotations

from collections.abc import Sequence

from kneel.judge import Knowledge, Reading, School, in_use, judge
from kneel.judge.kinds import FOR_ONE_NUMBER, Aimed
from kneel.judge.records import Window
from kneel.model import Ball, Kind, Swing
from kneel.motion.study import Study
from kneel.practice.catalogue import Drills, drills_in_use
from kneel.practice.drill import Drill

SIDE_OF = {"up": "above", "down": "below"}
"""A guard that must not go up is asked whether it lies above its window."""


def judge_swing(
    study: Study,
    school: School,
    swing: Swing | None = None,
    knowledge: Knowledge | None = None,
    *,
    balls: Sequence[Ball] = (),
) -> Reading:
    """Judge a swing by its document; ``balls`` are others of its set.

    >>> from kneel.judge import known
    >>> from kneel.motion.example import example
    >>> judge_swing(example(), known().school("centred")).priority[0]
    'sway'
    """
    swing = swing or Swing()
    return judge(study, school, swing, knowledge, balls=balls, aimed=aimed_of(swing, knowledge, study.kind))


def aimed_of(
    swing: Swing, knowledge: Knowledge | None = None, kind: Kind | None = None, drills: Drills | None = None
) -> Aimed | None:
    """What a drill or an exaggeration is about, by the drill or the fault that its document names; None where
    it names none, and for any other swing.

    >>> aimed_of(Swing()) is None
    True
    """
    if (kind or swing.kind) not in FOR_ONE_NUMBER or not swing.drill:
        return None
    knowledge, drills = knowledge or in_use(), drills or drills_in_use()
    drill = drills.all.get(swing.drill)
    if drill is not None:
        return _of_drill(drill, knowledge)
    fault = knowledge.faults.get(swing.drill)
    if fault is None:
        return None
    return Aimed({(check.measure, at): (check.side,) for check in fault.check for at in check.at})


def _of_drill(drill: Drill, knowledge: Knowledge) -> Aimed:
    """Its own numbers with their limits in the drill, and its guards."""
    asked: dict[tuple[str, str], tuple[str, ...]] = {}
    windows = []
    for cure in drill.cures:
        sides = [c.side for c in knowledge.faults[cure.fault].check if c.measure == cure.measure]
        key = cure.measure, cure.at
        asked[key] = tuple(dict.fromkeys((*asked.get(key, ()), *sides)))
        if cure.lo is not None or cure.hi is not None:
            windows.append(Window(cure.measure, (cure.at,), cure.margin, cure.lo, cure.hi))
    for guard in drill.guards:
        key = guard.measure, guard.at
        asked[key] = tuple(dict.fromkeys((*asked.get(key, ()), SIDE_OF[guard.way])))
    return Aimed(asked, tuple(windows))
