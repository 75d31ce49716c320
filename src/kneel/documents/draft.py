"""Documents written before version 1 was settled: one flat record, frames counted from the swing's first."""

from __future__ import annotations

from typing import Any

_OF_TAKE = (
    "clip",
    "span",
    "view",
    "mirrored",
    "capture_rate",
    "scale",
    "marks",
    "pinned",
    "looked",
    "steadied",
)
_LOOKED_AT = ("frame", "plumbs")


def from_draft(content: dict[str, Any]) -> dict[str, Any]:
    """A flat draft as version 1 has it; what was merely looked at is left out.

    >>> from_draft({"view": "rear", "span": [40, 90], "pinned": {"top": 3.0}, "golfer": "Maren", "frame": 7})
    {'takes': [{'view': 'rear', 'span': [40, 90], 'pinned': {'top': 43.0}}], 'golfer': 'Maren'}
    """
    take = {name: value for name, value in content.items() if name in _OF_TAKE}
    span = take.get("span")
    start = span[0] if span else 0
    if start:
        take["marks"] = [mark | {"frame": mark["frame"] + start} for mark in take.get("marks", ())]
        take["pinned"] = {name: frame + start for name, frame in take.get("pinned", {}).items()}
        if "marks" not in content:
            del take["marks"]
    rest = {n: v for n, v in content.items() if n not in _OF_TAKE and n not in _LOOKED_AT}
    return {"takes": [take]} | rest
