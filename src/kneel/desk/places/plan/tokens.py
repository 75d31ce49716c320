"""What a plan is made for, as tokens: days, minutes, place, props, what is spared, the wanted shot."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from enum import StrEnum

from kneel.desk.records.practice import Practice
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.token import Token, TokenRow
from kneel.model import Flag, Plan, Prop, Shot, Where
from kneel.model.plan import LEAST_MINUTES, MOST_MINUTES
from kneel.model.student import ALWAYS
from kneel.practice.schedule import WEEK
from kneel.speech import practice as say

WEEKS = (1, 2, 3, 4)
SHORT = 24
"""Words longer than this are counted instead."""


class PlanTokens(TokenRow):
    """The tokens over the calendar."""

    def __init__(self, practice: Practice, look: Look) -> None:
        super().__init__()
        self._practice, self._look = practice, look
        openers: dict[str, tuple[str, Callable[[], Panel]]] = {
            "weekdays": ("Days a week", self.choose_days),
            "minutes": ("Minutes", self.choose_minutes),
            "length": ("Length", self.choose_length),
            "places": ("Place", lambda: self._choose_several("places", tr("Place"), Where)),
            "props": ("Props", lambda: self._choose_several("props", tr("Props"), _PROPS)),
            "flags": ("To spare", self.choose_flags),
            "shot": ("Wanted shot", self.choose_shot),
            "check_in": ("Check-in", self._explain),
        }
        for key, (caption, act) in openers.items():
            token = Token(look, tr(caption))
            token.clicked.connect(lambda _=False, a=act: a())
            self.put(key, token)
        look.changed.connect(self.update)

    def refresh(self, shown: Plan | None) -> None:
        """Show what is known now; ``shown`` is the plan that runs, or would begin."""
        student, plan = self._practice.student, self._practice.plan
        weekdays = plan.weekdays if plan else student.weekdays
        minutes = plan.minutes if plan else student.minutes
        names = " ".join(say.WEEKDAYS[day] for day in weekdays) if len(weekdays) < WEEK else tr("every day")
        self._say("weekdays", str(len(weekdays)), names)
        self._say("minutes", str(minutes), tr("a session"))
        self._say("length", tr("%d days") % (plan.days if plan else self._practice.offer.days), "")
        for key, many, nothing in (
            ("places", student.places, tr("anywhere")),
            ("props", student.props, tr("not asked")),
        ):
            said = many is not None
            self._say(key, _listed(many) if many else (tr("none") if said else nothing), "", guessed=not said)
        self._say("flags", _listed(student.flags) or tr("nothing said"), "", guessed=not student.flags)
        self._say("shot", student.shot.value if student.shot else tr("any"), "", guessed=not student.shot)
        self.tokens["check_in"].setVisible(shown is not None)
        if shown is not None:
            self._say("check_in", say.day_words(shown.check_in), tr("clip, %s") % shown.view.value)
        self.fit()

    def _say(self, key: str, value: str, remark: str, *, guessed: bool = False) -> None:
        self.tokens[key].show_value(value, remark, guessed=guessed)

    # Choosing in place

    def choose_days(self) -> Chooser:
        """Which days of the week; each is put in or taken out by itself."""
        plan = self._practice.plan
        now = plan.weekdays if plan else self._practice.student.weekdays

        def switch(day: int) -> None:
            days = tuple(sorted({*now} ^ {day}))
            if days:
                self._practice.shape(tr("Change the days"), weekdays=days)
            self.choose_days()

        choices = [
            Choice(tr(name), lambda d=day: switch(d), checked=day in now)
            for day, name in enumerate(say.WEEKDAYS)
        ]
        return self._open("weekdays", choices)

    def choose_minutes(self) -> Entry:
        plan = self._practice.plan
        now = plan.minutes if plan else self._practice.student.minutes
        entry = Entry(
            self,
            self._look,
            tr("Minutes of a session"),
            lambda value: self._practice.shape(tr("Change the minutes"), minutes=round(float(str(value)))),
            number=(now, LEAST_MINUTES, MOST_MINUTES, 0),
            unit="min",
        )
        entry.open(self.tokens["minutes"])
        return entry

    def choose_length(self) -> Chooser:
        now = self._practice.plan.days if self._practice.plan else self._practice.offer.days
        many = [*(weeks * WEEK for weeks in WEEKS), 30]
        choices = [
            Choice(
                tr("%d days") % days,
                lambda d=days: self._practice.shape(tr("Change the length"), days=d),
                checked=days == now,
            )
            for days in many
        ]
        return self._open("length", choices)

    def _choose_several(self, field: str, title: str, kinds: Iterable[StrEnum]) -> Chooser:
        """Put in or take out one of several; nobody has said anything until then."""
        known = getattr(self._practice.student, field)
        now = set(known or ())
        every = list(kinds)

        def switch(one: StrEnum) -> None:
            kept = now ^ {one}
            self._practice.set(title, **{field: tuple(k for k in every if k in kept)})
            self._choose_several(field, title, every)

        choices = [Choice(tr(one.value), lambda o=one: switch(o), checked=one in now) for one in every]
        choices.append(
            Choice(
                tr("Not asked"),
                lambda: self._practice.set(title, **{field: None}),
                detail=tr("everything is offered"),
                checked=known is None,
            )
        )
        return self._open(field, choices)

    def choose_flags(self) -> Chooser:
        """What has to be spared, or who it is."""
        now = self._practice.student.flags

        def switch(flag: Flag) -> None:
            self._practice.flag(flag, flag not in now)
            self.choose_flags()

        choices = [Choice(tr(flag.value), lambda f=flag: switch(f), checked=flag in now) for flag in Flag]
        return self._open("flags", choices)

    def choose_shot(self) -> Chooser:
        now = self._practice.student.shot
        choices = [
            Choice(
                tr(shot.value),
                lambda s=shot: self._practice.set(tr("Change the wanted shot"), shot=s),
                checked=shot is now,
            )
            for shot in Shot
        ]
        choices.append(
            Choice(
                tr("any"),
                lambda: self._practice.set(tr("Change the wanted shot"), shot=None),
                checked=now is None,
            )
        )
        return self._open("shot", choices)

    def _explain(self) -> Chooser:
        words = tr("It follows from length and days: within the second week, and it does not move.")
        return self._open("check_in", [Choice(words, lambda: None, enabled=False)])

    def _open(self, key: str, choices: list[Choice]) -> Chooser:
        chooser = Chooser(self, self._look, self.tokens[key].accessibleName(), choices, typing=False)
        chooser.open(self.tokens[key])
        return chooser


_PROPS = [prop for prop in Prop if prop not in ALWAYS]


def _listed(many: Iterable[StrEnum]) -> str:
    """Several in few letters: by name, or how many."""
    names = [tr(one.value) for one in many]
    words = ", ".join(names)
    return words if len(words) <= SHORT else tr("%s and %d more") % (names[0], len(names) - 1)
