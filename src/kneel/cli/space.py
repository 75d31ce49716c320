"""``kneel analyze A --also B --also-view V``: one swing by two cameras."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from kneel.cli.loading import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.model import KneelError, UsageError
from kneel.model.two_takes import second_take
from kneel.motion.space.linked import Linked, link, told_by_two
from kneel.motion.study import Study
from kneel.speech.space import space_sentences

if TYPE_CHECKING:
    from kneel.evidence.kept import KeptSwing

OWN = ("marks", "plate", "checkpoint", "own", "typed", "length", "plumb", "mirrored")
"""What is said of the first clip alone."""


def by_both_as_kept(first: Loaded, study: Study) -> KeptSwing | None:
    """The swing with what its document says of a second camera; None where that names none.

    Raises :class:`UsageError` where the second clip is gone, or shows another swing.
    """
    if first.stretch is None or second_take(first.swing) is None:
        return None
    from kneel.evidence.kept import KeptSwing, by_both, second_of

    try:
        second = second_of(first.swing, first.stretch.path)
    except KneelError as error:
        raise UsageError(str(error)) from error
    if second is None:
        raise UsageError("The clip of the second camera is gone, or nothing is known of it yet.")
    both = by_both(KeptSwing(first.swing, study, first.stretch), second)
    if both.apart:
        raise UsageError(both.apart)
    return both


def alone(error: UsageError) -> str:
    """What is said where only the first camera speaks."""
    return f"Told by one camera alone. {error}"


def linked_with(
    asked: argparse.Namespace, outputs: list[Output], first: Loaded, study: Study
) -> tuple[Linked, tuple[Study, Study]]:
    """The swing with its second camera, and what each tells by both. Raises :class:`UsageError` where that
    shows another swing.
    """
    said = vars(asked)
    nothing: dict[str, object] = {
        name: [] if isinstance(said[name], list) else None for name in OWN if name in said
    }
    one = argparse.Namespace(
        **{**said, **nothing, "input": asked.also, "view": asked.also_view, "fps_capture": asked.also_fps}
    )
    second = load(one, outputs)
    if first.swing.golfer and second.swing.golfer:
        from kneel.book.repository.search_text import same_golfer

        if not same_golfer(first.swing.golfer, second.swing.golfer):
            raise UsageError("The two clips are of two golfers, by their swing files; link two of one swing.")
    beside = analysed_as(second, one)
    linked = link(study, beside)
    return linked, (told_by_two(study, linked), told_by_two(beside, linked))


def print_space(linked: Linked) -> None:
    """Say what two cameras tell together."""
    for line in space_sentences(linked):
        print(f"  {line}")
