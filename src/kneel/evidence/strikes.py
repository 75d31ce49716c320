"""The strikes heard in a clip, kept by content: listening takes longer than opening."""

from __future__ import annotations

import msgspec

from kneel.evidence.shelf import Shelf, kept, packed
from kneel.footage import ClipInfo
from kneel.footage.hearing import heard_strikes
from kneel.motion.checkpoints import Moment


class _KeptStrikes(msgspec.Struct, frozen=True):
    moments: list[tuple[float, float]]


def hear(info: ClipInfo, start_s: float, content: str, shelf: Shelf) -> tuple[Moment, ...]:
    """All strikes of a clip in stored seconds from its first frame; ``start_s`` is that frame's own time."""
    key = shelf.key("strikes", content)
    known = kept(shelf, key, _KeptStrikes)
    if known is None:
        fresh = heard_strikes(info, start_s, None)
        known = _KeptStrikes([(m.time_s, m.sigma_s) for m in fresh])
        shelf.put(key, packed(known))
    return tuple(Moment(time, sigma) for time, sigma in known.moments)
