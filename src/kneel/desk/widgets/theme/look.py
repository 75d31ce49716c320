"""The look in use: palette, shipped type, and the style that paints with them."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QPalette
from PyQt6.QtWidgets import QApplication, QLabel, QToolTip

from kneel.desk.widgets.theme.colours import DARK, LIGHT, Colours
from kneel.desk.widgets.theme.style import SECONDARY, WATCH, Style, dress
from kneel.desk.widgets.theme.type import PLAIN_PX, font, load


class Look(QObject):
    """The palette now in use; ``changed`` tells the painters to paint anew."""

    changed = pyqtSignal()

    def __init__(self, *, dark: bool = True) -> None:
        super().__init__()
        self.colours: Colours = DARK if dark else LIGHT

    def choose(self, *, dark: bool) -> None:
        self.colours = DARK if dark else LIGHT
        application = QApplication.instance()
        if isinstance(application, QApplication):
            _dress(application, self.colours)
        self.changed.emit()

    def colour(self, role: str, alpha: float = 1.0) -> QColor:
        """A colour by the name of its role, such as ``fault``."""
        colour = QColor(getattr(self.colours, role))
        colour.setAlphaF(alpha)
        return colour


def install(application: QApplication, look: Look) -> None:
    """Load the shipped type and dress the application; once dressed, only what is new is put on."""
    if not isinstance(application.style(), Style):
        load()
        application.setFont(font(PLAIN_PX))
        QToolTip.setFont(font(PLAIN_PX))
        application.setStyle(Style(look.colours))
        _put_on(application, look.colours)
    _dress(application, look.colours)


def _dress(application: QApplication, c: Colours) -> None:
    style = application.style()
    if isinstance(style, Style) and style.colours != c:
        style.colours = c
        _put_on(application, c)


def _put_on(application: QApplication, c: Colours) -> None:
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, value in (
        (roles.Window, c.ground),
        (roles.Base, c.panel),
        (roles.AlternateBase, c.raised),
        (roles.Button, c.raised),
        (roles.Text, c.text),
        (roles.WindowText, c.text),
        (roles.ButtonText, c.text),
        (roles.PlaceholderText, c.faint),
        (roles.Highlight, c.chosen),
        (roles.HighlightedText, c.text),
        (roles.ToolTipBase, c.raised),
        (roles.ToolTipText, c.text),
        (roles.Link, c.chosen_edge),
        (SECONDARY, c.secondary),
        (WATCH, c.watch),
    ):
        palette.setColor(role, QColor(value))
    for role in (roles.Text, roles.WindowText, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(c.faint))
    application.setPalette(palette)
    # Words that are chosen while they are typed stand out, on a field as on anything else.
    palette.setColor(roles.Highlight, QColor(c.secondary))
    palette.setColor(roles.HighlightedText, QColor(c.ground))
    for typed in ("QLineEdit", "QPlainTextEdit"):
        application.setPalette(palette, typed)
    QToolTip.setPalette(palette)


def restyle(label: QLabel, role: str) -> None:
    """Give a label another role."""
    if label.property("role") != role:
        label.setProperty("role", role)
        dress(label)
