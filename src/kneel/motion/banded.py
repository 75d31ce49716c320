"""Many pentadiagonal systems at once: factor, solve, and the diagonal of the inverse.

C independent symmetric systems of T unknowns each (half bandwidth 2) are laid
end to end in one banded matrix, so that LAPACK factors them in one call. The
diagonal of the inverse follows from the factor by the recurrence of
Takahashi, Fagan and Chin (1973), "Formation of a sparse bus impedance matrix
and its application to short circuit study".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import lapack

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Factor:
    """Cholesky factor of C pentadiagonal systems of T unknowns: ``bands`` is (3, C*T), lower form."""

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

    def inverse_diagonal(self) -> FloatArray:
        """Diagonal of every inverse, (C, T), without forming the inverse."""
        low = self.bands.reshape(3, self.count, self.length)
        d = np.ascontiguousarray(low[0].T)
        l1 = np.ascontiguousarray(low[1].T) / d
        l2 = np.ascontiguousarray(low[2].T) / d
        pivot = 1.0 / (d * d)
        zero = np.zeros(self.count)
        out = np.empty((self.length, self.count))
        # Entries (j+1,j+1), (j+2,j+1), (j+2,j+2) of the inverse, carried backward.
        here, beside, beyond = zero, zero, zero
        for j in range(self.length - 1, -1, -1):
            a, b = l1[j], l2[j]
            far = -(a * beside + b * beyond)
            near = -(a * here + b * beside)
            diagonal = pivot[j] - (a * near + b * far)
            out[j] = diagonal
            here, beside, beyond = diagonal, near, here
        return np.ascontiguousarray(out.T)


def factor(bands: FloatArray) -> Factor:
    """Factor C positive definite pentadiagonal systems.

    ``bands`` is (3, C, T) in lower form: row 0 the diagonals, row k the k-th
    subdiagonals, whose last k entries are ignored. Raises ``LinAlgError``
    where a system is not positive definite.
    """
    _, count, length = bands.shape
    joined = bands.copy()
    joined[1, :, -1] = 0.0
    joined[2, :, -2:] = 0.0
    done, info = lapack.dpbtrf(joined.reshape(3, count * length), lower=1)
    if info != 0:
        raise np.linalg.LinAlgError(f"not positive definite at {info}")
    return Factor(np.asarray(done), count, length)
