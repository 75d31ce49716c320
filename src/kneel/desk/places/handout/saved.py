"""What was saved last, and what is done with it next: opened and printed, its folder, copied to send."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMimeData, QUrl
from PyQt6.QtGui import QDesktopServices, QGuiApplication
from PyQt6.QtWidgets import QPushButton, QWidget

from kneel.desk.widgets.flow import Rows
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import tip


class SavedButtons(QWidget):
    """Three buttons that appear once something was saved."""

    def __init__(self) -> None:
        super().__init__()
        self._file: Path | None = None
        row = Rows(self)
        self.buttons: dict[str, QPushButton] = {}
        for key, words, more, deed in (
            ("open", tr("Open or print it"), tr("In the program that shows such files"), self._open),
            ("folder", tr("Open its folder"), tr("To attach or copy it"), self._open_folder),
            ("copy", tr("Copy it to send"), tr("Paste it into a message or a folder"), self._copy),
        ):
            button = QPushButton(words)
            button.setProperty("small", True)
            button.setToolTip(tip(more))
            button.clicked.connect(lambda _=False, act=deed: act())
            row.addWidget(button)
            self.buttons[key] = button
        self.hide()

    def show_file(self, path: Path | None) -> None:
        """This was saved just now; None where what was saved is of another swing."""
        self._file = path
        self.setVisible(path is not None)

    def _open(self) -> None:
        if self._file is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self._file)))

    def _open_folder(self) -> None:
        if self._file is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self._file.parent)))

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if self._file is not None and clipboard is not None:
            data = QMimeData()
            data.setUrls([QUrl.fromLocalFile(str(self._file))])
            clipboard.setMimeData(data)
