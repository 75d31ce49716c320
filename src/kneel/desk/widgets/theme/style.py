"""How the toolkit's own parts look on the desk: painted here, on top of a plain style of the toolkit.

A style sheet would say the same in fewer lines, but every widget pays for it, whether a rule is about it or
not: it took three quarters of the time to build the window, and dark and light took half a second to change.
"""

from __future__ import annotations

from typing import TypeVar

from PyQt6 import sip
from PyQt6.QtCore import QRect, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPalette
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QLabel,
    QListView,
    QPlainTextEdit,
    QProxyStyle,
    QPushButton,
    QStyle,
    QStyleOption,
    QStyleOptionButton,
    QStyleOptionComplex,
    QStyleOptionFrame,
    QStyleOptionMenuItem,
    QStyleOptionSlider,
    QStyleOptionSpinBox,
    QWidget,
)

from kneel.desk.widgets.theme import paint
from kneel.desk.widgets.theme.colours import Colours
from kneel.desk.widgets.theme.type import PLAIN_PX, font

Metric, Control, Complex = QStyle.PixelMetric, QStyle.ControlElement, QStyle.ComplexControl
Primitive, Contents, Element = QStyle.PrimitiveElement, QStyle.ContentsType, QStyle.SubElement
Part = QStyle.SubControl
Role = QPalette.ColorRole
Known = TypeVar("Known", bound=QStyleOption)

SECONDARY, WATCH, FAINT = Role.LinkVisited, Role.BrightText, Role.PlaceholderText
"""The roles of the palette that carry the quieter colours of words, so that they change with it."""

WORDS: dict[str, tuple[float, int, QPalette.ColorRole]] = {
    "title": (16, 600, Role.NoRole),
    "strong": (13, 600, Role.NoRole),
    "caption": (11.5, 400, SECONDARY),
    "small": (11.5, 400, SECONDARY),
    "secondary": (0, 0, SECONDARY),
    "faint": (11.5, 400, FAINT),
    "demo": (11.5, 400, WATCH),
    "watch": (0, 0, WATCH),
}
"""Size (px), weight and colour of a label by its role; size 0 is that of the desk."""

METRICS = {
    Metric.PM_ScrollBarExtent: 8,
    Metric.PM_ScrollBarSliderMin: paint.SHORTEST,
    Metric.PM_SliderLength: paint.HANDLE_WIDE,
    Metric.PM_SliderThickness: 16,
    Metric.PM_ToolTipLabelFrameWidth: 4,
    Metric.PM_MenuPanelWidth: 1,
    Metric.PM_MenuHMargin: 4,
    Metric.PM_MenuVMargin: 4,
    Metric.PM_MenuBarItemSpacing: 0,
}
FIELD = (9, 6)
"""From the edge of a field to what is typed in it, px across and down."""


class Style(QProxyStyle):
    """Paints buttons, fields, menus, sliders and scroll bars in the colours given, words by their role."""

    def __init__(self, colours: Colours) -> None:
        super().__init__("Fusion")
        self.colours = colours

    def polish(self, what: QWidget | QPalette | object) -> object:  # type: ignore[override]
        if isinstance(what, QPalette):
            return what
        super().polish(what)  # type: ignore[call-overload]
        if isinstance(what, QLabel | QPushButton):
            dress(what)
        elif isinstance(what, QPlainTextEdit):
            what.setFrameStyle(QPlainTextEdit.Shape.Box)
            what.setLineWidth(6)
            _see_through(what.viewport())
        elif isinstance(what, QListView) and not what.isWindow():
            what.setFrameShape(QListView.Shape.NoFrame)
            _see_through(what.viewport())
        return None

    def pixelMetric(
        self, metric: QStyle.PixelMetric, option: QStyleOption | None = None, widget: QWidget | None = None
    ) -> int:
        own = METRICS.get(metric)
        return super().pixelMetric(metric, option, widget) if own is None else own

    def sizeFromContents(
        self, kind: QStyle.ContentsType, option: QStyleOption, size: QSize, widget: QWidget | None = None
    ) -> QSize:
        if kind is Contents.CT_PushButton and widget is not None:
            across, down = paint.BUTTON_ROOM[paint.kind_of(widget)]
            wider = paint.bold_more(widget, size.width())
            return size + QSize(2 * across + wider, 2 * down)
        if kind is Contents.CT_MenuBarItem:
            return size + QSize(20, 12)
        if kind is Contents.CT_MenuItem:
            return _menu_item_size(QStyleOptionMenuItem(_as(option, QStyleOptionMenuItem)), size)
        if kind is Contents.CT_LineEdit and _is_field(option, widget):
            return size + QSize(2 * FIELD[0], 2 * FIELD[1])
        if kind is Contents.CT_SpinBox and _plain(option):
            return size + QSize(2 * FIELD[0], 2 * FIELD[1])
        return super().sizeFromContents(kind, option, size, widget)

    def subElementRect(
        self, element: QStyle.SubElement, option: QStyleOption, widget: QWidget | None = None
    ) -> QRect:
        if element is Element.SE_LineEditContents and widget is not None and _is_field(option, widget):
            return _inside(widget)
        return super().subElementRect(element, option, widget)

    def subControlRect(
        self,
        control: QStyle.ComplexControl,
        option: QStyleOptionComplex,
        part: QStyle.SubControl,
        widget: QWidget | None = None,
    ) -> QRect:
        if widget is not None:
            if control is Complex.CC_ScrollBar:
                return paint.scroll_bar_part(widget.rect(), _as(option, QStyleOptionSlider), part)
            if control is Complex.CC_Slider and _across(option):
                return paint.slider_part(widget.rect(), _as(option, QStyleOptionSlider), part)
            if control is Complex.CC_SpinBox and part is Part.SC_SpinBoxEditField and _plain(option):
                return _inside(widget)
        return super().subControlRect(control, option, part, widget)

    def drawPrimitive(
        self,
        element: QStyle.PrimitiveElement,
        option: QStyleOption,
        painter: QPainter,
        widget: QWidget | None = None,
    ) -> None:
        if element is Primitive.PE_FrameFocusRect and isinstance(widget, QAbstractItemView):
            return
        if element is Primitive.PE_PanelLineEdit:
            if widget is not None and _is_field(option, widget):
                paint.field(painter, widget, self.colours)
        elif element in (Primitive.PE_PanelTipLabel, Primitive.PE_PanelMenu) and widget is not None:
            paint.leaf(painter, widget, self.colours, menu=element is Primitive.PE_PanelMenu)
        elif element not in (Primitive.PE_FrameMenu, Primitive.PE_PanelMenuBar):
            super().drawPrimitive(element, option, painter, widget)

    def drawControl(
        self,
        element: QStyle.ControlElement,
        option: QStyleOption,
        painter: QPainter,
        widget: QWidget | None = None,
    ) -> None:
        if element is Control.CE_PushButton and widget is not None:
            paint.button(painter, _as(option, QStyleOptionButton), widget, self.colours)
        elif element is Control.CE_ShapedFrame:
            if widget is None or not paint.framed(painter, widget, self.colours):
                super().drawControl(element, option, painter, widget)
        elif element is Control.CE_MenuItem:
            menu = QStyleOptionMenuItem(_as(option, QStyleOptionMenuItem))
            paint.menu_item(painter, menu, self.colours)
        elif element is Control.CE_MenuBarItem:
            menu = QStyleOptionMenuItem(_as(option, QStyleOptionMenuItem))
            paint.menu_bar_item(painter, menu, self.colours)
        elif element is Control.CE_Splitter and widget is not None:
            if option.state & QStyle.StateFlag.State_MouseOver:
                painter.fillRect(widget.rect(), paint.colour(self.colours.edge))
        elif element is not Control.CE_MenuBarEmptyArea:
            super().drawControl(element, option, painter, widget)

    def drawComplexControl(
        self,
        control: QStyle.ComplexControl,
        option: QStyleOptionComplex,
        painter: QPainter,
        widget: QWidget | None = None,
    ) -> None:
        if control is Complex.CC_ScrollBar and widget is not None:
            paint.scroll_bar(painter, widget.rect(), _as(option, QStyleOptionSlider), self.colours)
        elif control is Complex.CC_Slider and widget is not None and _across(option):
            paint.slider(painter, widget.rect(), _as(option, QStyleOptionSlider), self.colours)
        elif control is Complex.CC_SpinBox and widget is not None and _plain(option):
            paint.field(painter, widget, self.colours)
        else:
            super().drawComplexControl(control, option, painter, widget)


def dress(widget: QLabel | QPushButton) -> None:
    """Give a label the type and the colour of its role, a button the type of its kind."""
    if isinstance(widget, QLabel):
        role = widget.property("role")
        if role is None:
            return
        size, weight, ink = WORDS[role]
        widget.setFont(font(size, weight) if size else QFont())
        widget.setForegroundRole(ink)
        if role == "demo":
            widget.setContentsMargins(7, 2, 7, 2)
        return
    small, primary = paint.is_set(widget, "small"), paint.is_set(widget, "primary")
    if small or primary:
        widget.setFont(font(11.5 if small else PLAIN_PX, 600 if primary else 400))


def _menu_item_size(option: QStyleOptionMenuItem, size: QSize) -> QSize:
    if option.menuItemType is QStyleOptionMenuItem.MenuItemType.Separator:
        return QSize(size.width(), 9)
    keys = paint.KEYS_GAP if "\t" in option.text else 0
    across = paint.ITEM_BEFORE + paint.ITEM_AFTER + keys
    return QSize(size.width() + across, option.fontMetrics.height() + 2 * paint.ITEM_ABOVE)


def _as(option: QStyleOption, kind: type[Known]) -> Known:
    """An option as what it is.

    It lies on the toolkit's stack, where another lay a moment ago. Who has asked one for its rectangle, font
    or palette keeps it in a circle that only the search for garbage ends, and until then what lies at the
    same place is taken for it. So its type is said anew, the rectangle is the widget's, and a line of a menu,
    which is no widget, is asked on a copy.
    """
    return sip.wrapinstance(sip.unwrapinstance(option), kind)


def _is_field(option: QStyleOption, widget: QWidget | None) -> bool:
    """Whether a line to type in has a frame of its own; one in a field of numbers lies in that field's."""
    inside = widget is not None and isinstance(widget.parentWidget(), QAbstractSpinBox)
    return not inside and _as(option, QStyleOptionFrame).lineWidth > 0


def _inside(widget: QWidget) -> QRect:
    return widget.rect().adjusted(FIELD[0], FIELD[1], -FIELD[0], -FIELD[1])


def _plain(option: QStyleOption) -> bool:
    """Whether a field of numbers has no buttons."""
    none = QAbstractSpinBox.ButtonSymbols.NoButtons
    return _as(option, QStyleOptionSpinBox).buttonSymbols is none


def _across(option: QStyleOption) -> bool:
    return _as(option, QStyleOptionSlider).orientation is Qt.Orientation.Horizontal


def _see_through(ground: QWidget | None) -> None:
    if ground is not None:
        ground.setAutoFillBackground(False)
