"""Which of the actions that turn something on and off have it on."""

from __future__ import annotations

from kneel.desk.places.bench.layout import Lie
from kneel.desk.places.bench.view import Bench
from kneel.desk.places.book.view import BookPlace
from kneel.desk.shell.preferences import Preferences
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.theme import Look


def ticks_of(
    on_desk: OpenSwing, bench: Bench, book: BookPlace, preferences: Preferences, look: Look
) -> dict[str, bool]:
    """Each such action by its key."""
    return {
        "plain": bench.stage.plain,
        "trail": bench.stage.trail,
        "layout": bench.lying.lie is Lie.UPRIGHT,
        "student_view": bench.student.on,
        "look": on_desk.swing.looked and on_desk.store is not None,
        "unsure": bench.reading.explain.ask_unsure.isChecked(),
        "watch": bench.rack.watching.folder is not None,
        "show_archived": book.student_page.archived,
        "inches": preferences.inches,
        "light": not look.colours.dark,
    }
