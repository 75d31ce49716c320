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

Form = Literal["across", "lean", "level", "bend"]


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


class _File(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    pairs: tuple[tuple[str, str], ...]
    fault: tuple[AskedFault, ...]


@cache
def _file() -> _File:
    text = (files("kneel.trainer") / "asked.toml").read_text(encoding="utf-8")
    return msgspec.convert(tomllib.loads(text), _File)


@cache
def asked_faults() -> dict[str, AskedFault]:
    """All of them by key, in the order of the answers.

    >>> asked_faults()["sway"].measure
    'pelvis_shift'
    """
    return {one.key: one for one in _file().fault}


def pairs_in(view: View) -> list[tuple[str, str]]:
    """Faults that ship together in one swing of a view.

    >>> pairs_in(View.FACE_ON)
    [('reverse_pivot', 'no_shift')]
    """
    return [pair for pair in _file().pairs if asked_faults()[pair[0]].view is view]


def asked_in(view: View) -> list[AskedFault]:
    """Those that a camera there shows.

    >>> [one.key for one in asked_in(View.FACE_ON)][:2]
    ['sway', 'reverse_pivot']
    """
    return [one for one in asked_faults().values() if one.view is view]
