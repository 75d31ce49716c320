"""What can be done in the Trainer: settings of a round, beginning and ending it, a class, forgetting."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace

from kneel.desk.places.place import Handlers
from kneel.desk.places.trainer.classroom import Classroom
from kneel.desk.places.trainer.running import Phase
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import several, tr
from kneel.model import Hand, View
from kneel.trainer.records import CLOTHES, LENGTHS, LIGHTS, SHOWN, SIZES, Settings
from kneel.trainer.words import CLOTHES as CLOTHES_WORDS
from kneel.trainer.words import LIGHTS as LIGHT_WORDS
from kneel.trainer.words import MOST, VIEWS, size_words
from kneel.trainer.words import SHOWN as SHOWN_WORDS

if TYPE_CHECKING:
    from kneel.desk.places.trainer.view import TrainerPlace

KEPT = "trainer/settings"


class TrainerActions:
    """The deeds of the Trainer."""

    def __init__(self, place: TrainerPlace) -> None:
        self._place = place
        self.settings = Settings()
        self.classroom = Classroom(place)

    def table(self) -> Handlers:
        """All of them by key."""
        return {
            "eye_begin": self.begin_or_end,
            "eye_answer": self._place.go_on,
            "eye_shown": self.choose_shown,
            "eye_view": self.choose_view,
            "eye_faults": self.choose_faults,
            "eye_size": self.choose_size,
            "eye_clothes": self.choose_clothes,
            "eye_light": self.choose_light,
            "eye_hand": self.choose_hand,
            "eye_length": self.choose_length,
            "eye_class": self.classroom.choose,
            "eye_forget": self.ask_to_forget,
        }

    # A round

    def begin_or_end(self) -> None:
        """Begin a round, or end the one that runs; what was answered of it is kept."""
        place = self._place
        if place.round.idle:
            place.begin()
            return
        answered = len(place.round.answers)
        place.stage.player.pause()
        place.round.end()
        kept = several(answered, "one answer is kept", "%d answers are kept")
        place.said.emit(tr("The round is ended; %s") % kept)

    # Settings

    def restore(self) -> None:
        """As they were when the desk closed."""
        held = self._place.context.settings.value(KEPT)
        try:
            self.settings = msgspec.convert(json.loads(str(held)), Settings) if held else Settings()
        except (ValueError, msgspec.ValidationError):
            self.settings = Settings()

    def change(self, **new: Any) -> None:
        """Ask for something else from the next round on."""
        place = self._place
        if not place.round.idle:
            place.said.emit(tr("While a round runs it stays as it is"))
            return
        self.settings = replace(self.settings, **new)
        place.context.settings.setValue(KEPT, msgspec.json.encode(self.settings).decode())
        if place.round.phase is Phase.OVER:
            place.round.end()
        place.want_more()
        place.tell()

    def _choose(self, title: str, name: str, choices: list[tuple[Any, str, str]]) -> Chooser:
        now = getattr(self.settings, name)
        place = self._place
        entries = [
            Choice(
                tr(words), lambda v=value: self.change(**{name: v}), detail=tr(detail), checked=value == now
            )
            for value, words, detail in choices
        ]
        chooser = Chooser(place, place.context.look, title, entries)
        chooser.open(None)
        return chooser

    def choose_shown(self) -> Chooser:
        """How often and how fast."""
        return self._choose(tr("Shown"), "shown", [(key, *SHOWN_WORDS[key]) for key in SHOWN])

    def choose_view(self) -> Chooser:
        """From where."""
        views = (None, View.FACE_ON, View.DOWN_THE_LINE)
        return self._choose(tr("Seen from"), "view", [(view, VIEWS[view], "") for view in views])

    def choose_faults(self) -> Chooser:
        """How many faults a swing has."""
        return self._choose(tr("Faults"), "most", [(most, words, "") for most, words in MOST.items()])

    def choose_size(self) -> Chooser:
        """How large faults are."""
        hints = {1.0: "hard", 1.5: "usual", 2.0: "plain"}
        return self._choose(tr("Size"), "size", [(size, size_words(size), hints[size]) for size in SIZES])

    def choose_clothes(self) -> Chooser:
        """What is worn."""
        every = (None, *CLOTHES)
        return self._choose(tr("Clothes"), "clothes", [(one, CLOTHES_WORDS[one], "") for one in every])

    def choose_light(self) -> Chooser:
        """What light there is."""
        return self._choose(tr("Light"), "light", [(one, LIGHT_WORDS[one], "") for one in (None, *LIGHTS)])

    def choose_hand(self) -> Chooser:
        """Which hand swings."""
        hands = [(None, "both", ""), *((hand, hand.value, "") for hand in Hand)]
        return self._choose(tr("Hand"), "hand", hands)

    def choose_length(self) -> Chooser:
        """How many swings a round has."""
        return self._choose(tr("Round"), "swings", [(n, f"{n} swings", "") for n in LENGTHS])

    # Answers

    def ask_to_forget(self) -> Chooser:
        """Take all answers away, once that was said twice."""
        place = self._place
        count = len(place.kept.answers)
        entries = [
            Choice(tr("Keep them"), lambda: None),
            Choice(
                several(count, "Forget one answer for good", "Forget %d answers for good"),
                place.kept.forget,
                enabled=count > 0,
            ),
        ]
        chooser = Chooser(place, place.context.look, tr("Forget how you answered?"), entries)
        chooser.open(None)
        return chooser
