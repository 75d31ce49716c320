"""Where the ball of a swing was struck, where it started and how it curved: noted in three presses."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
from PyQt6.QtWidgets import QWidget

from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.judge.flight import CURVES, STARTS, STRIKES
from kneel.model import Ball
from kneel.model.swing import FARTHEST_M


@dataclass(frozen=True)
class BallField:
    """One thing that is told of a ball: its field, how it is asked for, and what it may be."""

    field: str
    title: str
    kinds: tuple[str, ...]


TOLD = (
    BallField("strike", "Struck", tuple(STRIKES)),
    BallField("start", "Starts", STARTS),
    BallField("curve", "Curves", CURVES),
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

    def ask() -> None:
        entry = Entry(
            parent,
            look,
            tr("How far did the ball carry?"),
            lambda far: opened.set(
                tr("Note the ball"), ball=msgspec.structs.replace(ball, carry=float(str(far)))
            ),
            number=(ball.carry or 0.0, 0.0, FARTHEST_M, 0),
            unit="m",
        )
        entry.open()

    choices = [
        Choice(
            f"{tr(one.title)}: {tr(kind)}",
            lambda f=one.field, k=kind: tell(f, k),
            checked=getattr(ball, one.field) == kind,
        )
        for one in TOLD
        for kind in one.kinds
    ]
    choices.append(
        Choice(
            tr("Carried: %s …") % (f"{ball.carry:g} m" if ball.carry is not None else tr("not noted")), ask
        )
    )
    chooser = Chooser(parent, look, tr("What did the ball do?"), choices)
    chooser.open(None)
    return chooser
