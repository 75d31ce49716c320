"""The strikes of a clip as the checkpoints take them: moments in real seconds."""

from __future__ import annotations

import numpy as np

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
    stored = [Moment(s.time_s, s.sigma_s) for s in find_strikes(sound)] if sound else []
    return tuple(in_real_time(moment, info, capture_rate) for moment in stored)


def in_real_time(moment: Moment, info: ClipInfo, capture_rate: float | None) -> Moment:
    """A moment in stored seconds of a clip as one in real seconds of its frames."""
    stored, real = info.times_s, info.real_s(capture_rate)
    if len(stored) < 2:
        return moment
    at = int(np.clip(np.searchsorted(stored, moment.time_s) - 1, 0, len(stored) - 2))
    share = float((real[at + 1] - real[at]) / (stored[at + 1] - stored[at]))
    return Moment(float(real[at]) + (moment.time_s - float(stored[at])) * share, moment.sigma_s * share)
