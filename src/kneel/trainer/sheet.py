"""The sheet of a class: who told what, as rows, as CSV, and as a page to print."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kneel.handout.classroom import ClassLine, ClassPage, SwingLine
from kneel.speech.words import number, with_unit
from kneel.trainer.classroom import OpenClass, Paper
from kneel.trainer.records import Answer, Sure
from kneel.trainer.scores import unit_of
from kneel.trainer.words import SURE, VIEWS, level_words, listed, title_of

UNSAFE = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet would take a cell for a formula by."""


@dataclass(frozen=True)
class Row:
    """One of a class. ``told`` of ``there`` faults were named, ``false`` named that were not there, and
    ``alarms`` of the ``clean`` swings that have nothing wrong. ``off`` are medians of how far sizes are off.
    """

    by: str
    answered: int
    right: int
    told: int
    there: int
    false: int
    alarms: int
    clean: int
    certain: int
    certain_right: int
    off: dict[str, float]


def row_of(paper: Paper) -> Row:
    """What somebody's answers come to."""
    answers = paper.answers
    clean = [one for one in answers if not one.present]
    certain = [one for one in answers if one.sure is Sure.CERTAIN]
    off: dict[str, list[float]] = {}
    for one in answers:
        for key, said in one.said.items():
            if key in one.true:
                off.setdefault(unit_of(key), []).append(abs(said - one.true[key]))
    return Row(
        paper.by,
        len(answers),
        sum(one.right for one in answers),
        sum(key in one.named for one in answers for key in one.present),
        sum(len(one.present) for one in answers),
        sum(len(one.false) for one in answers),
        sum(bool(one.named) for one in clean),
        len(clean),
        len(certain),
        sum(one.right for one in certain),
        {unit: float(np.median(values)) for unit, values in off.items()},
    )


def as_csv(open_class: OpenClass, papers: Sequence[Paper]) -> str:
    """Two tables in one file: a line a person, then a line a person and swing.

    The first line of each names its columns; swings count from 1 in the order of the round.
    """
    buffer = io.StringIO()
    out = csv.writer(buffer, lineterminator="\n")
    out.writerow(
        ["name", "answered", "right", "told", "there", "false", "alarms", "clean", "certain", "certain_right",
         "median_off_cm", "median_off_deg"]
    )  # fmt: skip
    for row in map(row_of, papers):
        off = [f"{row.off[unit]:.2f}" if unit in row.off else "" for unit in ("cm", "deg")]
        out.writerow(
            [_safe(row.by), row.answered, row.right, row.told, row.there, row.false, row.alarms, row.clean,
             row.certain, row.certain_right, *off]
        )  # fmt: skip
    out.writerow([])
    out.writerow(["name", "swing", "view", "there", "named", "right", "sure", "said", "true"])
    numbers = {id_: number + 1 for number, id_ in enumerate(open_class.round.swings)}
    for paper in papers:
        for one in paper.answers:
            out.writerow(
                [_safe(paper.by), numbers[one.swing], one.view.value, " ".join(one.present),
                 " ".join(one.named), int(one.right), SURE[one.sure], _numbers(one.said), _numbers(one.true)]
            )  # fmt: skip
    return buffer.getvalue()


def _safe(text: str) -> str:
    """A name that no spreadsheet takes for a formula.

    >>> _safe("=Ida"), _safe("Ida")
    ("'=Ida", 'Ida')
    """
    return f"'{text}" if text.startswith(UNSAFE) else text


def _numbers(values: dict[str, float]) -> str:
    return " ".join(f"{key}={value:.1f}" for key, value in values.items())


def page_of(open_class: OpenClass, papers: Sequence[Paper]) -> ClassPage:
    """The sheet to print: a line a person, and swing by swing what was there and how many told it."""
    return ClassPage(
        open_class.round.title,
        open_class.round.made,
        f"{len(open_class.swings)} swings, {level_words(open_class.round.settings)}",
        tuple(_line(row_of(paper)) for paper in papers),
        tuple(_swing(open_class, papers, number) for number in range(len(open_class.swings))),
    )


def _line(row: Row) -> ClassLine:
    off = [
        with_unit(number(row.off[unit], unit, signed=False), unit)
        for unit in ("cm", "deg")
        if unit in row.off
    ]
    return ClassLine(
        row.by,
        f"{row.right} of {row.answered}",
        f"{row.told} of {row.there}",
        f"{row.alarms} of {row.clean}",
        f"{row.certain_right} of {row.certain}" if row.certain else "–",
        ", ".join(off) or "–",
    )


def _swing(open_class: OpenClass, papers: Sequence[Paper], number: int) -> SwingLine:
    one = open_class.swings[number].stocked
    answers: list[Answer] = [a for paper in papers for a in paper.answers if a.swing == one.id]
    right = sum(answer.right for answer in answers)
    wrong: dict[str, int] = {}
    for answer in answers:
        for key in answer.false:
            wrong[key] = wrong.get(key, 0) + 1
    missed = sum(not answer.named for answer in answers if answer.present)
    most = [
        f"{title_of(key).lower()} {count}" for key, count in sorted(wrong.items(), key=lambda p: -p[1])[:2]
    ]
    if missed:
        most.append(f"nothing wrong {missed}")
    planted = [key for key in one.past if key in one.shot.planted]
    return SwingLine(
        str(number + 1), VIEWS[one.shot.view], listed(planted), f"{right} of {len(answers)}", ", ".join(most)
    )


def sheet_of(open_class: OpenClass, every: Sequence[Paper], *, table: bool) -> bytes:
    """The sheet of scores as CSV, or as PDF. Raises ``UsageError`` where the system cannot lay out text."""
    if table:
        return as_csv(open_class, every).encode("utf-8")
    # It loads what lays out pages: not before somebody asks for one.
    from kneel.handout.page import class_html, pdf_of

    return pdf_of(class_html(page_of(open_class, every)))
