"""What is done with what is chosen on a picture: a thing drawn, or a mark."""

from __future__ import annotations

from kneel.desk.stage import drawing
from kneel.desk.stage.canvas import Canvas
from kneel.desk.swing import OpenSwing


def take_away(canvas: Canvas, opened: OpenSwing) -> bool:
    """Take away what is chosen; False where nothing is."""
    document = opened.document
    if canvas.drawn is not None and canvas.drawn < len(opened.swing.drawn):
        document.change("Take away what was drawn", drawing.without(opened.swing, canvas.drawn))
        canvas.drawn = None
    elif canvas.selected:
        swing = opened.swing.without_mark(canvas.selected, opened.cursor.frame)
        document.change(f"Unmark {canvas.selected.replace('_', ' ')}", swing)
    else:
        return False
    return True


def keep_lasting(canvas: Canvas, opened: OpenSwing) -> bool:
    """Keep what is drawn for the whole swing, or for this frame again; False where nothing is chosen."""
    if canvas.drawn is None or canvas.drawn >= len(opened.swing.drawn):
        return False
    swing = drawing.lasting(opened.swing, canvas.drawn, opened.cursor.frame)
    opened.document.change("Keep what is drawn", swing)
    return True
