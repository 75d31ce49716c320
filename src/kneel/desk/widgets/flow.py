"""A layout that puts widgets on as many lines as they need."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget

SPACING = 6


class Rows(QLayout):
    """Lays widgets out from the left, on as many lines as they need."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._lay(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._lay(rect, move=True)

    def sizeHint(self) -> QSize:
        return QSize(400, self.heightForWidth(max(self.geometry().width(), 400)))

    def minimumSize(self) -> QSize:
        shown = [item.sizeHint() for item in self._items if not item.isEmpty()]
        return QSize(max((s.width() for s in shown), default=0), max((s.height() for s in shown), default=0))

    def _lay(self, rect: QRect, *, move: bool) -> int:
        x, y, high = rect.left(), rect.top(), 0
        for item in self._items:
            if item.isEmpty():
                continue
            size = item.sizeHint()
            if x > rect.left() and x + size.width() > rect.right() + 1:
                x, y, high = rect.left(), y + high + SPACING, 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), size))
            x += size.width() + SPACING
            high = max(high, size.height())
        return y + high - rect.top()
