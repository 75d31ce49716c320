"""The strip beside the stage: a token for each thing the swing is taken for; a click opens it in place."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal

from kneel.desk.places.bench.strip.labels import told_of
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import CLUB_TITLES, KIND_TITLES, VIEW_TITLES, checkpoint_title
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.token import Token, TokenRow
from kneel.judge import in_use
from kneel.judge.kinds import FOR_ONE_NUMBER
from kneel.model import POSES, Club, Hand, Kind, KnownLength, NoScale, Stature, TypedScale, View
from kneel.motion.measures.lines import LINES
from kneel.motion.scale import BALL_DIAMETER_CM
from kneel.practice import drills_in_use

STORED_RATE_CHOICES = (60.0, 100.0, 120.0, 200.0, 240.0)
NEAR_RATE = 0.05

CAPTIONS = {
    "view": "View",
    "hand": "Hand",
    "club": "Club",
    "kind": "Swing",
    "scale": "Scale",
    "capture_rate": "Captured at",
    "ball": "Ball",
    "near": "Who",
    "steadied": "Camera",
    "lines": "Lines",
}


class Strip(TokenRow):
    """All tokens of the open swing.

    ``length_wanted`` asks the stage for a known length to be drawn, ``golfer_wanted`` for a click on the
    golfer, ``ball_wanted`` for one on the ball.
    """

    length_wanted = pyqtSignal(float, str)
    golfer_wanted = pyqtSignal()
    ball_wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        openers: dict[str, Callable[[Token], Panel | None]] = {
            "view": lambda token: self._choose(token, "Set view", "view", VIEW_TITLES, View),
            "hand": self._choose_hand,
            "club": lambda token: self._choose(token, "Set club", "club", CLUB_TITLES, Club),
            "kind": self._choose_kind,
            "scale": self._choose_scale,
            "capture_rate": self._choose_rate,
            "ball": lambda _: self.ball_wanted.emit(),
            "near": self._choose_golfer,
            "steadied": self._choose_camera,
            "lines": lambda _: self.choose_lines(),
        }
        for key, act in openers.items():
            token = Token(look, tr(CAPTIONS[key]))
            token.clicked.connect(lambda _, k=key, a=act: a(self.tokens[k]))
            self.put(key, token)
        for signal in (opened.numbers.renewed, opened.opened, opened.sighted, opened.document.changed):
            signal.connect(self.refresh)
        look.changed.connect(self.update)
        self.refresh()

    def refresh(self) -> None:
        """Show what the swing is taken for now; while a mark is under the hand that waits."""
        if self._open.numbers.dragging:
            return
        is_open = self._open.store is not None
        told = told_of(self._open) if is_open else {}
        changed = False
        for key, token in self.tokens.items():
            one = told.get(key)
            shows = one is not None and one.shown
            changed |= token.isHidden() == shows
            token.setVisible(shows)
            if one is not None and shows:
                token.show_value(one.value, one.remark, guessed=one.guessed, why=one.why, asks=one.asks)
        self.fit()
        if changed:
            self.updateGeometry()

    # Choosing in place

    def _open_at(self, token: Token, title: str, choices: list[Choice]) -> Chooser:
        chooser = Chooser(self, self._look, title, choices)
        chooser.open(token)
        return chooser

    def _fields(self, label: str, rows: list[tuple[str, dict[str, object], bool]]) -> list[Choice]:
        """Entries that set fields of the swing."""
        return [
            Choice(title, lambda f=fields: self._open.set(label, **f), checked=now)
            for title, fields, now in rows
        ]

    def _choose(self, token: Token, label: str, field: str, titles: dict[str, str], kind: type) -> Chooser:
        now = getattr(self._open.swing, field)
        rows = [(tr(titles[one.value]), {field: one}, one == now) for one in kind]
        return self._open_at(token, tr(CAPTIONS[field]), self._fields(label, rows))

    def _choose_kind(self, token: Token) -> Chooser:
        """The kind of swing; of a held pose which it is, of a drill or an exaggeration what it is about."""
        swing = self._open.swing
        choices = []
        for kind in Kind:
            title, now = tr(KIND_TITLES[kind.value]), kind == swing.kind
            if kind is Kind.HELD:
                choices += [
                    Choice(
                        f"{title}: {tr(checkpoint_title(pose)).lower()}",
                        lambda p=pose: self._open.hold(p),
                        checked=now and pose in swing.pinned,
                    )
                    for pose in POSES
                ]
            elif kind in FOR_ONE_NUMBER:
                about = self._about(swing.drill) if now else ""
                words = f"{title}: {about}" if about else f"{title} …"
                choices.append(Choice(words, lambda k=kind: self._choose_about(token, k), checked=now))
            else:
                choices.append(Choice(title, lambda k=kind: self._set_kind(k), checked=now))
        return self._open_at(token, tr(CAPTIONS["kind"]), choices)

    def _set_kind(self, kind: Kind) -> None:
        # The position that was held is no checkpoint of a swing.
        held = {"pinned": {}} if self._open.swing.kind is Kind.HELD else {}
        self._open.set("Set the kind of swing", kind=kind, drill="", **held)

    @staticmethod
    def _about(key: str) -> str:
        """The title of a drill or a fault."""
        named = drills_in_use().all.get(key) or in_use().faults.get(key)
        return tr(named.title) if named is not None else ""

    def _choose_about(self, token: Token, kind: Kind) -> Chooser:
        """Which drill it is, or what is exaggerated: that is what it is judged by."""
        faults = in_use().faults.values()
        named: list[tuple[str, str, str]] = [
            (one.key, one.title, one.feel) for one in drills_in_use().all.values() if not one.second
        ]
        if kind is Kind.EXAGGERATION:
            named = [(f.key, tr("Against: %s") % f.title, f.aim) for f in faults if not f.consequence]
        now = self._open.swing.drill if self._open.swing.kind is kind else ""
        choices = [
            Choice(
                title,
                lambda k=key: self._open.set("Set the kind of swing", kind=kind, drill=k),
                detail=detail,
                checked=key == now,
            )
            for key, title, detail in named
        ]
        title = tr("Which drill?") if kind is Kind.DRILL else tr("What is exaggerated?")
        chooser = Chooser(self, self._look, title, choices, typing=True)
        chooser.open(token)
        return chooser

    def _choose_hand(self, token: Token) -> Chooser:
        swing = self._open.swing
        mirrored = self._open.analysis.mirrored if self._open.analysis else bool(swing.mirrored)
        rows: list[tuple[str, dict[str, object], bool]] = [
            (
                tr(f"{hand.value.title()}-handed" + (", the clip is mirrored" if flip else "")),
                {"hand": hand, "mirrored": flip},
                hand == swing.hand and flip == mirrored,
            )
            for flip in (False, True)
            for hand in Hand
        ]
        rows.append(
            (tr("Find out from the picture"), {"mirrored": None}, swing.mirrored is None and not mirrored)
        )
        return self._open_at(token, tr("Hand"), self._fields("Set hand", rows))

    def _choose_camera(self, token: Token) -> Chooser:
        now = self._open.swing.steadied
        rows: list[tuple[str, dict[str, object], bool]] = [
            (tr("It moved: take that out"), {"steadied": True}, now),
            (tr("It stood still"), {"steadied": False}, not now),
        ]
        return self._open_at(token, tr("Camera"), self._fields("Set camera", rows))

    def _choose_golfer(self, token: Token) -> Chooser:
        choices = [Choice(tr("Click on the golfer …"), self.golfer_wanted.emit)]
        if self._open.swing.near is not None:
            found = Choice(
                tr("Find out by who stands still"), lambda: self._open.set("Find the golfer", near=None)
            )
            choices.append(found)
        return self._open_at(token, tr("Who"), choices)

    def choose_lines(self) -> Chooser | None:
        """Let reference lines be drawn besides that of the chosen finding."""
        if self._open.store is None:
            return None
        on, view = self._open.sight.lines, self._open.swing.view

        def toggle(key: str) -> None:
            now = self._open.sight.lines
            self._open.look_at(lines=tuple(p for p in now if p != key) if key in now else (*now, key))

        choices = [
            Choice(
                tr(line.title), lambda k=key: toggle(k), detail=tr(line.says[view].plus), checked=key in on
            )
            for key, line in LINES.items()
            if view in line.says
        ]
        if on:
            choices.append(Choice(tr("Only that of the finding"), lambda: self._open.look_at(lines=())))
        return self._open_at(self.tokens["lines"], tr("Reference lines"), choices)

    def _choose_rate(self, token: Token) -> Chooser:
        store, now = self._open.store, self._open.swing.capture_rate
        stored = store.info.rate_stored if store else 30.0
        analysis = self._open.analysis
        likely = set(analysis.slowed.rates) if analysis and analysis.slowed else set()
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

        rows: list[tuple[str, dict[str, object], bool]] = [
            (tr("%.4g a second, as stored") % stored, {"capture_rate": None}, now is None)
        ]
        rows += [(title(rate), {"capture_rate": rate}, rate == now) for rate in rates]
        return self._open_at(token, tr("Captured at"), self._fields("Set capture rate", rows))

    # The scale

    def _choose_scale(self, token: Token) -> Chooser:
        scale = self._open.swing.scale
        choices = [
            Choice(tr("The student’s height …"), self._ask_stature, checked=isinstance(scale, Stature)),
            Choice(
                tr("Draw along the ball (42.67 mm)"),
                lambda: self.length_wanted.emit(BALL_DIAMETER_CM, "ball"),
            ),
            Choice(
                tr("Draw along a known length …"), self._ask_length, checked=isinstance(scale, KnownLength)
            ),
            Choice(tr("Centimetres per pixel …"), self._ask_typed, checked=isinstance(scale, TypedScale)),
            Choice(
                tr("None: read in stance widths"),
                lambda: self._open.set("Set scale", scale=NoScale()),
                checked=isinstance(scale, NoScale),
            ),
        ]
        return self._open_at(token, tr("Scale"), choices)

    def _ask(
        self, words: str, unit: str, now: float, low: float, high: float, digits: int, take: Callable
    ) -> Entry:
        entry = Entry(self, self._look, words, take, unit=unit, number=(now, low, high, digits))
        entry.open(self.tokens["scale"])
        return entry

    def _ask_stature(self) -> Entry:
        scale = self._open.swing.scale
        now = scale.stature_cm if isinstance(scale, Stature) else 175.0
        take = lambda value: self._open.set("Set scale", scale=Stature(value))  # noqa: E731
        return self._ask(tr("Height of the student, without shoes"), "cm", now, 80, 250, 1, take)

    def _ask_length(self) -> Entry:
        take = lambda value: self.length_wanted.emit(value, "known length")  # noqa: E731
        return self._ask(tr("Length of the thing, such as a stick"), "cm", 100.0, 1, 500, 1, take)

    def _ask_typed(self) -> Entry:
        take = lambda value: self._open.set("Set scale", scale=TypedScale(value))  # noqa: E731
        return self._ask(tr("Scale in the plane of the ankles"), tr("cm per pixel"), 0.35, 0.001, 20, 4, take)
