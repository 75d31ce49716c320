"""``kneel analyze A --also B --also-view V``: one swing by two cameras."""

from __future__ import annotations

import argparse

from kneel.cli.loading import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.compare.views import judge_views
from kneel.judge import Reading, School
from kneel.model import KneelError, Swing, UsageError
from kneel.motion.space.linked import Linked, link, told_by_two
from kneel.motion.study import Study
from kneel.speech.space import space_sentences

OWN = ("marks", "plate", "checkpoint", "own", "typed", "length", "plumb", "mirrored")
"""What is said of the first clip alone."""


def linked_as_kept(first: Loaded, study: Study) -> tuple[Linked, Study]:
    """The swing with the second camera that its document names, and that one's numbers.

    Raises :class:`UsageError` where its clip is gone, or shows another swing.
    """
    from kneel.evidence.kept import second_of

    assert first.stretch is not None
    try:
        second = second_of(first.swing, first.stretch.path)
    except KneelError as error:
        raise UsageError(str(error)) from error
    if second is None:
        raise UsageError("The clip of the second camera is gone, or nothing is known of it yet.")
    return link(study, second.study, agreed=True), second.study


def linked_with(
    asked: argparse.Namespace, outputs: list[Output], first: Loaded, study: Study
) -> tuple[Linked, Study]:
    """The swing with its second camera, and that one's numbers. Raises :class:`UsageError` where that shows
    another swing.
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
    return link(study, beside), beside


def print_space(linked: Linked) -> None:
    """Say what two cameras tell together."""
    for line in space_sentences(linked):
        print(f"  {line}")


def by_both(linked: Linked, studies: tuple[Study, Study], school: School, swing: Swing) -> Reading:
    """What both cameras show, judged as one swing."""
    first, second = (told_by_two(study, linked) for study in studies)
    return judge_views([first, second], school, swing)


__all__ = ["by_both", "linked_as_kept", "linked_with", "print_space", "told_by_two"]
