"""How each of the toolkit's parts is painted, and where its pieces lie; all in px of the window."""

from __future__ import annotations

from functools import cache

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPen
from PyQt6.QtWidgets import (
    QLabel,
    QPlainTextEdit,
    QPushButton,
    QStyle,
    QStyleOptionButton,
    QStyleOptionMenuItem,
    QStyleOptionSlider,
    QWidget,
)

from kneel.desk.widgets.theme.colours import Colours
from kneel.desk.widgets.theme.type import font

State, Part = QStyle.StateFlag, QStyle.SubControl
ROUND = 6
GROOVE, HANDLE_WIDE, HANDLE_HIGH = 4, 12, 14
SHORTEST = 24
"""The least length of a scroll bar's handle, px."""

ITEM_BEFORE, ITEM_AFTER, ITEM_ABOVE, KEYS_GAP = 24, 28, 6, 18
"""Room about the words of a menu's line, and between them and its keys, px."""

BUTTON_ROOM = {"flat": (1, 3), "tab": (6, 5), "small": (11, 3), "": (13, 7)}
"""From the edge of a button to its words, px across and down, by its kind."""


@cache
def colour(name: str) -> QColor:
    """A colour of the palette; one object for each, not to be changed."""
    return QColor(name)


def kind_of(button: QWidget) -> str:
    """Which kind of button it is: "flat", "tab", "small", or ""."""
    role = button.property("role")
    if role in ("flat", "tab"):
        return str(role)
    return "small" if is_set(button, "small") else ""


def is_set(widget: QWidget, name: str) -> bool:
    """Whether a mark was put on a widget."""
    return widget.property(name) in (True, "true")


def _box(painter: QPainter, box: QRect, ground: str, edge: str, width: float = 1.0) -> None:
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour(edge), width) if edge else Qt.PenStyle.NoPen)
    painter.setBrush(colour(ground) if ground else Qt.BrushStyle.NoBrush)
    inset = width / 2 if edge else 0
    painter.drawRoundedRect(QRectF(box).adjusted(inset, inset, -inset, -inset), ROUND - inset, ROUND - inset)
    painter.restore()


def button(painter: QPainter, option: QStyleOptionButton, widget: QWidget, c: Colours) -> None:
    """A button: its ground, its edge, which tells focus and pointer, and its words."""
    kind, box, state = kind_of(widget), widget.rect(), option.state
    focus, enabled = bool(state & State.State_HasFocus), bool(state & State.State_Enabled)
    words = c.text if enabled else c.faint
    type_ = widget.font()
    align = Qt.AlignmentFlag.AlignCenter
    if kind == "tab":
        on = bool(state & State.State_On)
        line = c.text if focus else c.chosen_edge if on else ""
        if line:
            painter.fillRect(QRect(box.left(), box.bottom() - 1, box.width(), 2), colour(line))
        if enabled and not on:
            words = c.secondary
        type_ = font(type_.pixelSize(), 600) if on else type_
        box = box.adjusted(0, 0, 0, -2)
    elif kind == "flat":
        if focus:
            _box(painter, box, "", c.chosen_edge)
        align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        box = box.adjusted(1, 0, -1, 0)
    else:
        primary = is_set(widget, "primary")
        hover = bool(state & State.State_MouseOver) and enabled
        strong = primary or focus or hover
        _box(painter, box, c.chosen if primary else c.raised, c.chosen_edge if strong else c.edge)
    painter.setFont(type_)
    painter.setPen(colour(words))
    painter.drawText(box, int(align | Qt.TextFlag.TextShowMnemonic), option.text)


def bold_more(widget: QWidget, wide: int) -> int:
    """How much wider a tab's words are while it is chosen than the ``wide`` px they take now."""
    if kind_of(widget) != "tab" or not isinstance(widget, QPushButton) or not widget.isCheckable():
        return 0
    bold = QFontMetrics(font(widget.font().pixelSize(), 600))
    return max(bold.size(Qt.TextFlag.TextShowMnemonic, widget.text()).width() - wide, 0)


def field(painter: QPainter, widget: QWidget, c: Colours) -> None:
    """What is typed into."""
    _box(painter, widget.rect(), c.raised, c.chosen_edge if widget.hasFocus() else c.edge)


def framed(painter: QPainter, widget: QWidget, c: Colours) -> bool:
    """The frame of what has a role that asks for one; tells whether it had."""
    if isinstance(widget, QPlainTextEdit):
        _box(painter, widget.rect(), c.raised, "")
        return True
    role = widget.property("role")
    if role in ("transport", "asking"):
        _box(painter, widget.rect(), c.panel, c.edge if role == "transport" else c.watch)
    elif role == "demo":
        _box(painter, widget.rect(), "", c.watch)
    elif role == "watch" and not isinstance(widget, QLabel):
        painter.fillRect(widget.rect(), colour(c.watch))
    else:
        return False
    return True


def leaf(painter: QPainter, widget: QWidget, c: Colours, *, menu: bool) -> None:
    """The ground of a menu or of a tooltip, which are windows of their own."""
    painter.fillRect(widget.rect(), colour(c.panel if menu else c.raised))
    painter.setPen(colour(c.edge))
    painter.drawRect(widget.rect().adjusted(0, 0, -1, -1))


def menu_item(painter: QPainter, option: QStyleOptionMenuItem, c: Colours) -> None:
    """One line of a menu: its tick, its words, and its keys or that more opens beside it."""
    box = option.rect
    if option.menuItemType is QStyleOptionMenuItem.MenuItemType.Separator:
        painter.fillRect(QRect(box.left() + 8, box.center().y(), box.width() - 16, 1), colour(c.edge))
        return
    enabled = bool(option.state & State.State_Enabled)
    if enabled and option.state & State.State_Selected:
        _box(painter, box, c.chosen, "")
    if option.checked:
        tick(painter, QPointF(box.left() - 2, box.center().y() - 14), colour(c.clear))
    painter.setFont(option.font)
    painter.setPen(colour(c.text if enabled else c.faint))
    words, _, keys = option.text.partition("\t")
    flags = int(Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextShowMnemonic | Qt.TextFlag.TextSingleLine)
    inner = box.adjusted(ITEM_BEFORE, 0, -ITEM_AFTER // 2, 0)
    painter.drawText(inner, flags | int(Qt.AlignmentFlag.AlignLeft), words)
    painter.setPen(colour(c.secondary if enabled else c.faint))
    painter.drawText(inner, flags | int(Qt.AlignmentFlag.AlignRight), keys)
    if option.menuItemType is QStyleOptionMenuItem.MenuItemType.SubMenu:
        end = QPointF(inner.right() - 2, box.center().y() + 0.5)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(painter.pen().color(), 1.5))
        painter.drawPolyline([end + QPointF(-4, -4), end, end + QPointF(-4, 4)])


def tick(painter: QPainter, corner: QPointF, ink: QColor) -> None:
    """What is chosen already, at the left of a row whose upper left corner is given."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(ink, 2.0))
    painter.drawPolyline([corner + at for at in (QPointF(9, 15), QPointF(13, 19), QPointF(19, 10))])


def menu_bar_item(painter: QPainter, option: QStyleOptionMenuItem, c: Colours) -> None:
    """A menu's name above."""
    if option.state & (State.State_Selected | State.State_Sunken):
        _box(painter, option.rect, c.raised, "")
    painter.setPen(colour(c.text if option.state & State.State_Enabled else c.faint))
    flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextShowMnemonic | Qt.TextFlag.TextSingleLine
    painter.drawText(option.rect, int(flags), option.text)


def slider_part(box: QRect, option: QStyleOptionSlider, part: QStyle.SubControl) -> QRect:
    """Where the groove and the handle of a slider that lies across are."""
    middle = box.center().y()
    if part is Part.SC_SliderHandle:
        left = QStyle.sliderPositionFromValue(
            option.minimum,
            option.maximum,
            option.sliderPosition,
            box.width() - HANDLE_WIDE,
            option.upsideDown,
        )
        return QRect(box.left() + left, middle - HANDLE_HIGH // 2 + 1, HANDLE_WIDE, HANDLE_HIGH)
    return QRect(box.left(), middle - GROOVE // 2 + 1, box.width(), GROOVE)


def slider(painter: QPainter, box: QRect, option: QStyleOptionSlider, c: Colours) -> None:
    """A slider that lies across: what is behind the handle is filled."""
    groove, handle = (slider_part(box, option, p) for p in (Part.SC_SliderGroove, Part.SC_SliderHandle))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(c.edge))
    painter.drawRoundedRect(groove, 2, 2)
    painter.setBrush(colour(c.clear))
    done = QRect(groove)
    done.setRight(handle.center().x())
    painter.drawRoundedRect(done, 2, 2)
    if option.state & State.State_HasFocus:
        painter.setPen(QPen(colour(c.text), 2))
        painter.setBrush(colour(c.chosen_edge))
        painter.drawRoundedRect(QRectF(handle).adjusted(1, 1, -1, -1), ROUND - 1, ROUND - 1)
        return
    painter.setBrush(colour(c.text))
    painter.drawRoundedRect(handle, ROUND, ROUND)


def scroll_bar_part(box: QRect, option: QStyleOptionSlider, part: QStyle.SubControl) -> QRect:
    """Where the pieces of a scroll bar are: a handle in a groove, and a page before and after it."""
    upright = option.orientation is Qt.Orientation.Vertical
    long = box.height() if upright else box.width()
    spread = option.maximum - option.minimum
    handle = long if spread <= 0 else max(option.pageStep * long // (spread + option.pageStep), SHORTEST)
    handle = min(handle, long)
    start = QStyle.sliderPositionFromValue(
        option.minimum, option.maximum, option.sliderPosition, long - handle, option.upsideDown
    )
    spans = {
        Part.SC_ScrollBarGroove: (0, long),
        Part.SC_ScrollBarSlider: (start, handle),
        Part.SC_ScrollBarSubPage: (0, start),
        Part.SC_ScrollBarAddPage: (start + handle, long - start - handle),
    }
    begins, length = spans.get(part, (0, 0))
    if upright:
        return QRect(box.left(), box.top() + begins, box.width(), length)
    return QRect(box.left() + begins, box.top(), length, box.height())


def scroll_bar(painter: QPainter, box: QRect, option: QStyleOptionSlider, c: Colours) -> None:
    """A scroll bar: its handle alone, on whatever ground it lies."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(c.edge))
    painter.drawRoundedRect(scroll_bar_part(box, option, Part.SC_ScrollBarSlider), 4, 4)
