"""The look in use: palette, shipped type, and the style sheet made of them."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from kneel.desk.widgets.theme.colours import DARK, LIGHT, Colours

FAMILY = "Inter"
DRESSED = "dressed_in"
WEIGHTS = {400: QFont.Weight.Normal, 500: QFont.Weight.Medium, 600: QFont.Weight.DemiBold}


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


@cache
def font(size: float = 12.5, weight: int = 400) -> QFont:
    """The shipped type at ``size`` px with tabular figures; one object for each, not to be changed."""
    made = QFont(FAMILY)
    made.setPixelSize(round(size))
    made.setWeight(WEIGHTS[weight])
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


def install(application: QApplication, look: Look) -> None:
    """Load the shipped type and dress the application; once dressed, only what is new is put on."""
    if application.property(DRESSED) is not None:
        _dress(application, look.colours)
        return
    for file in sorted(files("kneel.fonts").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".otf"):
            QFontDatabase.addApplicationFontFromData(file.read_bytes())
    application.setStyle("Fusion")
    application.setFont(font())
    _dress(application, look.colours)


def _dress(application: QApplication, c: Colours) -> None:
    # A style sheet is read by every widget there is.
    if application.property(DRESSED) == c:
        return
    application.setProperty(DRESSED, c)
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
    ):
        palette.setColor(role, QColor(value))
    for role in (roles.Text, roles.WindowText, roles.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(c.faint))
    application.setPalette(palette)
    application.setStyleSheet(_SHEET.format(**c.__dict__))


def restyle(widget: QWidget, role: str) -> None:
    """Give a widget another role of the style sheet; to polish costs as much as to paint, so only where it
    is new.
    """
    if widget.property("role") != role:
        widget.setProperty("role", role)
        style = widget.style()
        if style is not None:
            style.unpolish(widget)
            style.polish(widget)


_SHEET = """
QWidget {{ color: {text}; font-family: "Inter"; font-size: 12.5px; }}
QLabel[role="title"] {{ font-size: 16px; font-weight: 600; }}
QLabel[role="strong"] {{ font-size: 13px; font-weight: 600; }}
QLabel[role="caption"], QLabel[role="small"] {{ color: {secondary}; font-size: 11.5px; }}
QLabel[role="secondary"] {{ color: {secondary}; }}
QLabel[role="faint"] {{ color: {faint}; font-size: 11.5px; }}
QLabel[role="demo"] {{ color: {watch}; border: 1px solid {watch}; border-radius: 4px; padding: 1px 6px;
    font-size: 11.5px; }}
QLabel[role="watch"] {{ color: {watch}; }}
QMainWindow, QDialog {{ background: {ground}; }}
QMenuBar {{ background: transparent; padding: 0; }}
QMenuBar::item {{ background: transparent; padding: 6px 10px; border-radius: 6px; }}
QMenuBar::item:selected {{ background: {raised}; }}
QMenu {{ background: {panel}; border: 1px solid {edge}; border-radius: 6px; padding: 4px; }}
QMenu::item {{ padding: 6px 28px 6px 24px; border-radius: 4px; }}
QMenu::item:selected {{ background: {chosen}; }}
QMenu::item:disabled {{ color: {faint}; }}
QMenu::separator {{ height: 1px; background: {edge}; margin: 4px 8px; }}
QMenu::indicator {{ width: 12px; height: 12px; left: 6px; }}
QToolTip {{ background: {raised}; color: {text}; border: 1px solid {edge}; padding: 4px; }}
QScrollArea {{ background: transparent; border: 0; }}
QScrollBar:vertical {{ background: transparent; width: 8px; }}
QScrollBar::handle:vertical {{ background: {edge}; border-radius: 4px; min-height: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
QSlider::groove:horizontal {{ background: {edge}; height: 4px; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {clear}; height: 4px; border-radius: 2px; }}
QSlider::handle:horizontal {{ background: {text}; width: 12px; margin: -5px 0; border-radius: 6px; }}
QSlider::handle:horizontal:focus {{ background: {chosen_edge}; border: 2px solid {text}; width: 10px; }}
QFrame[role="transport"] {{ background: {panel}; border: 1px solid {edge}; border-radius: 6px; }}
QFrame[role="asking"] {{ background: {panel}; border: 1px solid {watch}; border-radius: 6px; }}
QLineEdit, QSpinBox, QDoubleSpinBox {{
    background: {raised}; border: 1px solid {edge}; border-radius: 6px; padding: 5px 8px;
    selection-background-color: {chosen};
}}
QLineEdit:focus, QDoubleSpinBox:focus {{ border-color: {chosen_edge}; }}
QPushButton {{
    background: {raised}; border: 1px solid {edge}; border-radius: 6px; padding: 6px 12px;
}}
QPushButton:hover {{ border-color: {chosen_edge}; }}
QPushButton:focus {{ border-color: {chosen_edge}; }}
QPushButton:disabled {{ color: {faint}; }}
QPushButton[primary="true"] {{ background: {chosen}; border-color: {chosen_edge}; font-weight: 600; }}
QPushButton[small="true"] {{ padding: 2px 10px; font-size: 11.5px; }}
QPushButton[role="flat"] {{
    background: transparent; border: 1px solid transparent; padding: 2px 0; text-align: left;
}}
QPushButton[role="flat"]:focus {{ border-color: {chosen_edge}; }}
QPushButton[role="tab"] {{ background: transparent; border: 0; border-bottom: 2px solid transparent;
    border-radius: 0; padding: 4px 6px; color: {secondary}; }}
QPushButton[role="tab"]:checked {{ color: {text}; font-weight: 600; border-bottom-color: {chosen_edge}; }}
QPushButton[role="tab"]:focus {{ border-bottom-color: {text}; }}
QListView, QPlainTextEdit {{ background: transparent; border: 0; outline: 0; }}
QPlainTextEdit {{ background: {raised}; border-radius: 6px; padding: 6px; }}
QSplitter::handle {{ background: transparent; }}
QSplitter::handle:hover {{ background: {edge}; }}
"""
