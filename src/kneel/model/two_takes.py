"""One swing filmed twice: its second take, and the same swing as that one's camera saw it."""

from __future__ import annotations

import msgspec

from kneel.model.swing import Swing
from kneel.model.take import Take

OF_ONE_TAKE = ("takes", "checkpoints")
"""What is not the same for both: the instructor's own checkpoints may stand on frames of the first clip."""


def second_take(swing: Swing) -> Take | None:
    """The take of the second camera, None where there was but one.

    >>> second_take(Swing()) is None
    True
    """
    return swing.takes[1] if len(swing.takes) == 2 else None


def with_second(swing: Swing, take: Take) -> Swing:
    """The swing with another camera's take of it; both views are then said, and no guess.

    >>> from kneel.model.names import View
    >>> with_second(Swing(), Take(view=View.DOWN_THE_LINE)).takes[1].view.value
    'down-the-line'
    """
    still = tuple(name for name in swing.guessed if name != "view")
    return msgspec.structs.replace(swing, takes=(swing.take, take), guessed=still)


def without_second(swing: Swing) -> Swing:
    """The swing as its first camera alone filmed it.

    >>> from kneel.model.names import View
    >>> without_second(with_second(Swing(), Take(view=View.DOWN_THE_LINE))).takes == Swing().takes
    True
    """
    return msgspec.structs.replace(swing, takes=(swing.take,))


def turned(swing: Swing) -> Swing:
    """The same swing with the second take as the one that is worked on; of one take it is itself.

    >>> from kneel.model.names import View
    >>> swing = with_second(Swing(), Take(view=View.DOWN_THE_LINE))
    >>> turned(swing).view.value, turned(turned(swing)) == swing
    ('down-the-line', True)
    """
    if len(swing.takes) == 1:
        return swing
    own = tuple(one for one in swing.checkpoints if one.frame is None)
    return msgspec.structs.replace(swing, takes=(swing.takes[1], swing.takes[0]), checkpoints=own)


def turned_back(now: Swing, changed: Swing) -> Swing:
    """``now`` with what was changed in it as its second camera saw it, so that nothing that one did not see
    is lost.

    >>> from kneel.model.names import View
    >>> swing = with_second(Swing(), Take(view=View.DOWN_THE_LINE))
    >>> turned_back(swing, turned(swing).given(looked=True)).takes[1].looked
    True
    """
    before = turned(now)
    names = (name for name in Swing.__struct_fields__ if name not in OF_ONE_TAKE)
    fresh = {name: getattr(changed, name) for name in names}
    settings = {name: value for name, value in fresh.items() if value != getattr(before, name)}
    takes = (changed.takes[1], changed.takes[0]) if len(changed.takes) == 2 else (changed.take,)
    if changed.checkpoints != before.checkpoints:
        framed = tuple(one for one in now.checkpoints if one.frame is not None)
        settings["checkpoints"] = (*framed, *changed.checkpoints)
    return msgspec.structs.replace(now, takes=takes, **settings)
