"""The Hand-out: what a student takes home, seen before it goes, and saved as page or slow clip."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.places.handout.actions import HandoutActions, HandoutParts
from kneel.desk.places.handout.beside import PageAsked, PageMade, page_beside
from kneel.desk.places.handout.ready import Ready
from kneel.desk.places.handout.saved import SavedButtons
from kneel.desk.places.handout.sheet import Sheets
from kneel.desk.places.place import Handlers
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.entry import TextLine
from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.text import Label
from kneel.judge import in_use
from kneel.model import KneelError

WIDE = 290
TYPED_MS = 700
AFTER_MS = 60
MAKING = tr("The page is being made …")


class HandoutPlace(HandoutParts):
    """The page of the swing on the desk. ``said`` carries a sentence, ``failed`` one about a failure,
    ``wanted`` that it be shown.
    """

    key, title = "home", "Hand-out"
    failed = pyqtSignal(str)
    wanted = pyqtSignal()

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__(Undoing(opened, practice))
        self._open, self._context, self._practice = opened, context, practice
        look = context.look
        self._made: tuple[object, PageMade] | None = None
        self._about: object = None
        self.fault = ""
        self._then: Callable[[], object] | None = None
        self._makers = Lane(self, context.jobs, tr("making the page"), newest=True)
        self.ready = Ready(self, opened, context)
        self.sheets = Sheets(look)
        self._title, self._subject, self._where = Label(tr("What goes home")), Label(), Label()
        self.academy, self.note = TextLine(80), TextLine(300)
        self.other = QPushButton(tr("About something else …"))
        self.buttons: dict[str, QPushButton] = {}
        self.saved = SavedButtons()
        self._soon = QTimer(self, singleShot=True, interval=TYPED_MS)
        self._soon.timeout.connect(self._typed)
        self._actions = HandoutActions(opened, context, practice, self)
        self._build()
        opened.opened.connect(self._forget)
        for signal in (opened.document.changed, practice.changed, opened.numbers.renewed):
            signal.connect(self._on_changed)

    def _build(self) -> None:
        left = CardBackground(self._context.look)
        left.setFixedWidth(WIDE)
        self._title.setProperty("role", "title")
        self._where.setProperty("role", "small")
        for label in (self._subject, self._where):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
        self.academy.setText(str(self._context.settings.value("academy", "")))
        column = QVBoxLayout(left)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(8)
        column.addWidget(self._title)
        column.addWidget(self._subject)
        column.addWidget(self.other)
        rows = ((self.academy, tr("Stands under the name"), tr("your academy")),)
        rows += ((self.note, tr("A line of your own"), tr("what you want remembered")),)
        for line, title, prompt in rows:
            label = Label(title)
            label.setProperty("role", "caption")
            label.setBuddy(line)
            line.setAccessibleName(title)
            line.setPlaceholderText(prompt)
            line.textEdited.connect(lambda _: self._soon.start())
            column.addWidget(label)
            column.addWidget(line)
        column.addSpacing(6)
        titles = {
            "save_pdf": tr("Save the page (PDF)"),
            "save_html": tr("Save the page (HTML)"),
            "save_slow": tr("Save the slow clip"),
            "plan_calendar": tr("Save the days (calendar)"),
        }
        table = self._actions.table()
        for key, title in titles.items():
            button = QPushButton(title)
            deed = table.get(key, self._actions.save_calendar)
            button.clicked.connect(lambda _=False, act=deed: act())
            self.buttons[key] = button
            column.addWidget(button)
        self.buttons["save_pdf"].setProperty("primary", "true")
        column.addWidget(self._where)
        column.addWidget(self.saved)
        column.addStretch(1)
        self.other.clicked.connect(lambda _=False: self._actions.choose_fault())
        outer = QHBoxLayout(self)
        outer.setContentsMargins(12, 0, 12, 6)
        outer.setSpacing(12)
        outer.addWidget(left)
        outer.addWidget(scrolled(self.sheets), 1)

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def hints(self) -> str:
        return tr("F2 Bench    Ctrl+P save the page    F1 all keys")

    def enter(self) -> None:
        self.buttons["save_pdf"].setFocus()

    def leave(self) -> None:
        self._typed()

    def close_down(self) -> None:
        """Give up what is under way."""
        self._makers.stop()
        self.ready.close_down()
        self._actions.close_down()

    def once_made(self, deed: Callable[[], object]) -> None:
        """Do something with the page: at once where it is on show, else once it is made there."""
        if self.made is not None and self.isVisible():
            deed()
            return
        self._then = deed
        self.wanted.emit()
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        QTimer.singleShot(AFTER_MS, self.refresh)

    # Making

    @property
    def made(self) -> PageMade | None:
        """The page on show; None as soon as another student or swing is on the desk."""
        return self._made[1] if self._made is not None and self._made[0] == self._whose() else None

    def _whose(self) -> object:
        return self._practice.record.whose(), self._open.path

    def asked(self) -> PageAsked | None:
        """What the page is to be of; None, and why is shown, where there can be none."""
        opened = self._open
        if opened.store is None or opened.path is None:
            self._nothing(tr("A page is made of a swing: open one on the Bench (Ctrl+O), then come back."))
            return None
        if opened.numbers.reading is None or not opened.numbers.reading.told:
            self._nothing(tr("Nothing is told of this swing yet: look for the joints, or mark them."))
            return None
        record = self._practice.record
        try:
            url = record.records.books.lies(record.which).url if record.readable else ""
        except KneelError:
            url = ""
        if not url:
            self._nothing(tr("The Book cannot be read; mend that first."))
            return None
        academy, note = self.academy.text().strip(), self.note.text().strip()
        return PageAsked(opened.path, url, self.fault, academy, note, self._practice.today)

    def refresh(self) -> None:
        """Make the page anew, where anything of it has changed."""
        if not self.isVisible():
            return
        asked = self.asked()
        if asked is None:
            return
        self._open.autosave.save()
        about = (asked, self._open.swing, self._practice.student)
        if about == self._about:
            return
        self._about = about
        self._tell()
        if self.made is None:
            self.sheets.say(MAKING)

        def work(task: Task) -> PageMade | None:
            self._open.autosave.settle()
            return self._context.beside.call(page_beside, asked, progress=task.progress, stopped=task.stopped)

        self._makers.start(
            Operation(
                subject=lambda: (self._whose(), self._about),
                work=work,
                done=self._take,
                failed=lambda error: self._nothing(str(error)),
                ended=self._on_ended,
            )
        )

    def _take(self, made: PageMade | None) -> None:
        if made is not None:
            self._made = self._whose(), made
            self.sheets.show_pdf(made.pdf)
        self._tell()
        deed, self._then = self._then, None
        if deed is not None and made is not None:
            deed()

    def _on_ended(self) -> None:
        """Stopped without a page: it says so, and is made when the place is shown again."""
        if self.made is None and not self._makers.busy and self.sheets.words == MAKING:
            self._about = None
            self._nothing(tr("The page was not made. Come back to this place, and it is made again."))

    def _nothing(self, words: str) -> None:
        self._made = self._then = None
        self.sheets.say(words)
        self._tell()

    def _tell(self) -> None:
        fault = in_use().faults.get(self.made.fault) if self.made is not None else None
        self._subject.setText(fault.title if fault is not None else "")
        self._subject.setVisible(fault is not None)
        for key in ("save_pdf", "save_html", "save_slow"):
            self.buttons[key].setEnabled(self.made is not None)
        self.buttons["plan_calendar"].setEnabled(self._practice.plan is not None)
        self.other.setEnabled(self._open.numbers.reading is not None)
        count = self.sheets.count
        sheets = several(count, "One sheet.", "%d sheets.") if count else ""
        self._where.setText(
            f"{sheets} {tr('What is saved lies in the folder “kept” beside the clip.')}".strip()
        )

    def _typed(self) -> None:
        self._soon.stop()
        self._context.settings.setValue("academy", self.academy.text().strip())
        self.refresh()

    def _forget(self) -> None:
        self.fault, self._made, self._about = "", None, None
        self.saved.show_file(None)
        self.note.clear()
        self._on_changed()

    def _on_changed(self) -> None:
        if self.isVisible() and not self._open.numbers.dragging:
            self._soon.start()
