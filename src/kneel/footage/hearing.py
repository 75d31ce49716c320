"""The strikes of a clip as the checkpoints take them: moments in real seconds."""

from __future__ import annotations

from kneel.footage.clip import ClipInfo
from kneel.footage.sound import read_sound
from kneel.motion.checkpoints import Moment


def heard_strikes(info: ClipInfo, start_s: float, capture_rate: float | None) -> tuple[Moment, ...]:
    """All strikes of a clip, on the real-time clock of its frames; empty where nothing is heard.

    ``start_s`` is the first frame's own presentation time, ``capture_rate``
    the true rate where it is not the stored one.
    """
    # The filters take longer to load than a window to open; only hearing needs them.
    from kneel.footage.strike import find_strikes

    sound = read_sound(info.path, start_s)
    share = info.rate_stored / capture_rate if capture_rate else 1.0
    return tuple(Moment(s.time_s * share, s.sigma_s * share) for s in find_strikes(sound)) if sound else ()
