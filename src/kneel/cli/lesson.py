"""``kneel analyze A B C --lesson``: several swings of one lesson, judged together."""

from __future__ import annotations

import argparse
from dataclasses import replace
from typing import Any

import msgspec

from kneel.cli.loading import Loaded
from kneel.cli.outputs import Output, demand_input
from kneel.cli.parts import write_json
from kneel.cli.several import filmed_of, load_all
from kneel.compare.lesson import judge_lesson
from kneel.contract.result import lesson_result, result
from kneel.documents.balls_csv import read_balls
from kneel.model import Ball, UsageError, View
from kneel.speech.balls import balls_said
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
    swings = load_all(asked, outputs, asked.inputs, _views(asked))
    balls = read_balls(demand_input(asked.balls), len(swings)) if asked.balls else ()
    of_swing = {one.swing: one.ball for one in balls if one.swing}
    swings = [(_struck(loaded, of_swing.get(k)), study) for k, (loaded, study) in enumerate(swings, 1)]
    filmed = filmed_of(swings)
    told = [
        result(study, one.reading, loaded.clip, loaded.frames, warnings=loaded.warnings)
        for (loaded, study), one in zip(swings, filmed, strict=True)
    ]
    school = filmed[0].reading.school
    lesson = judge_lesson(filmed, school, balls=[one.ball for one in balls if not one.swing])
    for output in outputs:
        content: dict[str, Any] = dict(msgspec.to_builtins(lesson_result(lesson, told)))
        write_json(content, output)
    if asked.json != "-":
        count = "one swing" if len(filmed) == 1 else f"{len(filmed)} swings"
        print(f"A lesson of {count}, judged as {school.title.lower()}:")
        for text in (
            balls_said(lesson.reading),
            done_well(lesson.reading),
            lesson_text(lesson),
            *lines(lesson),
        ):
            if text:
                print(f"  {text}")
    return 0


def _struck(loaded: Loaded, ball: Ball | None) -> Loaded:
    """A swing with what its ball did, where the list says so."""
    swing = loaded.swing
    return replace(loaded, swing=swing.given(ball=ball, guessed=swing.guessed)) if ball else loaded


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
