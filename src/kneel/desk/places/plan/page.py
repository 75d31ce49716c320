"""A plan as a page to print: the one thing, how, the days with boxes to tick, the ladder, and care."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from html import escape

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
from PyQt6.QtGui import QPageLayout, QPageSize, QPdfWriter, QTextDocument

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import font
from kneel.judge import in_use
from kneel.model import RUNGS, Flag, Hand, Plan
from kneel.practice import Drill, sessions
from kneel.practice.dose import amount
from kneel.practice.schedule import State, check_ins
from kneel.speech import practice as say
from kneel.speech.plain import sided

DPI = 150

STYLE = """
body { font-family: Inter; font-size: 9.5pt; color: #1a2224; }
h1 { font-size: 18pt; margin-top: 2px; margin-bottom: 6px; }
h2 { font-size: 12pt; margin-top: 22px; margin-bottom: 6px; }
p { margin-top: 0; margin-bottom: 7px; } ol { margin-top: 0; margin-bottom: 6px; } li { margin-bottom: 3px; }
td { padding: 5px 10px 5px 0; } .quiet { color: #4e5d60; }
.box { border: 1px solid #1a2224; padding: 5px 12px; }
"""


NAME = "\ufffc"
"""Stands for the name while sides are told."""


def page_of(
    plan: Plan,
    drill: Drill,
    hand: Hand,
    name: str,
    today: datetime.date,
    flags: Sequence[Flag] = (),
    warning: str = "",
) -> bytes:
    """The page as PDF, A4; left and right instead of lead and trail."""
    document = QTextDocument()
    document.setDefaultFont(font(12))
    document.setDefaultStyleSheet(STYLE)
    # A name may be a word of sides, and stays one's name.
    words = sided(_html(plan, drill, NAME, today, flags, warning), hand)
    document.setHtml(words.replace(NAME, escape(name)))
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(16, 14, 16, 14), QPageLayout.Unit.Millimeter)
    writer.setTitle(f"{name}: {drill.title}")
    writer.setResolution(DPI)
    layout = document.documentLayout()
    assert layout is not None
    layout.setPaintDevice(writer)
    document.setDocumentMargin(0)
    document.setPageSize(QSizeF(writer.width(), writer.height()))
    document.print(writer)
    buffer.close()
    return bytes(buffer.data())


def _html(
    plan: Plan, drill: Drill, name: str, today: datetime.date, flags: Sequence[Flag], warning: str
) -> str:
    fault = in_use().faults.get(plan.fault)
    rows = []
    filmed = set(check_ins(plan))
    days = {one.date: one for one in sessions(plan, today) if one.state is not State.MISSED}
    for day in sorted({*days, *filmed}):
        when = f"{say.WEEKDAYS[day.weekday()]} {day.day} {say.MONTHS[day.month - 1][:3]}".replace(
            " ", "&nbsp;"
        )
        what = tr("Film three swings: did it change?")
        if day not in filmed:
            what = say.dose_words(amount(drill, days[day].rung, plan.minutes, flags))
        mark = tr("done") if day in days and days[day].state is State.DONE else "&nbsp;&nbsp;&nbsp;&nbsp;"
        rows.append((f"<td class='box'>{mark}</td>", f"<td>{when}</td><td>{escape(what)}</td>"))
    half = (len(rows) + 1) // 2
    left, right = rows[:half], [*rows[half:], *[("<td></td>", "<td></td><td></td>")] * (len(rows) % 2)]
    table = "".join(
        f"<tr>{a}{b}<td width='24'></td>{c}{d}</tr>" for (a, b), (c, d) in zip(left, right, strict=True)
    )
    ladder = "".join(
        f"<tr><td><b>{k + 1}&nbsp;&nbsp;{say.RUNG_TITLES[rung]}</b></td>"
        f"<td>{escape(say.rung_words(plan, rung))}</td><td class='quiet'>{escape(drill.on(rung))}</td></tr>"
        for k, rung in enumerate(RUNGS)
    )
    steps = "".join(f"<li>{escape(step)}</li>" for step in drill.steps)
    cares = " ".join(say.cautions(drill, fault, warning))
    return f"""<body>
<p class='quiet'>{escape(name)} · {say.day_words(plan.start)} {plan.start.year}</p>
<h1>{escape(drill.title)}</h1>
<p>{escape(fault.why if fault else "")}</p>
<h2>{tr("How")}</h2><ol>{steps}</ol>
<p><b>{tr("Feel")}</b> {escape(drill.feel)}</p>
<p><b>{tr("Avoid")}</b> {escape(" ".join(drill.mistakes))}</p>
<p><b>{tr("Where it is felt")}</b> {escape(drill.felt)} {escape(drill.sore)} {escape(drill.pain)}</p>
<h2>{tr("Days")}</h2><table cellspacing='4' width='100%'>{table}</table>
<h2>{tr("The ladder")}</h2>
<p class='quiet'>{tr("A rung is climbed when its number holds, and left again when it does not.")}</p>
<table width='100%'>{ladder}</table>
<h2>{tr("On %s") % say.day_words(plan.check_in)}</h2>
<p>{escape(say.film_sentence(plan))} {tr("Done when:")} {escape(say.success_sentence(plan))}</p>
<h2>{tr("Care")}</h2><p>{escape(cares)}</p>
</body>"""
