"""A window that takes files that are dropped on it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QMainWindow


class DropWindow(QMainWindow):
    """``dropped`` carries the files that fell on it."""

    dropped = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        files = [Path(u.toLocalFile()) for u in data.urls() if u.toLocalFile()] if data is not None else []
        if files:
            event.acceptProposedAction()
            self.dropped.emit(files)
