"""Several swings that are taken as one set: loaded, analysed, held to be different, judged together."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import sha256

from kneel.cli.loading import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.compare.family import AskedNumber
from kneel.compare.lesson import Filmed, judge_lesson
from kneel.compare.sets import OfSet
from kneel.disk import shown
from kneel.judge import Reading, known
from kneel.judge.kinds import ONCE
from kneel.judge.numbers import Numbers, OfSwing
from kneel.model import CHECKPOINTS, UsageError
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.study import Study
from kneel.practice.judging import judge_swing


@dataclass(frozen=True)
class Many:
    """Swings of one view, club and kind under one school; ``numbers`` are those of the typical one."""

    filmed: tuple[Filmed, ...]
    numbers: Numbers
    reading: Reading

    @property
    def each(self) -> list[OfSwing]:
        return [one.numbers for one in self.filmed]


def load_all(
    asked: argparse.Namespace,
    outputs: Sequence[Output],
    names: Sequence[str] = (),
    views: Sequence[str | None] = (),
) -> list[tuple[Loaded, Study]]:
    """Load and analyse inputs, ``asked.inputs`` or those named, each with its view where that is said."""
    found = []
    names = names or asked.inputs
    for name, view in zip(names, views or [asked.view] * len(names), strict=True):
        one = argparse.Namespace(**{**vars(asked), "input": name, "view": view})
        loaded = load(one, outputs)
        found.append((loaded, analysed_as(loaded, one)))
    demand_different(names, [study for _, study in found])
    return found


def filmed_of(swings: Sequence[tuple[Loaded, Study]]) -> tuple[Filmed, ...]:
    """Each with its own reading. Raises ``UsageError`` where they are of several schools."""
    schools = {loaded.swing.school for loaded, _ in swings}
    if len(schools) > 1:
        raise UsageError(f"The swings are of several schools ({', '.join(sorted(schools))}): say --standard.")
    school = known().school(schools.pop())
    return tuple(
        Filmed(loaded.swing, OfSwing(study, loaded.swing.club), judge_swing(study, school, loaded.swing))
        for loaded, study in swings
    )


def read_all(swings: Sequence[tuple[Loaded, Study]]) -> Many:
    """One swing, or the typical one of several. Raises ``UsageError`` where they are not of one set."""
    filmed = filmed_of(swings)
    if len(filmed) == 1:
        return Many(filmed, filmed[0].numbers, filmed[0].reading)
    groups = {one.group for one in filmed}
    if len(groups) > 1:
        told = "; ".join(f"{view.value}, {club.value}, {kind.value}" for view, club, kind in sorted(groups))
        raise UsageError(f"These swings are not of one view, club and kind ({told}): give those of one.")
    lesson = judge_lesson(filmed, filmed[0].reading.school)
    return Many(filmed, OfSet(tuple(one.numbers for one in filmed)), lesson.reading)


def demand_different(names: Sequence[str], studies: Sequence[Study]) -> None:
    """Raise ``UsageError`` for a swing that is given twice: it would count as two that agree."""
    seen: dict[bytes, str] = {}
    for name, study in zip(names, studies, strict=True):
        mark = sha256(b"".join(study.tracks[point].xy.tobytes() for point in sorted(study.tracks))).digest()
        if mark in seen:
            raise UsageError(f"{shown(name)} is the same swing as {shown(seen[mark])}: give each swing once.")
        seen[mark] = name


def stood_of(swings: Sequence[tuple[Loaded, Study]]) -> bool:
    """Whether the pictures show that the camera stood; points show nothing of it."""
    known = [(loaded.stretch, study) for loaded, study in swings if loaded.stretch is not None]
    if len(known) < len(swings):
        return False
    from kneel.evidence.stood import stood_through

    return stood_through(known)


def prescribed_of(text: str | None, least: float | None) -> AskedNumber | None:
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
