"""What is known of a student, as tokens: hand, stature, school, clubs, what is spared, what is at hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from enum import StrEnum

from kneel.desk.places.book.student_page import StudentPage
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.token import Token, TokenRow
from kneel.judge import in_use
from kneel.model import Club, Flag, Hand, Prop, Sex, Student, Where
from kneel.model.student import ALWAYS

STATURE_CM = 172.0
BORN = 1980
SHORT = 20

_PROPS = [prop for prop in Prop if prop not in ALWAYS]


class FactTokens(TokenRow):
    """The tokens under a student's name."""

    def __init__(self, student_page: StudentPage, look: Look) -> None:
        super().__init__()
        self._student_page, self._look = student_page, look
        openers: dict[str, tuple[str, Callable[[], Panel | None]]] = {
            "hand": ("Hand", lambda: self._choose_one("hand", Hand)),
            "stature_cm": ("Height", lambda: self._type("stature_cm", (STATURE_CM, 80, 250, 1), "cm")),
            "born": ("Born", lambda: self._type("born", (BORN, 1900, 2100, 0), "")),
            "sex": ("Sex", lambda: self._choose_one("sex", Sex)),
            "school": ("School", self._choose_school),
            "clubs": ("Clubs", lambda: self._choose_several("clubs", Club, none=False)),
            "flags": ("To spare", lambda: self._choose_several("flags", Flag, none=False)),
            "props": ("Props", lambda: self._choose_several("props", _PROPS)),
            "places": ("Practises", lambda: self._choose_several("places", Where)),
        }
        self._titles = {key: title for key, (title, _) in openers.items()}
        for key, (title, opener) in openers.items():
            token = Token(look, tr(title))
            token.clicked.connect(lambda _=False, act=opener: act())
            self.put(key, token)

    @property
    def student(self) -> Student | None:
        return self._student_page.page.student if self._student_page.page is not None else None

    def refresh(self) -> None:
        """Show what is known."""
        one = self.student
        if one is None:
            return
        self._say("hand", one.hand.value if one.hand else tr("not said"), guessed=one.hand is None)
        tall = f"{one.stature_cm:g} cm" if one.stature_cm else tr("not said")
        self._say("stature_cm", tall, guessed=not one.stature_cm)
        self._say("born", str(one.born) if one.born else tr("not said"), guessed=not one.born)
        self._say("sex", one.sex.value if one.sex else tr("not said"), guessed=one.sex is None)
        school = in_use().schools.get(one.school)
        self._say("school", school.title if school else tr("not said"), guessed=school is None)
        self._say("clubs", _listed(one.clubs) or tr("not said"), guessed=not one.clubs)
        self._say("flags", _listed(one.flags) or tr("nothing"), guessed=not one.flags)
        for key in ("props", "places"):
            known = getattr(one, key)
            words = tr("not asked") if known is None else _listed(known) or tr("nothing")
            self._say(key, words, guessed=known is None)
        self.fit()

    def _say(self, key: str, value: str, *, guessed: bool) -> None:
        self.tokens[key].show_value(value, "", guessed=guessed)

    def _set(self, key: str, value: object) -> None:
        self._student_page.set_student(tr("Change %s") % tr(self._titles[key]).lower(), **{key: value})

    def _choose_one(self, key: str, kinds: Iterable[StrEnum]) -> Chooser | None:
        if self.student is None:
            return None
        now = getattr(self.student, key)
        choices = [
            Choice(tr(one.value), lambda o=one: self._set(key, o), checked=one is now) for one in kinds
        ]
        choices.append(Choice(tr("not said"), lambda: self._set(key, None), checked=now is None))
        return self._open(key, choices)

    def _choose_several(self, key: str, kinds: Iterable[StrEnum], *, none: bool = True) -> Chooser | None:
        if self.student is None:
            return None
        known = getattr(self.student, key)
        every, now = list(kinds), set(known or ())
        choices = [
            Choice(
                tr(one.value),
                lambda o=one: self._set(key, tuple(k for k in every if k in now ^ {o})),
                checked=one in now,
            )
            for one in every
        ]
        if none:
            choices.append(Choice(tr("Not asked"), lambda: self._set(key, None), checked=known is None))
        return self._open(key, choices)

    def _choose_school(self) -> Chooser | None:
        if self.student is None:
            return None
        schools = [one for one in in_use().schools.values() if not one.common]
        choices = [
            Choice(
                one.title,
                lambda k=one.key: self._set("school", k),
                detail=one.creed,
                checked=one.key == self.student.school,
            )
            for one in schools
        ]
        return self._open("school", choices)

    def _type(self, key: str, bounds: tuple[float, float, float, int], unit: str) -> Entry | None:
        if self.student is None:
            return None
        now = getattr(self.student, key) or bounds[0]

        def take(value: object) -> None:
            number = float(str(value))
            self._set(key, round(number) if bounds[3] == 0 else number)

        entry = Entry(self, self._look, tr(self._titles[key]), take, number=(now, *bounds[1:]), unit=unit)
        entry.open(self.tokens[key])
        return entry

    def _open(self, key: str, choices: list[Choice]) -> Chooser:
        chooser = Chooser(self, self._look, self.tokens[key].accessibleName(), choices, typing=False)
        chooser.open(self.tokens[key])
        return chooser


def _listed(many: Iterable[StrEnum]) -> str:
    """Several in few letters: by name, or how many."""
    names = [tr(one.value) for one in many]
    words = ", ".join(names)
    return words if len(words) <= SHORT else tr("%s and %d more") % (names[0], len(names) - 1)
