"""What can be done with the review on show: cut, said anew, given a sound, written as a film, deleted."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.place import Handlers
from kneel.desk.places.review.film import write_film
from kneel.desk.records.output_paths import OutputKeeper
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model.review import Review
from kneel.review.beside import film_name
from kneel.review.edits import cut, trim

if TYPE_CHECKING:
    from kneel.desk.places.review.view import ReviewPlace

FRAME_S = 1 / 30
SOUNDS = "*.wav *.mp3 *.m4a *.flac *.ogg *.opus"


class ReviewActions:
    """The deeds of the Review."""

    def __init__(self, place: ReviewPlace) -> None:
        self._place = place
        self._films = Lane(place, place.context.jobs, tr("writing the film of the review"))

    def table(self) -> Handlers:
        """Every key with its deed."""
        player = self._place.player
        return {
            "play": player.toggle,
            "back": lambda: player.go(player.at - FRAME_S),
            "on": lambda: player.go(player.at + FRAME_S),
            "back_ten": lambda: player.go(player.at - 1.0),
            "on_ten": lambda: player.go(player.at + 1.0),
            "first": lambda: player.go(0.0),
            "last": lambda: player.go(player.seconds),
            "review_play": player.toggle,
            "review_cut": self.cut_out,
            "review_trim": self.keep_only,
            "review_again": self.say_anew,
            "review_under": self.choose_sound,
            "review_film": self.choose_film,
            "review_delete": self.ask_to_delete,
        }

    def cut_out(self) -> None:
        """Take the chosen stretch out."""
        chosen = self._stretch()
        if chosen is not None:
            self._place.shown.change(tr("Cut out a stretch"), lambda review: cut(review, *chosen))

    def keep_only(self) -> None:
        """Keep the chosen stretch alone."""
        chosen = self._stretch()
        if chosen is not None:
            self._place.shown.change(tr("Keep a stretch alone"), lambda review: trim(review, *chosen))

    def _stretch(self) -> tuple[float, float] | None:
        chosen = self._place.wave.chosen
        if chosen is None:
            self._place.said.emit(tr("Drag over the voice to choose a stretch first."))
        return chosen

    def say_anew(self) -> None:
        """Say the chosen stretch anew, or all from here on."""
        place, review = self._place, self._place.shown.now
        if review is not None:
            place.player.pause()
            stretch = place.wave.chosen or (place.player.at, review.seconds)
            place.again.emit(review, place.shown.path, stretch)

    def choose_sound(self) -> None:
        """Ask for a sound file to be laid under the review."""
        if self._place.shown.now is None:
            return
        name, _ = QFileDialog.getOpenFileName(self._place, tr("Lay a sound file under it"), "", SOUNDS)
        if name:
            self.lay_under(Path(name))

    def lay_under(self, sound: Path) -> None:
        """Lay a sound file under the review's first take."""
        review = self._place.shown.now
        if review is not None:
            self._place.shown.lay_under(sound, self._keeper(review).note)

    def _keeper(self, review: Review) -> OutputKeeper:
        first, *rest = review.swings
        documents = [Path(one.document) for one in rest]
        books = self._place.context.records.books
        return OutputKeeper(books, Path(first.clip.path), Path(first.document), review.golfer, documents)

    def choose_film(self) -> None:
        """Choose how it is written."""
        place = self._place
        choices = [
            Choice(tr("Wide (1280 × 720)"), lambda: self.write(upright=False)),
            Choice(tr("Upright (720 × 1280)"), lambda: self.write(upright=True)),
        ]
        chooser = Chooser(place.window(), place.context.look, tr("Save as film"), choices, typing=False)
        chooser.open(place.buttons["film"])

    def write(self, *, upright: bool) -> None:
        """Write the film beside the clip, in the process beside the desk."""
        place, path, review = self._place, self._place.shown.path, self._place.shown.now
        if review is None or path is None or not review.swings:
            return
        beside, keeper = place.context.beside, self._keeper(review)

        def work(task: Task) -> tuple[Path, tuple[str, ...]] | None:
            out = film_name(path)
            notes = beside.call(
                write_film,
                path,
                out,
                upright=upright,
                long=True,
                progress=task.progress,
                stopped=task.stopped,
            )
            if notes is None:
                return None
            keeper.note(out)
            return out, notes

        def done(made: tuple[Path, tuple[str, ...]] | None) -> None:
            if made is not None:
                place.said.emit(" ".join((tr("Saved as %s.") % shown(f"kept/{made[0].name}"), *made[1])))

        self._films.start(Operation(work=work, done=done, failed=lambda e: place.failed.emit(str(e))))

    def ask_to_delete(self) -> None:
        """Ask whether the review on show is to go."""
        place, path = self._place, self._place.shown.path
        if path is None:
            return
        choices = [
            Choice(tr("Delete %s for good") % shown(path.name), self.delete),
            Choice(tr("Keep it"), lambda: None),
        ]
        title = tr("Delete the review?")
        Chooser(place.window(), place.context.look, title, choices, typing=False).open(None)

    def delete(self) -> None:
        """Take the review and its voices away."""
        self._place.shown.delete(self._place.list_reviews)
