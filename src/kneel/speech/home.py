"""What goes home is said in plain words: no word of the trade without its plain form, left and right."""

from __future__ import annotations

import re
from functools import partial

from kneel.model import Hand
from kneel.speech.plain import sided

PLAIN = (
    (r"pelvis thrust", "hips toward the ball"),
    (r"pelvis shift", "hips sideways"),
    (r"pelvis lift", "hips up or down"),
    (r"pelvis (tilt|turn)", r"\1 of the hips"),
    (r"hip flexion", "bend at the hip"),
    (r"flexion", "bend"),
    (r"extension", "arching"),
    (r"does not slide", "does not slip"),
    (r"posture loss", "forward bend lost"),
    (r"off its stack", "over the foot"),
    (r"shaft plane", "slope of the club"),
    (r"the pelvis has not", "the hips have not"),
    (r"the pelvis has", "the hips have"),
    (r"the pelvis is", "the hips are"),
    (r"the pelvis starts", "the hips start"),
    (r"the pelvis stays", "the hips stay"),
    (r"the pelvis keeps", "the hips keep"),
    (r"the pelvis turns", "the hips turn"),
    (r"the pelvis tilts", "the hips tilt"),
    (r"the pelvis stops", "the hips stop"),
    (r"the pelvis moves", "the hips move"),
    (r"the pelvis opens", "the hips open"),
    (r"the pelvis goes", "the hips go"),
    (r"pelvises|pelvis", "hips"),
    (r"while it goes to the target", "while going to the target"),
    (r"address shaft line", "line the club lay on at set-up"),
    (r"at (half way (?:back|down))", r"\1"),
    (r"at address", "at set-up"),
    (r"since address", "since set-up"),
    (r"address flex", "bend at set-up"),
    (r"address", "set-up"),
    (r"(toward|to|at|from|nearer) the ball line", r"\1 the ball"),
    (r"ball line", "line of the ball"),
    (r"(lead|trail) ankle’s plumb", r"\1 ankle"),
    (r"(from|off) its plumb", "off the line"),
    (r"(past|inside) its plumb", r"\1 the line"),
    (r"plumb", "upright line"),
    (r"the trunk leans", "the upper body leans"),
    (r"trunk|torso", "upper body"),
    (r"changed its flex", "changed its bend"),
    (r"flexed", "bent"),
    (r"flex", "bend"),
    (r"a static estimate", "reckoned from how the body stands"),
    (r"the body’s mass", "the body’s weight"),
    (r"mass", "weight"),
    (r"in transition", "as the swing changes direction"),
    (r"transition", "change of direction"),
    (r"at delivery", "just before the ball"),
    (r"delivery", "the moment before the ball"),
    (r"backswing", "swing back"),
    (r"downswing", "swing down"),
    (r"takeaway", "start back"),
    (r"posture", "bend from the hips"),
    (r"an early slide", "too early"),
    (r"down[- ]the[- ]line", "along the target line"),
    (r"face[- ]on", "from the front"),
    (r"the clubhead", "the head of the club"),
    (r"clubhead", "head of the club"),
)
"""Words of the trade, each with what stands for it at home; the first that fits a place is taken."""

FORBIDDEN = (
    *("pelvis", "thorax", "trunk", "torso", "address", "transition", "delivery", "takeaway", "plumb"),
    *("flex", "flexion", "extension", "sway", "swaying", "reverse pivot", "early extension", "posture"),
    *("slide", "spin-out", "clubhead", "ball line", "face-on", "down the line", "down-the-line"),
    *("static", "sigma", "checkpoint", "school", "kinematic", "mass", "stance width", "lead", "trail"),
    *("backswing", "downswing", "thrust", "σ"),
)
"""No page that goes home holds one of these words."""


def plain(words: str, hand: Hand) -> str:
    """Words as a student reads them at home.

    >>> plain("The pelvis has drifted 6.4 cm away from the target at the top.", Hand.RIGHT)
    'The hips have drifted 6.4 cm away from the target at the top.'
    >>> plain("The trail knee keeps its address flex.", Hand.LEFT)
    'The left knee keeps its bend at set-up.'
    """
    for pattern, instead in PLAIN:
        end = r"\b" if pattern[-1].isalnum() else ""
        words = re.sub(rf"\b(?:{pattern}){end}", partial(_as, instead), words, flags=re.IGNORECASE)
    return sided(words, hand)


def trade_words(words: str) -> list[str]:
    """Those words of the trade that a text holds.

    >>> trade_words("The trail hip leads the way to the target.")
    ['trail']
    """
    return [word for word in FORBIDDEN if re.search(rf"\b{re.escape(word)}\b", words, re.IGNORECASE)]


def _as(instead: str, found: re.Match[str]) -> str:
    """A replacement that begins as large or small as what it replaces."""
    now = found.expand(instead)
    return now[:1].upper() + now[1:] if found.group(0)[:1].isupper() else now
