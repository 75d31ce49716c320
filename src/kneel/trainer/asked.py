"""Which faults the trainer asks for, in which view, and how their size is asked: ``asked.toml``."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Literal

import msgspec

from kneel.model import View

SCHOOL = "centred"
"""The school by whose windows a fault is one; windows as shipped, so that a swing stays what it was."""

Form = Literal["across", "up", "lean", "level", "bend"]


class AskedFault(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One fault as it is asked for; the file says what each field is."""

    key: str
    view: View
    measure: str
    at: str
    low: float
    high: float
    shape: Form
    ask: str
    look: str
    largest: float = 9.0


@cache
def asked_faults() -> dict[str, AskedFault]:
    """All of them by key, in the order of the answers.

    >>> asked_faults()["sway"].measure
    'pelvis_shift'
    """
    raw = tomllib.loads((files("kneel.trainer") / "asked.toml").read_text(encoding="utf-8"))
    return {one.key: one for one in msgspec.convert(raw["fault"], list[AskedFault])}


def asked_in(view: View) -> list[AskedFault]:
    """Those that a camera there shows.

    >>> [one.key for one in asked_in(View.FACE_ON)][:2]
    ['sway', 'reverse_pivot']
    """
    return [one for one in asked_faults().values() if one.view is view]
