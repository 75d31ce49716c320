"""Questions to the user about documents, none of which stops the window."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Answer, Sheet
from kneel.desk.widgets.theme import Look
from kneel.disk import shown


def ask(parent: QWidget, look: Look, title: str, words: str, more: str, answers: Sequence[Answer]) -> Sheet:
    """Ask, with one button for each answer; the last one, which loses nothing, is what Esc means."""
    sheet = Sheet(parent, look, title, "\n\n".join(p for p in (words, more) if p), answers=answers)
    sheet.open()
    return sheet


def ask_about_clash(
    parent: QWidget,
    look: Look,
    words: str,
    both: Callable[[], None],
    ours: Callable[[], None],
    theirs: Callable[[], None],
) -> Sheet:
    """Two desks have changed one document: which state goes on?"""
    return ask(
        parent,
        look,
        tr("Changed by another desk"),
        words,
        tr("Keeping both puts your work in a document beside the other; taking the other’s can be undone."),
        (
            (tr("Take the other’s"), theirs),
            (tr("Replace it with mine"), ours),
            (tr("Keep both"), both),
        ),
    )


def ask_for_clip(parent: QWidget, look: Look, words: str, search: Callable[[], None]) -> Sheet:
    """A document's clip is gone or was replaced: look for the right one?"""
    return ask(
        parent,
        look,
        tr("The clip is not there"),
        words,
        "",
        ((tr("Look for the clip …"), search), (tr("Leave it"), lambda: None)),
    )


def ask_for_school(parent: QWidget, look: Look, words: str, title: str, judge: Callable[[], None]) -> Sheet:
    """A document's school is not known here: judge it by another, whose title this is?"""
    return ask(
        parent,
        look,
        tr("Its school is not here"),
        words,
        tr("Judged by another it keeps its marks and all that was said, and goes by that one from now on."),
        ((tr("Judge it by “%s”") % title, judge), (tr("Leave it"), lambda: None)),
    )


def ask_to_leave(
    parent: QWidget, look: Look, words: str, elsewhere: Callable[[], None], leave: Callable[[], None]
) -> Sheet:
    """Work can be saved nowhere: close all the same?"""
    return ask(
        parent,
        look,
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
    parent: QWidget,
    look: Look,
    names: Sequence[str],
    recover: Callable[[], None],
    decline: Callable[[], None],
) -> Sheet:
    """Work that could not be saved last time is still there: go on with it?"""
    listed = "\n".join(f"•  {shown(name)}" for name in names)
    return ask(
        parent,
        look,
        tr("Work that could not be saved"),
        tr("This could not be saved where it belongs and was kept aside:"),
        listed,
        (
            (tr("Open the first"), recover),
            (tr("Never ask again"), decline),
            (tr("Later"), lambda: None),
        ),
    )
