"""The strip over the stage: what the swing is taken for, each token with how it was come by.

A broken border is a guess, a solid one a fact. Clicking a token opens it in place.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QInputDialog, QMenu, QWidget

from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import VIEW_TITLES, tr
from kneel.model import Club, Hand, KnownLength, NoScale, Stature, TypedScale, View
from kneel.motion.analysis import camera_moved_cm
from kneel.motion.checkpoints import slowed_times
from kneel.motion.scale import BALL_DIAMETER_CM, Scale

STORED_RATE_CHOICES = (60.0, 100.0, 120.0, 200.0, 240.0)
NEAR_RATE = 0.05


class Token(QAbstractButton):
    """A small box: caption, value, and a quiet remark."""

    def __init__(self, look: Look, caption: str) -> None:
        super().__init__()
        self._look, self._caption = look, caption
        self._value = self._remark = ""
        self._guessed = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(38)

    def show_value(self, value: str, remark: str, *, guessed: bool, why: str = "") -> None:
        """Show a value; a guessed one gets a broken border, and ``why`` it was guessed on hovering."""
        self._value, self._remark, self._guessed = value, remark, guessed
        state = tr("a guess; click to set") if guessed else tr("click to change")
        state = tr("a guess, for %s; click to set") % why if guessed and why else state
        self.setAccessibleName(f"{self._caption}: {value} {remark}, {state}")
        self.setToolTip(f"{self._caption}: {value} {remark}, {state}")
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(round(self._widths()) + 22, 38)

    def _widths(self) -> float:
        value = QFontMetricsF(font(13)).horizontalAdvance(self._value)
        remark = QFontMetricsF(font(11.5)).horizontalAdvance(self._remark)
        caption = QFontMetricsF(font(11)).horizontalAdvance(self._caption)
        return max(value + (6 + remark if self._remark else 0), caption)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        active = self.underMouse() or self.hasFocus()
        pen = QPen(self._look.colour("chosen_edge" if active else "faint"), 1.1)
        if self._guessed:
            pen.setDashPattern([3, 2.5])
        painter.setPen(pen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        painter.setFont(font(11))
        painter.setPen(self._look.colour("secondary"))
        painter.drawText(11, 15, self._caption)
        painter.setFont(font(13))
        painter.setPen(self._look.colour("text"))
        painter.drawText(11, 31, self._value)
        width = painter.fontMetrics().horizontalAdvance(self._value)
        painter.setFont(font(11.5))
        painter.setPen(self._look.colour("secondary"))
        room = self.width() - width - 27
        elided = painter.fontMetrics().elidedText(self._remark, Qt.TextElideMode.ElideRight, room)
        painter.drawText(17 + width, 31, elided)


class Strip(QWidget):
    """All tokens of the open swing.

    ``length_wanted`` asks the stage for a known length to be drawn,
    ``golfer_wanted`` for a click on the golfer.
    """

    length_wanted = pyqtSignal(float, str)
    golfer_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open = opened
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.tokens: dict[str, Token] = {}
        openers: dict[str, tuple[str, Callable[[QMenu], None]]] = {
            "view": (tr("View"), self._view_menu),
            "hand": (tr("Hand"), self._hand_menu),
            "club": (tr("Club"), self._club_menu),
            "scale": (tr("Scale"), self._scale_menu),
            "capture_rate": (tr("Captured at"), self._rate_menu),
            "mirrored": (tr("Picture"), self._mirror_menu),
            "near": (tr("Golfer"), self._golfer_menu),
            "steadied": (tr("Camera"), self._camera_menu),
            "plumbs": (tr("Plumbs"), self._plumb_menu),
        }
        for key, (caption, fill) in openers.items():
            token = Token(look, caption)
            token.clicked.connect(lambda _, k=key, f=fill: self._show_menu(k, f))
            self.tokens[key] = token
            row.addWidget(token)
        row.addStretch(1)
        for signal in (opened.numbers.renewed, opened.opened, opened.sighted):
            signal.connect(self.refresh)
        look.changed.connect(self.update)
        self.refresh()

    def refresh(self) -> None:
        """Show what the swing is taken for now."""
        is_open = self._open.store is not None
        for token in self.tokens.values():
            token.setVisible(is_open)
        if not is_open:
            return
        self.tokens["steadied"].setVisible(self._open.camera is not None)
        self.tokens["near"].setVisible(self._asks_who())
        swing = self._open.swing
        guessed = set(swing.guessed)
        rows = {
            "view": (tr(VIEW_TITLES[swing.view.value]), ""),
            "hand": (tr(swing.hand.value.title()), ""),
            "club": (tr(swing.club.value.title()), ""),
            "scale": self._scale_words(),
            "capture_rate": self._rate_words(),
            "mirrored": self._mirror_words(),
            "near": (tr("found"), tr("nearest the middle"))
            if swing.near is None
            else (tr("pointed out"), ""),
            "steadied": self._camera_words(),
            "plumbs": (self._plumb_words(), ""),
        }
        for key, (value, remark) in rows.items():
            unsure = key in guessed or (key == "mirrored" and swing.mirrored is None)
            unsure = (
                unsure or (key == "steadied" and swing.steadied) or (key == "near" and swing.near is None)
            )
            unsure = unsure or (key == "capture_rate" and "slowed" in remark)
            why = self._rate_why() if key == "capture_rate" else ""
            self.tokens[key].show_value(value, remark, guessed=unsure, why=why)

    # Words

    def _scale_words(self) -> tuple[str, str]:
        swing, analysis = self._open.swing, self._open.analysis
        sources = {
            Stature: lambda s: tr("%g cm tall") % s.stature_cm,
            KnownLength: lambda s: tr(s.what),
            TypedScale: lambda s: tr("typed in"),
            NoScale: lambda s: tr("no length known"),
        }
        source = sources[type(swing.scale)](swing.scale)
        if analysis is None or not isinstance(analysis.scale, Scale):
            return tr("none yet"), source
        scale = analysis.scale
        if scale.unit == "stance":
            return tr("stance widths"), source
        return (
            f"{scale.per_px * scale.cm_per_unit * 10:.2f} mm/px",
            f"± {scale.relative * 100:.0f} % · {source}",
        )

    def _rate_words(self) -> tuple[str, str]:
        store, rate = self._open.store, self._open.swing.capture_rate
        stored = store.info.rate_stored if store else 0.0
        analysis = self._open.analysis
        slowed = slowed_times(analysis.checkpoints) if analysis else None
        if slowed:
            return f"{stored:.3g} /s", tr("looks %g times slowed") % slowed
        if rate is None or abs(rate - stored) < 0.5:
            return f"{stored:.3g} /s", tr("as stored")
        if store and store.info.pace is not None:
            return f"{rate:.3g} /s", tr("slowed in part")
        return f"{rate:.3g} /s", tr("stored %.3g") % stored

    def _rate_why(self) -> str:
        store, rate = self._open.store, self._open.swing.capture_rate
        filmed = store.info.filmed if store else None
        return filmed.why if filmed and filmed.rate == rate else ""

    def _mirror_words(self) -> tuple[str, str]:
        swing, analysis = self._open.swing, self._open.analysis
        mirrored = analysis.mirrored if analysis else bool(swing.mirrored)
        return (tr("mirrored") if mirrored else tr("as seen")), ""

    def _camera_words(self) -> tuple[str, str]:
        camera, analysis = self._open.camera, self._open.analysis
        if not self._open.swing.steadied:
            return tr("stood still"), ""
        if camera is None or analysis is None or not analysis.tracks:
            return "", ""
        moved = camera_moved_cm(camera, analysis.tracks, analysis.px_per_m)
        return (tr("moves") if moved is None else tr("moved %.0f cm") % moved), ""

    def _asks_who(self) -> bool:
        """Whether it is open, or was said, which of several people is the golfer."""
        opened = self._open
        return opened.swing.looked and (opened.swing.near is not None or opened.looked.choice_open)

    def _plumb_words(self) -> str:
        names = {"trail_hip": tr("trail hip"), "pelvis": tr("pelvis")}
        on = [names[p] for p in self._open.sight.plumbs if p in names]
        return ", ".join(on) or tr("none")

    # Menus

    def _show_menu(self, key: str, fill: Callable[[QMenu], None]) -> None:
        menu = QMenu(self)
        fill(menu)
        token = self.tokens[key]
        menu.exec(token.mapToGlobal(QPoint(0, token.height() + 2)))

    def _choices(
        self, menu: QMenu, label: str, field: str, choices: Sequence[tuple[str, object]], now: object
    ) -> None:
        for title, value in choices:
            action = menu.addAction(title)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(value == now)
                action.triggered.connect(lambda _, v=value: self._open.set(label, **{field: v}))

    def _view_menu(self, menu: QMenu) -> None:
        choices = [(tr(VIEW_TITLES[v.value]), v) for v in View]
        self._choices(menu, "Set view", "view", choices, self._open.swing.view)

    def _hand_menu(self, menu: QMenu) -> None:
        choices = [(tr("Right-handed"), Hand.RIGHT), (tr("Left-handed"), Hand.LEFT)]
        self._choices(menu, "Set hand", "hand", choices, self._open.swing.hand)

    def _club_menu(self, menu: QMenu) -> None:
        choices = [(tr(c.value.title()), c) for c in Club]
        self._choices(menu, "Set club", "club", choices, self._open.swing.club)

    def _mirror_menu(self, menu: QMenu) -> None:
        choices = [(tr("Find out from the points"), None), (tr("As seen"), False), (tr("Mirrored"), True)]
        self._choices(menu, "Set mirror", "mirrored", choices, self._open.swing.mirrored)

    def _camera_menu(self, menu: QMenu) -> None:
        choices = [(tr("It moved: take that out"), True), (tr("It stood still"), False)]
        self._choices(menu, "Set camera", "steadied", choices, self._open.swing.steadied)

    def _golfer_menu(self, menu: QMenu) -> None:
        point_out = menu.addAction(tr("Click on the golfer …"))
        if point_out is not None:
            point_out.triggered.connect(self.golfer_wanted)
        if self._open.swing.near is not None:
            find = menu.addAction(tr("Find out by who stands still"))
            if find is not None:
                find.triggered.connect(lambda: self._open.set("Find the golfer", near=None))

    def _plumb_menu(self, menu: QMenu) -> None:
        on = self._open.sight.plumbs
        for key, title in (("trail_hip", tr("Trail hip")), ("pelvis", tr("Pelvis"))):
            action = menu.addAction(title)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(key in on)
                new = tuple(p for p in on if p != key) if key in on else (*on, key)
                action.triggered.connect(lambda _, v=new: self._open.look_at(plumbs=v))

    def _rate_menu(self, menu: QMenu) -> None:
        store = self._open.store
        stored = store.info.rate_stored if store else 30.0
        analysis = self._open.analysis
        slowed = slowed_times(analysis.checkpoints) if analysis else None
        likely = {float(round(stored * slowed))} if slowed else set()
        rates = sorted({r for r in STORED_RATE_CHOICES if r > stored + 1} | likely)
        guess = store.info.rate_captured if store else None
        if guess is not None:
            # What the file tells stands as it is, not rounded to a usual rate beside it.
            rates = sorted({guess, *(r for r in rates if abs(r / guess - 1) > NEAR_RATE)})
        in_part = store is not None and store.info.pace is not None

        def title(rate: float) -> str:
            if in_part:
                return tr("%.4g a second, slowed down in part") % rate
            return tr("%.4g a second: slowed down %.3g times") % (rate, rate / stored)

        choices: list[tuple[str, object]] = [(tr("%.4g a second, as stored") % stored, None)]
        choices += [(title(rate), rate) for rate in rates]
        self._choices(menu, "Set capture rate", "capture_rate", choices, self._open.swing.capture_rate)

    def _scale_menu(self, menu: QMenu) -> None:
        items = (
            (tr("The golfer’s height …"), self._ask_stature),
            (tr("Draw along the ball (42.67 mm)"), lambda: self.length_wanted.emit(BALL_DIAMETER_CM, "ball")),
            (tr("Draw along a known length …"), self._ask_length),
            (tr("Centimetres per pixel …"), self._ask_typed),
            (tr("None: read in stance widths"), lambda: self._open.set("Set scale", scale=NoScale())),
        )
        for title, act in items:
            action = menu.addAction(title)
            if action is not None:
                action.triggered.connect(lambda _, a=act: a())

    def _ask(self, title: str, label: str, now: float, low: float, high: float, digits: int) -> float | None:
        value, ok = QInputDialog.getDouble(self, title, label, now, low, high, digits)
        return value if ok else None

    def _ask_stature(self) -> None:
        scale = self._open.swing.scale
        now = scale.stature_cm if isinstance(scale, Stature) else 175.0
        value = self._ask(tr("Scale"), tr("Height of the golfer in cm, without shoes:"), now, 80, 250, 1)
        if value is not None:
            self._open.set("Set scale", scale=Stature(value))

    def _ask_length(self) -> None:
        value = self._ask(tr("Scale"), tr("Length of the thing in cm, such as a stick:"), 100.0, 1, 500, 1)
        if value is not None:
            self.length_wanted.emit(value, "known length")

    def _ask_typed(self) -> None:
        value = self._ask(
            tr("Scale"), tr("Centimetres per pixel, in the plane of the ankles:"), 0.35, 0.001, 20, 4
        )
        if value is not None:
            self._open.set("Set scale", scale=TypedScale(value))
