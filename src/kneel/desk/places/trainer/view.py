"""The Trainer place: a simulated swing and the question beside it, or what the answers say of the eye."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers, Place
from kneel.desk.places.trainer.actions import TrainerActions
from kneel.desk.places.trainer.progress import Progress, Shown
from kneel.desk.places.trainer.question import QuestionPanel
from kneel.desk.places.trainer.running import Phase, RunningRound
from kneel.desk.places.trainer.shelf import AnswerShelf, StockShelf
from kneel.desk.places.trainer.stage import TrainerStage
from kneel.desk.places.trainer.stocking import Stocking
from kneel.desk.places.trainer.trained import TrainedSwing, open_trained
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.aim import Aimed
from kneel.desk.swing.opening import Opened
from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.text import worded
from kneel.desk.widgets.token import Token, TokenRow
from kneel.trainer.asked import asked_faults
from kneel.trainer.due import Due, due_after
from kneel.trainer.records import Answer, Settings
from kneel.trainer.rounds import choose
from kneel.trainer.scores import first_answers, like, over_time, scores
from kneel.trainer.stock import OnShelf
from kneel.trainer.words import (
    CLOTHES,
    LIGHTS,
    MOST,
    SHOWN,
    VIEWS,
    due_words,
    level_words,
    round_words,
    size_words,
)


class TrainerPlace(Place):
    """``failed`` carries a sentence, ``hinted`` tells that other keys are worth knowing now."""

    key, title = "trainer", "Trainer"
    failed = pyqtSignal(str)
    hinted = pyqtSignal()

    def __init__(
        self, opened: OpenSwing, context: Context, practice: Practice, folder: Path | None = None
    ) -> None:
        super().__init__(Undoing(opened, practice))
        look = context.look
        self.context = context
        self.stock, self.kept = StockShelf(self, folder), AnswerShelf(self, folder)
        self.trained = TrainedSwing(context.jobs)
        self.round = RunningRound(self)
        self.stage = TrainerStage(self.trained, self.round, look)
        self.question = QuestionPanel(self.round, look)
        self.progress = Progress(look)
        self.stocking = Stocking(self.stock.folder, context.jobs, self)
        self.stocking.room = self.stock.make_room
        self.stock.answered = lambda: {one.swing for one in self.kept.answers}
        self.where, self.begin_button = worded("secondary"), QPushButton(tr("Begin a round"))
        self.class_button = QPushButton(tr("For a class …"))
        self.tokens = TokenRow()
        self._openers, self._scorers = Lane(self, newest=True), Lane(self, newest=True)
        self._actions = TrainerActions(self)
        self._build()
        self._connect()
        self._actions.restore()
        self.tell()

    def _build(self) -> None:
        look = self.context.look
        for key, caption in (
            ("eye_shown", tr("Shown")),
            ("eye_view", tr("Seen from")),
            ("eye_faults", tr("Faults")),
            ("eye_size", tr("Size")),
            ("eye_clothes", tr("Clothes")),
            ("eye_light", tr("Light")),
            ("eye_hand", tr("Hand")),
            ("eye_length", tr("Round")),
        ):
            token = Token(look, caption)
            token.clicked.connect(lambda _=False, deed=key: self.handlers()[deed]())
            self.tokens.put(key, token)
        self.begin_button.setProperty("primary", "true")
        self.class_button.setToolTip(tr("A round as a folder that any desk can open, and its sheet"))
        self.where.setWordWrap(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        head = QHBoxLayout()
        head.setSpacing(10)
        head.addWidget(self.tokens, 1)
        for button in (self.class_button, self.begin_button):
            head.addWidget(button)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.stage, 1)
        left.addWidget(self.progress, 1)
        left.addWidget(self.where)
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addLayout(left, 1)
        middle.addWidget(self.question)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 6)
        column.setSpacing(8)
        column.addLayout(head)
        column.addLayout(middle, 1)

    def _connect(self) -> None:
        deeds = self.handlers()
        self.begin_button.clicked.connect(lambda _=False: deeds["eye_begin"]())
        self.class_button.clicked.connect(lambda _=False: deeds["eye_class"]())
        self.round.wanted.connect(self._open)
        self.round.answered.connect(self.kept.keep)
        self.round.changed.connect(self.tell)
        self.stage.ghost_wanted.connect(self._toggle_ghost)
        self.trained.cursor.moved.connect(self._tell_where)
        self.trained.failed.connect(self.failed)
        question = self.question
        question.go_on_wanted.connect(self.go_on)
        question.fault_wanted.connect(self.trained.argue)
        question.at_wanted.connect(self._go_to)
        question.ghost_wanted.connect(self._toggle_ghost)
        self.kept.changed.connect(self._on_stock)
        self.kept.failed.connect(self.failed)
        self.stock.changed.connect(self._on_stock)
        self.stocking.made.connect(self.stock.add)
        self.stocking.changed.connect(self._tell_where)

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def picture_parts(self) -> tuple[QWidget, ...]:
        return (self.stage,)

    def hints(self) -> str:
        if self.round.idle:
            return tr("↵ a round    F1 all keys")
        if self.round.phase is Phase.ARGUED:
            return tr("↵ next    ← → a frame    Z without the fault    1 … 8 where it shows    F1 all keys")
        return tr("1 … 8 what you see    ↑ ↓ how far    G H R C how sure    ↵ answer    F1 all keys")

    def enter(self) -> None:
        self.kept.read()
        self.stock.read()
        self._take_keys()
        if self.round.phase is Phase.SHOWING:
            self.stage.show_once()

    def leave(self) -> None:
        self.stage.pause()
        self.stocking.pause()

    def close_down(self) -> None:
        self.stage.pause()
        self.stocking.end()
        for lane in (self._openers, self._scorers):
            lane.stop()
        self.trained.let_go()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.go_on()
        elif not self.stage.isHidden():
            # The slider, or a button, had the keys: all but its own are the picture's.
            self.stage.keyPressEvent(event)
        else:
            super().keyPressEvent(event)

    def _take_keys(self) -> None:
        """Let the keys go to the picture, or where there is none to the place."""
        (self.stage if not self.stage.isHidden() else self).setFocus()

    # A round

    def begin(self) -> None:
        """Begin a round with what there is: what is due first, and what was never answered."""
        settings = self.settings
        shown = self.progress.shown
        chosen = choose(
            self.stock.swings,
            settings,
            {one.swing for one in self.kept.answers},
            shown.dates if shown is not None else Due({}),
            datetime.now(UTC),
            random.randrange(2**31),
        )
        if not chosen:
            self.failed.emit(
                tr("No swing like that is there yet; choose more freely, or wait for some to be made.")
            )
            return
        if len(chosen) < settings.swings:
            self.said.emit(tr("A round of %d: there are no more like that yet") % len(chosen))
        self.run(chosen)

    def run(self, chosen: list[OnShelf], settings: Settings | None = None, by: str = "") -> None:
        """Run a round of these swings, by the settings chosen where none are given."""
        self.round.begin(chosen, settings or self.settings, by)
        self.stage.setFocus()

    def go_on(self) -> None:
        """Answer, or on to the next swing, or begin."""
        phase = self.round.phase
        if phase is Phase.ANSWERING:
            self.round.give()
            if self.round.phase is Phase.ARGUED:
                self._argue()
        elif phase is Phase.ARGUED:
            self.round.next()
        elif self.round.idle:
            self.begin()

    def _argue(self) -> None:
        answer = self.round.answer
        if answer is not None:
            first = [*answer.missed, *answer.present, *answer.named]
            if first:
                self.trained.argue(first[0])
        self.stage.setFocus()

    def _open(self, one: OnShelf) -> None:
        callbacks = self.trained.callbacks()

        def done(opened: Opened) -> None:
            self.trained.take(opened, one.stocked)
            self.round.opened()
            self.stage.show_once()

        def failed(error: Exception) -> None:
            self.failed.emit(
                tr("A swing of the round cannot be shown (%s); the round goes on without it.") % error
            )
            self.stock.drop(one)
            self.round.lost()

        self._openers.start(
            Operation(
                work=lambda _: open_trained(one, callbacks),
                subject=lambda: self.round.on,
                done=done,
                failed=failed,
                drop=lambda opened: opened.let_go(),
            )
        )

    def _go_to(self, key: str) -> None:
        """To the moment that a fault's size is asked of."""
        stocked = self.round.stocked
        if stocked is not None and key and self.round.steps_freely:
            self.stage.player.pause()
            self.trained.cursor.go(round(stocked.checkpoints[asked_faults()[key].at]))

    def _toggle_ghost(self) -> None:
        if self.round.phase is Phase.ARGUED:
            self.trained.aim.toggle(Aimed.GHOST)

    # What is told

    def _on_stock(self) -> None:
        self.want_more()
        self.tell()

    def want_more(self) -> None:
        """Have more made where there is little left that was never answered; only while this is on show."""
        if not self.isVisible():
            return
        self.stocking.want(self.settings, self._fresh(), random.randrange(2**31))

    def _fresh(self) -> int:
        """How many swings that fit were never answered here."""
        answered = {one.swing for one in self.kept.answers}
        return sum(one.id not in answered for one in self.stock.fitting(self.settings))

    def tell(self) -> None:
        """Show all anew."""
        round_ = self.round
        idle = round_.idle
        settings = self.settings if idle else round_.settings
        speed, then = SHOWN[settings.shown]
        said = {
            "eye_shown": (tr(speed), tr(then)),
            "eye_view": (tr(VIEWS[settings.view]), ""),
            "eye_faults": (tr(MOST[settings.most]), ""),
            "eye_size": (tr(size_words(settings.size)), ""),
            "eye_clothes": (tr(CLOTHES[settings.clothes]), ""),
            "eye_light": (tr(LIGHTS[settings.light]), ""),
            "eye_hand": (tr("both") if settings.hand is None else tr(settings.hand.value), ""),
            "eye_length": (tr("%d swings") % settings.swings, ""),
        }
        for key, (value, remark) in said.items():
            self.tokens.tokens[key].show_value(value, remark, guessed=False)
        self.tokens.fit()
        self.begin_button.setText(tr("Begin a round") if idle else tr("End the round"))
        if idle is not self.stage.isHidden():
            self.stage.setVisible(not idle)
            self.progress.setVisible(idle)
            if self.isVisible():
                self._take_keys()
        self._tell_where()
        if idle:
            self._tell_progress()
        self.stage.update()
        self.hinted.emit()

    def _tell_where(self) -> None:
        round_ = self.round
        if round_.phase is Phase.IDLE:
            fitting = len(self.stock.fitting(self.settings))
            making = tr(" · more are being made") if self.stocking.working else ""
            there = several(fitting, "One swing like that is there", "%d swings like that are there")
            self.where.setText(tr("%s, %d you have not seen%s") % (there, self._fresh(), making))
            return
        words = tr("Swing %d of %d") % (min(round_.at + 1, len(round_.swings)), len(round_.swings))
        if round_.by:
            words = f"{round_.by} · {words}"
        if round_.phase is Phase.SHOWING:
            words += tr(" · shown once")
        elif round_.phase is Phase.ANSWERING:
            words += tr(" · step as you like") if round_.steps_freely else tr(" · it was shown")
        elif round_.phase is Phase.OVER:
            words = tr("The round is over: %s") % round_words(round_.answers)
        self.where.setText(words)

    def _tell_progress(self) -> None:
        settings, answers = self.settings, list(self.kept.answers)
        self._scorers.start(
            Operation(work=lambda _: shown_of(answers, settings), done=self.progress.show_scores)
        )

    @property
    def settings(self) -> Settings:
        """What a round is asked to be."""
        return self._actions.settings


def shown_of(answers: Sequence[Answer], settings: Settings) -> Shown:
    """All that the answers say of the eye, for settings like these; takes a while where there are many."""
    firsts, due, now = like(first_answers(answers), settings), due_after(answers), datetime.now(UTC)
    later = sorted(((key, day) for key, day in due.dates.items() if day > now), key=lambda one: one[1])
    told = due_words(due.now(now), later, now)
    made = Shown(scores(firsts), level_words(settings), told, over_time(firsts), due)
    for detection in (made.scores.whole, *made.scores.each.values(), *(one for _, one in made.course)):
        # Reckoned here, so that painting finds it.
        detection.d_prime_between, detection.criterion_between  # noqa: B018
    return made
