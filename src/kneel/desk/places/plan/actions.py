"""What each action of the Plan does. One entry per key of :mod:`kneel.desk.shell.actions`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog, QPushButton

from kneel.compare.check_in import Outcome
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers, Place
from kneel.desk.places.plan.calendar import Calendar, DayCell
from kneel.desk.places.plan.checkin import CheckIn
from kneel.desk.places.plan.fault_line import FaultLine
from kneel.desk.records.output_paths import KEPT, OutputKeeper
from kneel.desk.records.practice import Practice
from kneel.desk.records.sides import MOST, AnswerTold, ask
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import KIND_TITLES
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import CLIP_SUFFIXES, FileRef, Kind, Plan, Practised, Rung, UsageError
from kneel.practice import standing
from kneel.practice.choice import HELD, DrillChoice
from kneel.practice.dose import amount
from kneel.practice.films import film_of, keep_film, take_away
from kneel.practice.schedule import State
from kneel.speech import practice as say
from kneel.speech.words import FROM, length_words

NO_PLAN = "No plan runs for this student."

KIND_OF = {
    Rung.NO_BALL: (Kind.REHEARSAL, Kind.DRILL),
    Rung.HALF: (Kind.HALF,),
    Rung.THREE_QUARTER: (Kind.THREE_QUARTER,),
    Rung.FULL: (Kind.FULL,),
}
"""What has to have been swung for its number to count on a rung."""


class PlanParts(Place):
    """What the actions ask of the Plan."""

    fault: FaultLine
    other: QPushButton
    calendar: Calendar
    check_in: CheckIn

    @property
    def looked_at(self) -> DrillChoice | None:
        """The drill that is chosen."""
        raise NotImplementedError

    def show_answer(self, answer: AnswerTold | None) -> None:
        """Show what the swings say to the plan."""
        raise NotImplementedError

    def refresh_film(self) -> None:
        """Say anew whether the drill has a film."""
        raise NotImplementedError

    def begin_named(self, begin: Callable[[], object]) -> None:
        """Begin once the golfer has a name."""
        raise NotImplementedError


class PlanActions:
    """The actions on the plan of the student."""

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice, place: PlanParts) -> None:
        self._open, self._context, self._practice, self._place = opened, context, practice, place
        self._askers = Lane(place, context.jobs, tr("holding the swings against the plan"), newest=True)
        self._writers = Lane(place)

    def table(self) -> Handlers:
        """Every key with its deed."""
        return {
            "begin_plan": self.begin,
            "note_today": self.note_today,
            "plan_fault": self.choose_fault,
            "change_drill": self.change_drill,
            "ask_plan": self.ask,
            "plan_calendar": self.save_calendar,
            "plan_page": self.save_page,
            "end_plan": self.choose_end,
            "drill_film": self.choose_film,
        }

    # Beginning and ending

    def begin(self) -> None:
        """Begin the plan that is proposed, for somebody with a name."""
        if self._practice.plan is not None:
            self._place.said.emit(tr("A plan runs already: end it first."))
            return
        if self._practice.offer.proposal is None:
            self._place.said.emit(tr("Nothing is proposed yet: there is no root to work on."))
            return

        def start() -> None:
            if self._practice.begin():
                self._place.said.emit(tr("The plan has begun; Ctrl+Z takes it back"))

        self._place.begin_named(start)

    def change_drill(self) -> None:
        """Go on with the drill that is looked at."""
        choice = self._place.looked_at
        if choice is not None and not choice.forbidden:
            self._practice.change_drill(choice.drill.key)

    def choose_film(self) -> None:
        """Look at the film of one's own for the drill that is looked at, give it one, or take that away."""
        choice = self._place.looked_at
        if choice is None:
            self._place.said.emit(tr("Choose a drill first."))
            return
        key = choice.drill.key

        def show(film: Path | None) -> None:
            choices = [Choice(tr("Choose a film …"), lambda: self._browse_film(key))]
            if film is not None:
                url = QUrl.fromLocalFile(str(film))
                choices.insert(0, Choice(tr("Look at it"), lambda: QDesktopServices.openUrl(url)))
                choices.append(Choice(tr("Take it away"), lambda: self._with_film(lambda: take_away(key))))
            title = tr("Film of your own: %s") % choice.drill.title
            Chooser(self._place.window(), self._context.look, title, choices, typing=False).open(None)

        self._writers.start(Operation(work=lambda _: film_of(key), done=show))

    def _browse_film(self, drill: str) -> None:
        kinds = " ".join(f"*{suffix}" for suffix in CLIP_SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(self._place, tr("Film of the drill"), "", kinds)
        if name:
            self.keep_film(drill, Path(name))

    def keep_film(self, drill: str, clip: Path) -> None:
        """Keep a clip as the film of a drill."""
        self._with_film(lambda: keep_film(drill, clip))

    def _with_film(self, deed: Callable[[], object]) -> None:
        def done(kept: object) -> None:
            words = tr("The film is kept with the drill") if kept else tr("The film is taken away")
            self._place.said.emit(words)
            self._place.refresh_film()

        failed = self._open.failed.emit
        self._writers.start(
            Operation(work=lambda _: deed(), done=done, failed=lambda error: failed(str(error)))
        )

    def choose_end(self) -> Chooser | None:
        """End the plan, with how it came out."""
        if self._practice.plan is None:
            self._place.said.emit(NO_PLAN)
            return None
        held = (tr("It holds"), HELD, tr("go on to the next thing"))
        rows = (held, (tr("It did not move"), "not moved", ""), (tr("Given up"), "given up", ""))
        choices = [
            Choice(title, lambda w=why: self._practice.end(w), detail=more) for title, why, more in rows
        ]
        return self._open_at(
            tr("How did the plan come out?"), choices, self._place.check_in.buttons["end_plan"]
        )

    def choose_fault(self) -> Chooser | None:
        """Plan for another fault than the root."""
        reading = self._open.numbers.reading
        if reading is None or self._practice.plan is not None:
            self._place.said.emit(tr("A plan runs already: end it first."))
            return None
        proposal = self._practice.offer.proposal
        now = proposal.finding.key if proposal else ""
        first = {key: k for k, key in enumerate(reading.priority)}
        some = [f for f in reading.findings if f.asked and not f.fault.consequence]
        some.sort(key=lambda f: (first.get(f.key, 9), not f.verdict.at_work))
        choices = [
            Choice(
                f.fault.title,
                lambda k=f.key: self._practice.choose(k),
                detail=f.verdict.value,
                checked=f.key == now,
            )
            for f in some
        ]
        anchor = self._place.fault if proposal else self._place.other
        return self._open_at(tr("Plan for a fault"), choices, anchor)

    def _open_at(self, title: str, choices: list[Choice], anchor: object) -> Chooser:
        chooser = Chooser(self._place, self._context.look, title, choices)
        chooser.open(anchor if getattr(anchor, "isVisible", lambda: False)() else None)  # type: ignore[arg-type]
        return chooser

    # Sessions

    def note_today(self) -> Chooser | None:
        """Note the session of today, or the last one that was due."""
        cells = [c for c in self._place.calendar.cells if c.session is not None and c.isEnabled()]
        due = [c for c in cells if c.session is not None and c.session.state is not State.DONE]
        cell = next((c for c in due if c.day == self._practice.today), next(iter(reversed(due)), None))
        if cell is None:
            self._place.said.emit(NO_PLAN if self._practice.plan is None else tr("No session is due."))
            return None
        return self.note_day(cell)

    def note_day(self, cell: DayCell) -> Chooser | None:
        """Let it be said what became of a day."""
        plan = self._practice.plan
        if plan is None:
            return None
        if cell.film:
            self.ask()
            return None
        if cell.session is None:
            return None
        done = cell.session.state is State.DONE
        rung = cell.session.rung if done else standing(plan).rung
        drill = self._practice.offer.drills.all.get(plan.drill) if self._practice.offer.drills else None
        times = amount(drill, rung, plan.minutes, self._practice.student.flags).total if drill else 0

        def note(**more: object) -> None:
            self._practice.log(Practised(cell.day, rung, times, **more))  # type: ignore[arg-type]

        choices = [
            Choice(tr("Done, and it held"), lambda: note(held=True), detail=say.rung_words(plan, rung)),
            Choice(tr("Done, it did not hold"), lambda: note(held=False)),
            Choice(tr("Done, nobody looked"), note),
        ]
        told = self._practice.offer.now(plan)
        if told is not None:
            fits = self._open.swing.kind in KIND_OF[rung]
            words = tr("the swing on the desk: %s") % length_words(told.value, told.sigma, told.unit)
            choices.append(
                Choice(
                    tr("Filmed") if fits else tr("Filmed: the swing on the desk is of another kind"),
                    lambda: note(value=told.value, sigma=told.sigma),
                    detail=words if fits else "",
                    enabled=fits,
                )
            )
        if done:
            choices.append(Choice(tr("Take it back"), lambda: self._practice.unlog(cell.day)))
        return self._open_at(f"{say.day_words(cell.day)}: {rung.value}", choices, cell)

    # The check-in

    def ask(self) -> None:
        """Hold the swings like the one on the desk against those the plan was made on."""
        plan, path = self._practice.plan, self._open.path
        if plan is None or path is None:
            self._place.said.emit(NO_PLAN)
            return
        before = [Path(one.path) for one in plan.before]
        after = [one for one in self._practice.beside() if one not in before][:MOST]
        swing = self._open.swing
        analysis = self._open.analysis
        kind = swing.kind if analysis is None else analysis.kind
        wrong = (swing.view, swing.club, kind) != (plan.view, plan.club, plan.kind)
        if wrong or not after:
            what = tr("Open a %s %s with the %s that was filmed after the plan began, and ask again.")
            kind_ = tr(KIND_TITLES[plan.kind.value]).lower()
            self._place.said.emit(what % (FROM[plan.view], kind_, plan.club.value))
            return
        beside = self._context.beside

        def work(task: Task) -> AnswerTold | None:
            return beside.call(ask, plan, before, after, progress=task.progress, stopped=task.stopped)

        def done(answer: AnswerTold | None) -> None:
            if answer is not None:
                self._practice.ask_with([FileRef(str(one)) for one in after])
                self._place.show_answer(answer)
                if answer.answer is not None and answer.answer.outcome is Outcome.HOLDS:
                    self._place.said.emit(
                        tr("It holds: end the plan with “It holds” to go on to the next thing")
                    )

        self._askers.start(
            Operation(
                subject=lambda: (self._practice.record.whose(), _which(self._practice.plan)),
                work=work,
                done=done,
                failed=lambda error: self._practice.failed.emit(str(error)),
            )
        )

    # What goes out

    def save_calendar(self) -> None:
        """Write the days as a calendar file beside the clips."""
        plan = self._planned()
        if plan is not None:
            today, flags = self._practice.today, self._practice.student.flags

            def made() -> bytes:
                from kneel.contract.calendar import calendar_of

                return calendar_of(plan, today, flags)

            self._save("plan", ".ics", made)

    def save_page(self) -> None:
        """Write the plan as a page to print, beside the clips."""
        plan = self._planned()
        drills = self._practice.offer.drills
        if plan is not None and drills is not None:
            name = self._practice.student.name or tr("No name yet")
            proposal = self._practice.offer.proposal
            warning = say.warning_words(proposal.chosen) if proposal and proposal.chosen else ""
            drill, hand, today = drills.get(plan.drill), self._open.swing.hand, self._practice.today
            flags = self._practice.student.flags

            def made() -> bytes:
                from kneel.handout.page import pdf_of, plan_html
                from kneel.handout.plan import plan_page

                return pdf_of(plan_html(plan_page(plan, drill, hand, name, today, flags, warning)))

            self._save("plan", ".pdf", made)

    def _planned(self) -> Plan | None:
        """The plan to give out; None, and that is said, where its drill is not known any more."""
        plan, drills = (
            self._practice.offer.preview(self._practice.offer.proposal),
            self._practice.offer.drills,
        )
        if plan is not None and drills is not None and plan.drill not in drills.all:
            self._practice.failed.emit(
                tr("The plan’s drill is not among the drills any more; take another. Nothing is lost.")
            )
            return None
        return plan

    def _save(self, what: str, suffix: str, made: Callable[[], bytes]) -> None:
        keeper = OutputKeeper.of(self._open, self._context.records.books)
        if keeper is None:
            return

        def failed(error: Exception) -> None:
            if isinstance(error, UsageError):
                self._practice.failed.emit(str(error))
                return
            words = tr("Nothing can be written beside %s; nothing was lost.")
            self._practice.failed.emit(words % shown(keeper.clip.name))

        def done(target: Path) -> None:
            self._place.said.emit(tr("Saved as %s") % shown(f"{KEPT}/{target.name}"))

        self._writers.start(
            Operation(work=lambda _: keeper.keep(what, suffix, made()), done=done, failed=failed)
        )


def _which(plan: Plan | None) -> object:
    """What tells a plan from another of the same student."""
    return None if plan is None else (plan.fault, plan.start, plan.aim.measure, plan.aim.at)
