"""Keys of faults and drills that have another name now: read as what they are called, never written again."""

from __future__ import annotations

from typing import Final

import msgspec

RENAMED: Final = {
    "closed_slide": "unopened_shift",
    "crunch": "low_back_load",
    "lead_hip_down_and_round": "lead_hip_settles_and_opens",
    "post_up_and_hit": "lead_leg_first_then_strike",
    "fenced_leg": "trail_knee_between_sticks",
    "over_tilted_turn": "turn_with_much_tilt",
    "half_ball_under_the_heel": "soft_pad_under_the_heel",
    "pinch_the_thighs": "towel_between_the_thighs",
    "preset_reset_hit": "impact_looked_at_then_swung",
    "hugged_club": "club_in_the_hip_folds",
    "belly_up_chest_back": "pelvis_on_chest_behind",
    "lead_ribs_up": "lead_side_grows_long",
}
"""Earlier keys in files, records and databases, and the key of today."""


def as_now(key: str) -> str:
    """The key of today for one that may be of an earlier version.

    >>> as_now("closed_slide"), as_now("sway")
    ('unopened_shift', 'sway')
    """
    return RENAMED.get(key, key)


def read_as_now(record: msgspec.Struct, *fields: str) -> None:
    """Bring the named fields of a record that is being made, keys or tuples of keys, to the keys of today.

    >>> class Asked(msgspec.Struct):
    ...     fault: str
    >>> asked = Asked("closed_slide")
    >>> read_as_now(asked, "fault")
    >>> asked.fault
    'unopened_shift'
    """
    for field in fields:
        told = getattr(record, field)
        now = as_now(told) if isinstance(told, str) else tuple(as_now(one) for one in told)
        if now != told:
            msgspec.structs.force_setattr(record, field, now)
