"""The strikes of a clip as the checkpoints take them: moments in real seconds."""

from __future__ import annotations

from collections.abc import Sequence

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
    strikes = [Moment(s.time_s, s.sigma_s) for s in find_strikes(sound)] if sound else []
    return in_real_time(strikes, info, capture_rate)


def in_real_time(moments: Sequence[Moment], info: ClipInfo, capture_rate: float | None) -> tuple[Moment, ...]:
    """Moments in stored seconds of a clip as such in real seconds of its frames."""
    stored = info.times_s
    if capture_rate is None or len(stored) < 2:
        return tuple(moments)
    real, out = info.real_s(capture_rate), []
    for moment in moments:
        at = int(np.clip(np.searchsorted(stored, moment.time_s) - 1, 0, len(stored) - 2))
        share = float((real[at + 1] - real[at]) / (stored[at + 1] - stored[at]))
        time = float(real[at]) + (moment.time_s - float(stored[at])) * share
        out.append(Moment(time, moment.sigma_s * share))
    return tuple(out)
