"""The list of keys, the palette of actions, the cautions, the log, and what Kneel is."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QGridLayout, QPlainTextEdit, QVBoxLayout, QWidget

from kneel import __version__
from kneel.desk.shell.actions import ACTIONS, MENUS, Action
from kneel.desk.shell.exception_hook import log_end, log_file
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Sheet, titled
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look
from kneel.disk import shown

CARE = (
    "Kneel measures and suggests; the instructor decides, and neither diagnoses health. "
    "Stop at pain and see a licensed medical professional for it. Never force a turn. Warm up. "
    "Keep the swing space clear of people, glass and hard props, and set sticks so that a fall "
    "cannot meet their ends. Side bend together with extension low in the back is the dangerous mix.\n\n"
    "A face-on camera sees sideways travel, height and tilt. It does not see movement toward the ball, "
    "nor pressure on the ground. Every number carries its error; baggy clothing hides joints, and the "
    "thing followed may be cloth."
)

BY_MOUSE = (
    ("Wheel", "step through the frames"),
    ("Ctrl + wheel", "zoom the picture, or the ribbon in time"),
    ("Alt + arrows", "nudge the chosen point by a quarter pixel"),
    ("Drag a pennant", "pin a checkpoint; right-click sets it free"),
    ("Drag a point", "correct it; the loupe shows where it lands"),
)


def keys_of(action: Action) -> str:
    """The keys of an action as they are written on this desk."""
    form = QKeySequence.SequenceFormat.NativeText
    return "  ".join(QKeySequence(s).toString(form) for s in (*action.keys, *action.stage_keys))


def show_crib(parent: QWidget, look: Look) -> Sheet:
    """All keys, from the table of actions, by menu."""
    content = QWidget()
    grid = QGridLayout(content)
    grid.setContentsMargins(0, 0, 8, 0)
    grid.setHorizontalSpacing(14)
    grid.setVerticalSpacing(4)
    columns: list[list[tuple[str, str]]] = [[], []]
    sections = [
        (name, [(keys_of(a), tr(a.title)) for a in ACTIONS if a.menu == name and keys_of(a)])
        for name in MENUS
    ]
    sections.append(("By mouse", [(tr(keys), tr(words)) for keys, words in BY_MOUSE]))
    for name, rows in sections:
        if rows:
            shorter = min(columns, key=len)
            shorter += [("", tr(name)), *rows]
    for k, column in enumerate(columns):
        for row, (keys, words) in enumerate(column):
            if not keys:
                grid.addWidget(titled(words), row, 2 * k, 1, 2)
                continue
            label, text = Label(keys), Label(words)
            label.setProperty("role", "strong")
            text.setWordWrap(True)
            grid.addWidget(label, row, 2 * k, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(text, row, 2 * k + 1)
        grid.setColumnStretch(2 * k + 1, 1)
    sheet = Sheet(parent, look, tr("All keys"), content=content, width=920, passing=True)
    sheet.open()
    return sheet


def show_palette(parent: QWidget, look: Look, actions: dict[str, QAction]) -> Chooser:
    """Every action that can be done now, found by typing."""
    choices = [
        Choice(
            tr(a.title) if a.under else actions[a.key].text(),
            actions[a.key].trigger,
            detail=tr(a.menu),
            keys=keys_of(a),
            enabled=actions[a.key].isEnabled(),
        )
        for a in ACTIONS
        if a.key != "palette"
    ]
    chooser = Chooser(parent, look, tr("Find an action"), choices, typing=True)
    chooser.open()
    return chooser


def show_care(parent: QWidget, look: Look) -> Sheet:
    """The usual cautions and what one camera cannot see."""
    sheet = Sheet(parent, look, tr("Care and limits"), tr(CARE), width=560, passing=True)
    sheet.open()
    return sheet


def show_log(parent: QWidget, look: Look) -> Sheet:
    """Where the log is, and its end."""
    content = QWidget()
    column = QVBoxLayout(content)
    column.setContentsMargins(0, 0, 0, 0)
    end = QPlainTextEdit(log_end() or tr("Nothing is written there yet."))
    end.setReadOnly(True)
    end.setAccessibleName(tr("The end of the log"))
    end.setMinimumHeight(240)
    column.addWidget(end)
    words = tr("What went wrong inside Kneel is written to %s") % shown(log_file())
    more = tr("It holds no names of students and no marks; paths of files it may hold.")
    sheet = Sheet(parent, look, tr("The log"), f"{words}\n{more}", content=content, width=680, passing=True)
    sheet.open()
    return sheet


def show_about(parent: QWidget, look: Look) -> Sheet:
    """What Kneel is."""
    words = (
        tr("Kneel %s. Free software under the GNU General Public License, version 3 or later.") % __version__
    )
    sheet = Sheet(parent, look, tr("About Kneel"), words, passing=True)
    sheet.open()
    return sheet


def help_handlers(
    window: QWidget, look: Look, actions: dict[str, QAction], guide: Callable[[], object]
) -> dict:
    """What the actions of the help menu do."""
    from kneel.desk.shell.filming import show_filming

    return {
        "palette": lambda: show_palette(window, look, actions),
        "crib": lambda: show_crib(window, look),
        "guide": guide,
        "filming": lambda: show_filming(window, look),
        "care": lambda: show_care(window, look),
        "log": lambda: show_log(window, look),
        "about": lambda: show_about(window, look),
    }
