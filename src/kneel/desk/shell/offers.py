"""What can be held beside the swing on the desk: the others of the rack, the one before it first."""

from __future__ import annotations

from collections.abc import Sequence

from kneel.book.repository.search_text import same_golfer
from kneel.desk.places.bench.rack.entries import RackEntry
from kneel.desk.places.pair.comparing import Offer
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.model import View


def offers_of(entries: Sequence[RackEntry], on_desk: OpenSwing) -> list[Offer]:
    """The rack's other swings of the view on show; ``before`` is the nearest one above the open one."""
    view, here = on_desk.swing.view, on_desk.path
    places = [k for k, one in enumerate(entries) if one.document == here]
    open_at = places[0] if places else len(entries)
    golfer = on_desk.swing.golfer
    found, before = [], -1
    others: list[Offer] = []
    for k, one in enumerate(entries):
        if one.document == here or one.part_of is not None:
            continue
        day = "" if one.day is None else f"{one.day:%d.%m.%Y}"
        if one.view is not view:
            across = (one.view is View.DOWN_THE_LINE) != (view is View.DOWN_THE_LINE)
            mine = open_at < len(entries) and one.day == entries[open_at].day
            if across and mine and same_golfer(one.golfer, golfer):
                detail = tr("another camera, %s") % one.view.value
                others.append(Offer(one.target, one.stem, " · ".join(p for p in (detail, day) if p)))
            continue
        if k < open_at and same_golfer(one.golfer, golfer):
            before = len(found)
        found.append(Offer(one.target, one.stem, " · ".join(part for part in (one.club.value, day) if part)))
    return [*(Offer(o.path, o.title, o.detail, k == before) for k, o in enumerate(found)), *others]
