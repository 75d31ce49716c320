"""``kneel analyze``: points or a clip in, numbers and verdicts out."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import msgspec

from kneel.cli.loading import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.cli.parts import write_json
from kneel.contract.result import result
from kneel.disk import shown
from kneel.judge import Reading, School, Verdict, known
from kneel.model import Hand, UsageError
from kneel.model.two_takes import second_take
from kneel.motion.study import Study
from kneel.practice.judging import judge_swing
from kneel.speech.balls import balls_said
from kneel.speech.findings import differences, done_well, place, reasons, sentence
from kneel.speech.headline import headline
from kneel.speech.words import checkpoint_words

if TYPE_CHECKING:
    from kneel.motion.space.linked import Linked


def run(asked: argparse.Namespace) -> int:
    """Analyse one input, or several of one lesson, and print or write the result."""
    if asked.lesson:
        if asked.also:
            raise UsageError("--also goes with one swing, and not with --lesson.")
        from kneel.cli.lesson import run_lesson

        return run_lesson(asked)
    if asked.balls:
        raise UsageError("--balls goes with --lesson: it tells what each of its swings struck.")
    if (asked.also_view or asked.also_fps) and not asked.also:
        raise UsageError("--also-view and --also-fps speak of a second clip: name it by --also.")
    if len(asked.inputs) > 1:
        raise UsageError("Several inputs are one lesson: say --lesson, or analyse them one by one.")
    asked.input = asked.inputs[0]
    space = Output.of(asked.c3d, "--c3d")
    outputs = [*Output.of(asked.json, "--json"), *space]
    loaded = load(asked, outputs)
    knowledge = known()
    chosen = knowledge.school(loaded.swing.school)
    second = knowledge.school(asked.against) if asked.against else None
    analysis = analysed_as(loaded, asked)
    linked: Linked | None = None
    schools = [chosen, *([second] if second else [])]
    studies: tuple[Study, ...] = (analysis,)
    if asked.also or second_take(loaded.swing) is not None:
        # Of one camera nothing of this is loaded.
        from kneel.cli.space import alone, by_both_as_kept, linked_with

        try:
            if asked.also:
                linked, studies = linked_with(asked, outputs, loaded, analysis)
            elif both := by_both_as_kept(loaded, analysis):
                linked, studies = both.linked, both.studies
        except UsageError as error:
            if asked.also:
                raise
            loaded = replace(loaded, warnings=(*loaded.warnings, alone(error)))
    analysis = studies[0]
    if space:
        _write_space(space[0], linked, loaded.swing.hand)
    readings = [_judged(studies, school, loaded) for school in schools]
    reading, against = readings[0], readings[1] if second else None
    for output in Output.of(asked.json, "--json"):
        write_json(_content(loaded, analysis, reading, against, linked), output)
    if asked.json != "-":
        if linked is not None:
            from kneel.cli.space import print_space

            print_space(linked)
        _print(analysis, reading, against, loaded.warnings)
    return 0


def _write_space(where: Output, linked: Linked | None, hand: Hand) -> None:
    """Write the body in space as C3D. Raises ``UsageError`` where one camera alone saw it."""
    from kneel.documents.space_c3d import write_c3d

    if linked is None:
        raise UsageError("--c3d is for a swing by two cameras: name the second clip by --also.")
    with where.writing() as path:
        write_c3d(path, linked, hand)


def _judged(studies: tuple[Study, ...], school: School, loaded: Loaded) -> Reading:
    if len(studies) == 1:
        return judge_swing(studies[0], school, loaded.swing)
    from kneel.compare.views import judge_views

    return judge_views(studies, school, loaded.swing)


def _content(
    loaded: Loaded, analysis: Study, reading: Reading, against: Reading | None, linked: Linked | None
) -> dict[str, Any]:
    told = result(
        analysis,
        reading,
        loaded.clip,
        loaded.frames,
        against=against,
        warnings=loaded.warnings,
        linked=linked,
    )
    return dict(msgspec.to_builtins(told))


def _print(analysis: Study, reading: Reading, against: Reading | None, notes: Sequence[str]) -> None:
    print(f"Judged as {reading.school.title.lower()}:")
    for text in (balls_said(reading), headline(reading, analysis), done_well(reading)):
        if text:
            print(f"  {text}")
    for finding, depth in reading.chain:
        text = sentence(finding, reading.school)
        print(f"  {'  ' * depth}{finding.verdict.value:8} {finding.fault.title}. {text}")
        for reason in (*reasons(finding), place(finding, reading)):
            if reason:
                print(f"  {'  ' * depth}         {reason}")
    for verdict in (Verdict.CLEAR, Verdict.UNKNOWN):
        for finding in reading.found(verdict):
            if finding.asked:
                print(f"  {verdict.value:8} {finding.fault.title}. {sentence(finding, reading.school)}")
    if against:
        print(f"Judged as {against.school.title.lower()}, otherwise:")
        for text in differences(reading, against) or ("The two schools agree.",):
            print(f"  {text}")
    names = ", ".join(f"{checkpoint_words(n)} {c.time_s:.3f} s" for n, c in analysis.checkpoints.items())
    print(f"Checkpoints: {names}")
    for warning in (*notes, *analysis.warnings, *analysis.spoilt()):
        print(f"Note: {shown(warning)}")
