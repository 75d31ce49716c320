"""Questions to the user about documents, none of which stops the window."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox, QWidget

from kneel.desk.words import tr
from kneel.disk import shown

Answer = tuple[str, Callable[[], None]]


def ask(parent: QWidget, title: str, words: str, more: str, answers: Sequence[Answer]) -> QMessageBox:
    """Ask, with one button for each answer; the last one, which loses nothing, is what closing means."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, title, shown(words), parent=parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setInformativeText(more)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    deeds = {}
    for answer, deed in answers:
        deeds[box.addButton(answer, QMessageBox.ButtonRole.ActionRole)] = deed
        last = box.buttons()[-1]
    box.setEscapeButton(last)
    box.setDefaultButton(last)
    box.buttonClicked.connect(lambda button: deeds.get(button, lambda: None)())
    box.open()
    return box


def ask_about_clash(
    parent: QWidget,
    words: str,
    both: Callable[[], None],
    ours: Callable[[], None],
    theirs: Callable[[], None],
) -> QMessageBox:
    """Two desks have changed one document: which state goes on?"""
    return ask(
        parent,
        tr("Changed by another desk"),
        words,
        tr("Keeping both puts your work in a document beside the other; taking the other’s can be undone."),
        (
            (tr("Take the other’s"), theirs),
            (tr("Replace it with mine"), ours),
            (tr("Keep both"), both),
        ),
    )


def ask_for_clip(parent: QWidget, words: str, look: Callable[[], None]) -> QMessageBox:
    """A document's clip is gone or was replaced: look for the right one?"""
    return ask(
        parent,
        tr("The clip is not there"),
        words,
        "",
        ((tr("Look for the clip …"), look), (tr("Leave it"), lambda: None)),
    )


def ask_to_leave(
    parent: QWidget, words: str, elsewhere: Callable[[], None], leave: Callable[[], None]
) -> QMessageBox:
    """Work can be saved nowhere: close all the same?"""
    return ask(
        parent,
        tr("Your work is not saved"),
        words,
        tr("Closing now would lose what was changed since it was last saved."),
        (
            (tr("Save elsewhere …"), elsewhere),
            (tr("Close and lose it"), leave),
            (tr("Stay"), lambda: None),
        ),
    )


def ask_to_recover(
    parent: QWidget, names: Sequence[str], recover: Callable[[], None], decline: Callable[[], None]
) -> QMessageBox:
    """Work that could not be saved last time is still there: go on with it?"""
    listed = "\n".join(f"•  {shown(name)}" for name in names)
    return ask(
        parent,
        tr("Work that could not be saved"),
        tr("This could not be saved where it belongs and was kept aside:"),
        listed,
        (
            (tr("Open the first"), recover),
            (tr("Never ask again"), decline),
            (tr("Later"), lambda: None),
        ),
    )
