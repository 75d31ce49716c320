"""The crib of keys, the cautions, and what Kneel is."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QDialog, QGridLayout, QLabel, QMessageBox, QWidget

from kneel import __version__
from kneel.desk.actions import ACTIONS
from kneel.desk.mishaps import log_end, log_file
from kneel.desk.words import tr
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


def show_crib(parent: QWidget) -> QDialog:
    """All keys, from the table of actions."""
    dialog = QDialog(parent)
    dialog.setWindowTitle(tr("All keys"))
    grid = QGridLayout(dialog)
    grid.setContentsMargins(24, 20, 24, 20)
    grid.setHorizontalSpacing(16)
    grid.setVerticalSpacing(6)
    with_keys = [a for a in ACTIONS if a.keys or a.stage_keys]
    half = (len(with_keys) + 1) // 2
    for k, action in enumerate(with_keys):
        keys = "  ".join(
            QKeySequence(s).toString(QKeySequence.SequenceFormat.NativeText)
            for s in (*action.keys, *action.stage_keys)
        )
        row, column = k % half, 2 * (k // half)
        label = QLabel(keys)
        label.setStyleSheet("font-weight: 600;")
        grid.addWidget(label, row, column)
        grid.addWidget(QLabel(tr(action.title)), row, column + 1)
    more = QLabel(
        tr(
            "Wheel: step. Ctrl+wheel: zoom. Alt+arrows: nudge the chosen point a quarter pixel. "
            "Drag a pennant to pin a checkpoint."
        )
    )
    more.setWordWrap(True)
    grid.addWidget(more, half, 0, 1, 4)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.open()
    return dialog


def show_care(parent: QWidget) -> None:
    """The usual cautions and what one camera cannot see."""
    QMessageBox.information(parent, tr("Care and limits"), tr(CARE))


def show_log(parent: QWidget) -> QMessageBox:
    """Where the log is, and its end."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, tr("The log"), "", parent=parent)
    box.setText(tr("What went wrong inside Kneel is written to %s") % shown(log_file()))
    box.setInformativeText(tr("It holds no names of students and no marks; paths of files it may hold."))
    box.setDetailedText(log_end() or tr("Nothing is written there yet."))
    box.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    box.open()
    return box


def show_about(parent: QWidget) -> None:
    QMessageBox.information(
        parent,
        tr("About Kneel"),
        tr("Kneel %s. Free software under the GNU General Public License, version 3 or later.") % __version__,
    )
