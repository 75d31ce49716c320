"""What a measure is to whoever propagates its errors: the points it looks at, and the function of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
Points = Mapping[str, NDArray[np.float64]]
Geometry = Callable[[Points, Points], FloatArray]
"""From places now (..., K, 2) and then (..., 1, 2) to values (..., K)."""


class Measurable(Protocol):
    """What a measure looks at, and the function of it."""

    @property
    def needs(self) -> tuple[str, ...]: ...

    @property
    def then(self) -> tuple[str, ...]: ...

    @property
    def turns(self) -> tuple[str, ...]: ...

    @property
    def compute(self) -> Geometry: ...

    @property
    def bends(self) -> bool: ...

    @property
    def cosines(self) -> tuple[Geometry, ...]: ...
