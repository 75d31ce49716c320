"""``kneel analyze A B C --lesson``: several swings of one lesson, judged together."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from hashlib import sha256
from typing import Any

import msgspec

from kneel.cli.analyze import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.cli.parts import write_json
from kneel.contract.result import lesson_result, result
from kneel.disk import shown
from kneel.judge import Reading, judge, known
from kneel.judge.lesson import Filmed, judge_lesson
from kneel.judge.numbers import OfSwing
from kneel.model import UsageError, View
from kneel.motion.study import Study
from kneel.speech.findings import done_well
from kneel.speech.lesson import lesson_text, lines


def run_lesson(asked: argparse.Namespace) -> int:
    """Analyse all inputs and print or write what they come to together."""
    if asked.checkpoint or asked.marks or asked.plate or asked.own:
        raise UsageError(
            "--checkpoint, --own, --marks and --plate speak of one clip: "
            "give each swing of a lesson its swing file."
        )
    if asked.against:
        raise UsageError("--against goes with one swing; a lesson is judged under one school.")
    outputs = Output.of(asked.json, "--json")
    swings, told = [], []
    for name, view in zip(asked.inputs, _views(asked), strict=True):
        one = argparse.Namespace(**{**vars(asked), "input": name, "view": view})
        loaded = load(one, outputs)
        study = analysed_as(loaded, one)
        swings.append((loaded, study))
    _demand_different(asked.inputs, [study for _, study in swings])
    schools = {loaded.swing.school for loaded, _ in swings}
    if len(schools) > 1:
        raise UsageError(f"The swings are of several schools ({', '.join(sorted(schools))}): say --standard.")
    school = known().school(schools.pop())
    filmed = []
    for loaded, study in swings:
        reading = judge(study, school, loaded.swing)
        filmed.append(Filmed(loaded.swing, OfSwing(study, loaded.swing.club), reading))
        told.append(_told(loaded, study, reading))
    lesson = judge_lesson(filmed, school)
    for output in outputs:
        content: dict[str, Any] = dict(msgspec.to_builtins(lesson_result(lesson, told)))
        write_json(content, output)
    if asked.json != "-":
        count = "one swing" if len(filmed) == 1 else f"{len(filmed)} swings"
        print(f"A lesson of {count}, judged as {school.title.lower()}:")
        for text in (done_well(lesson.reading), lesson_text(lesson), *lines(lesson)):
            if text:
                print(f"  {text}")
    return 0


def _demand_different(names: Sequence[str], studies: Sequence[Study]) -> None:
    """A swing that is given twice would count as two that agree."""
    seen: dict[bytes, str] = {}
    for name, study in zip(names, studies, strict=True):
        mark = sha256(b"".join(study.tracks[point].xy.tobytes() for point in sorted(study.tracks))).digest()
        if mark in seen:
            raise UsageError(f"{shown(name)} is the same swing as {shown(seen[mark])}: give each swing once.")
        seen[mark] = name


def _told(loaded: Loaded, study: Study, reading: Reading) -> Any:
    return result(study, reading, loaded.clip, loaded.frames, warnings=loaded.warnings)


def _views(asked: argparse.Namespace) -> list[str | None]:
    """The view of each input, as far as it is said."""
    if not asked.views:
        return [asked.view] * len(asked.inputs)
    views = [name.strip() for name in asked.views.split(",")]
    if len(views) != len(asked.inputs) or any(name not in [v.value for v in View] for name in views):
        raise UsageError(
            f"--views takes one of {', '.join(v.value for v in View)} for each of {len(asked.inputs)} inputs."
        )
    return list(views)
