"""How bodies are built: lengths as shares of stature, by a table and with people's spread.

The table is another one than the program's own (``kneel.motion.body``), so that a scale taken from
stature is held against bodies it does not know: de Leva 1996, "Adjustments to Zatsiorsky–Seluyanov's
segment inertia parameters", *J Biomech* 29:1223, mean joint-to-joint lengths (1741 and 1735 mm tall; masses
as in the project's list of outside checks, lengths from memory).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

TOGETHER, APART = 0.02, 0.015
"""Spread of legs, arms and widths: what both bones of a limb share, and what each has of its own, relative;
a leg then varies by 2.3 % of itself among people of one stature (from memory)."""


class Physique(StrEnum):
    """Whose table of lengths."""

    MAN = "man"
    WOMAN = "woman"
    CHILD = "child"


@dataclass(frozen=True)
class Build:
    """Lengths between joints as shares of stature; ``head`` is its size against the usual.

    ``trunk`` reaches from the middle of the hips to the middle of the shoulders, ``palm`` from the wrist to
    the middle of the closed hand; ``hips`` and ``shoulders`` are the distances of the two joints.
    """

    thigh: float = 0.2425
    shank: float = 0.2529
    trunk: float = 0.2850
    upper_arm: float = 0.1618
    forearm: float = 0.1545
    palm: float = 0.0495
    foot: float = 0.1483
    ankle: float = 0.039
    hips: float = 0.100
    shoulders: float = 0.215
    head: float = 1.0

    def drawn(self, rng: np.random.Generator) -> Build:
        """Somebody of this table: limbs longer or shorter together, the trunk making up for the legs."""
        leg, arm, wide = 1 + rng.normal(0, TOGETHER, 3)
        own = 1 + rng.normal(0, APART, 7)
        thigh, shank = self.thigh * leg * own[0], self.shank * leg * own[1]
        return replace(
            self,
            thigh=thigh,
            shank=shank,
            trunk=self.trunk - (thigh + shank - self.thigh - self.shank),
            upper_arm=self.upper_arm * arm * own[2],
            forearm=self.forearm * arm * own[3],
            foot=self.foot * leg * own[4],
            hips=self.hips * wide * own[5],
            shoulders=self.shoulders * wide * own[6],
        )


MAN = Build()
WOMAN = Build(
    thigh=0.2124,
    shank=0.2528,
    trunk=0.2980,
    upper_arm=0.1586,
    forearm=0.1523,
    palm=0.0450,
    foot=0.1316,
    hips=0.104,
    shoulders=0.200,
)
CHILD = Build(
    thigh=0.236,
    shank=0.238,
    trunk=0.292,
    upper_arm=0.168,
    forearm=0.142,
    palm=0.047,
    foot=0.152,
    hips=0.100,
    shoulders=0.205,
    head=1.22,
)
"""A child of about nine (from memory)."""

BUILDS = {Physique.MAN: MAN, Physique.WOMAN: WOMAN, Physique.CHILD: CHILD}
