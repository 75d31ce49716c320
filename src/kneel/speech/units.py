"""In what lengths are told. All that is measured, judged, compared and kept is in centimetres (or stance
widths); only what is said converts.
"""

from __future__ import annotations

CM_PER_INCH = 2.54

_told = {"cm": "cm"}


def tell_lengths_in(unit: str) -> None:
    """Have lengths said in ``cm`` or ``in`` from now on, wherever this process says them."""
    _told["cm"] = unit


def spoken_unit(unit: str) -> str:
    """The unit in which something of ``unit`` is said.

    >>> spoken_unit("cm"), spoken_unit("stance")
    ('cm', 'stance')
    """
    return _told.get(unit, unit)


def spoken(value: float, unit: str) -> float:
    """A value of ``unit`` in the unit in which it is said; an inch is 2.54 cm, exactly.

    >>> tell_lengths_in("in")
    >>> spoken(5.08, "cm"), spoken_unit("cm"), spoken(30.0, "deg")
    (2.0, 'in', 30.0)
    >>> tell_lengths_in("cm")
    """
    return value / CM_PER_INCH if spoken_unit(unit) != unit else value
