"""Many narrow-banded systems at once: factor, solve, and the diagonal of the inverse.

C independent symmetric systems of T unknowns each (half bandwidth H) are laid
end to end in one banded matrix, so that LAPACK factors them in one call. The
diagonal of the inverse follows from the factor by the recurrence of
Takahashi, Fagan and Chin (1973), "Formation of a sparse bus impedance matrix
and its application to short circuit study".
"""

from __future__ import annotations

import importlib.machinery
import importlib.util
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


def _lapack() -> Any:
    """LAPACK as SciPy ships it, by itself.

    ``scipy.linalg`` loads some 200 modules around it (other array libraries,
    documentation), which takes longer than a whole analysis. Where the file
    is not where it is expected, the package does.
    """
    name = "scipy.linalg._flapack"
    spec = importlib.util.find_spec("scipy")
    if name not in sys.modules and spec is not None and spec.submodule_search_locations:
        folder = Path(spec.submodule_search_locations[0]) / "linalg"
        for suffix in importlib.machinery.EXTENSION_SUFFIXES:
            path = folder / f"_flapack{suffix}"
            if path.is_file():
                loader = importlib.machinery.ExtensionFileLoader(name, str(path))
                found = importlib.util.spec_from_file_location(name, path, loader=loader)
                assert found is not None
                module = importlib.util.module_from_spec(found)
                loader.exec_module(module)
                # SciPy itself takes this one when somebody asks for the rest.
                sys.modules[name] = module
                break
    if name in sys.modules:
        return sys.modules[name]
    from scipy.linalg import lapack

    return lapack


lapack = _lapack()


@dataclass(frozen=True)
class Factor:
    """Cholesky factor of C systems of T unknowns: ``bands`` is (H+1, C*T), lower form."""

    bands: FloatArray
    count: int
    length: int

    def solve(self, rhs: FloatArray) -> FloatArray:
        """Solve all systems; ``rhs`` is (C, T) or (C, T, K), and so is the answer."""
        flat = np.ascontiguousarray(rhs).reshape(self.count * self.length, -1)
        answer, info = lapack.dpbtrs(self.bands, flat, lower=1)
        if info != 0:
            raise np.linalg.LinAlgError(f"banded solve failed ({info})")
        return np.asarray(answer).reshape(rhs.shape)

    def inverse_column(self, index: int, system: int) -> FloatArray:
        """Column ``index`` of the inverse of one system, (T,)."""
        first = system * self.length
        own = np.ascontiguousarray(self.bands[:, first : first + self.length])
        unit = np.zeros(self.length)
        unit[index] = 1.0
        return Factor(own, 1, self.length).solve(unit[None])[0]

    def spread(self, lots: FloatArray, system: int) -> FloatArray:
        """Turn standard normal numbers (T, K) into draws from one system's inverse as covariance, (T, K)."""
        first = system * self.length
        own = np.asfortranarray(self.bands[:, first : first + self.length])
        answer, info = lapack.dtbtrs(own, lots, uplo="L", trans="T")
        if info != 0:
            raise np.linalg.LinAlgError(f"banded solve failed ({info})")
        return np.asarray(answer)

    def inverse_diagonal(self) -> FloatArray:
        """Diagonal of every inverse, (C, T), without forming the inverse."""
        low = self.bands.reshape(-1, self.count, self.length)
        d = np.ascontiguousarray(low[0].T)
        below = [np.ascontiguousarray(band.T) / d for band in low[1:]]
        pivot = 1.0 / (d * d)
        return _narrow_inverse(pivot, *below) if len(below) == 2 else _wide_inverse(pivot, np.stack(below, 1))


def _narrow_inverse(pivot: FloatArray, l1: FloatArray, l2: FloatArray) -> FloatArray:
    """The recurrence for half bandwidth 2, written out; all (T, C), the answer (C, T)."""
    length, count = pivot.shape
    zero = np.zeros(count)
    out = np.empty((length, count))
    # Entries (j+1,j+1), (j+2,j+1), (j+2,j+2) of the inverse, carried backward.
    here, beside, beyond = zero, zero, zero
    for j in range(length - 1, -1, -1):
        a, b = l1[j], l2[j]
        far = -(a * beside + b * beyond)
        near = -(a * here + b * beside)
        diagonal = pivot[j] - (a * near + b * far)
        out[j] = diagonal
        here, beside, beyond = diagonal, near, here
    return np.ascontiguousarray(out.T)


def _wide_inverse(pivot: FloatArray, low: FloatArray) -> FloatArray:
    """The recurrence for any half bandwidth H: ``pivot`` (T, C), ``low`` (T, H, C); the answer (C, T)."""
    length, reach, count = low.shape
    out = np.empty((length, count))
    # Rows and columns j+1 .. j+H of the inverse, carried backward in two sheets by turns.
    window, following = np.zeros((reach, reach, count)), np.zeros((reach, reach, count))
    for j in range(length - 1, -1, -1):
        part = low[j]
        near = -np.add.reduce(part[:, None] * window)
        diagonal = pivot[j] - np.add.reduce(part * near)
        out[j] = diagonal
        following[0, 0] = diagonal
        following[0, 1:] = following[1:, 0] = near[:-1]
        following[1:, 1:] = window[:-1, :-1]
        window, following = following, window
    return np.ascontiguousarray(out.T)


def factor(bands: FloatArray) -> Factor:
    """Factor C positive definite banded systems.

    ``bands`` is (H+1, C, T) in lower form: row 0 the diagonals, row k the k-th
    subdiagonals, whose last k entries are ignored. Raises ``LinAlgError``
    where a system is not positive definite.

    >>> bands = np.array([[[4.0, 5.0]], [[2.0, 0.0]]])
    >>> factor(bands).solve(np.array([[[8.0], [7.0]]]))[0, :, 0]
    array([1.625, 0.75 ])
    """
    rows, count, length = bands.shape
    joined = bands.copy()
    for k in range(1, rows):
        joined[k, :, -k:] = 0.0
    done, info = lapack.dpbtrf(joined.reshape(rows, count * length), lower=1)
    if info != 0:
        raise np.linalg.LinAlgError(f"not positive definite at {info}")
    return Factor(np.asarray(done), count, length)
