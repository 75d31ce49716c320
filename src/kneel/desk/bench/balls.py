"""Where the ball of a swing was struck, where it started and how it curved: noted in three presses."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
from PyQt6.QtWidgets import QWidget

from kneel.desk.chooser import Choice, Chooser
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.model import Ball


@dataclass(frozen=True)
class Told:
    """One thing that is told of a ball: its field, how it is asked for, and what it may be."""

    field: str
    title: str
    kinds: tuple[str, ...]


TOLD = (
    Told("strike", "Struck", ("clean", "fat", "thin", "topped", "heel", "toe", "shank")),
    Told("start", "Starts", ("left", "straight", "right")),
    Told("curve", "Curves", ("left", "not", "right")),
)
"""What is told of a ball (common practice, no source)."""


def note_ball(opened: OpenSwing, look: Look, parent: QWidget) -> Chooser | None:
    """Let strike, start and curve be told; each press sets one, the same again takes it back."""
    if opened.store is None:
        return None
    ball = opened.swing.ball or Ball()

    def tell(field: str, kind: str) -> None:
        value = "" if getattr(ball, field) == kind else kind
        opened.set(tr("Note the ball"), ball=msgspec.structs.replace(ball, **{field: value}))
        note_ball(opened, look, parent)

    choices = [
        Choice(
            f"{tr(one.title)}: {tr(kind)}",
            lambda f=one.field, k=kind: tell(f, k),
            checked=getattr(ball, one.field) == kind,
        )
        for one in TOLD
        for kind in one.kinds
    ]
    chooser = Chooser(parent, look, tr("What did the ball do?"), choices)
    chooser.open(None)
    return chooser
