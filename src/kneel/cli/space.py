"""``kneel analyze A --also B --also-view V``: one swing by two cameras."""

from __future__ import annotations

import argparse

from kneel.cli.loading import Loaded, analysed_as, load
from kneel.cli.outputs import Output
from kneel.model import UsageError
from kneel.motion.space.linked import Linked, link, told_by_two
from kneel.motion.study import Study
from kneel.speech.space import space_sentences

OWN = ("marks", "plate", "checkpoint", "own", "typed", "length", "plumb", "mirrored")
"""What is said of the first clip alone."""


def linked_with(asked: argparse.Namespace, outputs: list[Output], first: Loaded, study: Study) -> Linked:
    """The swing with its second camera. Raises :class:`UsageError` where that shows another swing."""
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
    return link(study, analysed_as(second, one))


def print_space(linked: Linked) -> None:
    """Say what two cameras tell together."""
    for line in space_sentences(linked):
        print(f"  {line}")


__all__ = ["linked_with", "print_space", "told_by_two"]
