"""What is said of the corrected ghost: what it aims at, and why there is none."""

from __future__ import annotations

from kneel.judge import School
from kneel.motion.ghost import Ghost, NoGhost, Why
from kneel.motion.measures import REGISTRY
from kneel.motion.scale import Scale
from kneel.motion.study import Study
from kneel.speech.words import length_words, number, small, with_unit

AN_AIM = "An aim, not a prediction."
TOLD_SINK_CM = 0.3
"""A pelvis that sinks by less is not worth a word."""

_NONE = {
    Why.OTHER: "{title} cannot be shown moved in one picture; the reference figure shows it.",
    Why.NO_WINDOW: "This school has no window for {title} in this swing, so there is nothing to aim at.",
    Why.INSIDE: "{title} is inside its window all along: nothing has to move.",
    Why.REACH: "With {title} in its window this body would not reach: something else has to change with it.",
}


def aim_words(ghost: Ghost, study: Study, frame: int, share: float = 1.0) -> str:
    """The number at a frame, and where it is moved to.

    >>> from kneel.motion.example import example
    >>> from kneel.motion.ghost import AimAt, correct
    >>> ghost = correct(example(), "pelvis_shift", [AimAt(48.0, lo=-2.0)])
    >>> aim_words(ghost, example(), 48)
    'Pelvis shift: −6.1 → −2.0 cm'
    """
    unit = study.unit(ghost.key)
    title = REGISTRY[ghost.key].title
    own = number(float(ghost.own[frame]), unit)
    if abs(ghost.aim[frame] - ghost.own[frame]) < 1e-9:
        return f"{title}: {with_unit(own, unit)}, as it is"
    return f"{title}: {own} → {with_unit(number(ghost.value(frame, share), unit), unit)}"


def sunk_words(ghost: Ghost, study: Study) -> str:
    """By how much the pelvis has to come down for the legs to reach; empty where it hardly does.

    >>> from kneel.motion.example import example
    >>> from kneel.motion.ghost import AimAt, correct
    >>> sunk_words(correct(example(), "pelvis_shift", [AimAt(48.0, lo=-2.0)]), example())
    ''
    """
    unit = _length_unit(study)
    per_cm = 1.0 / study.scale.cm_per_unit if isinstance(study.scale, Scale) else 1.0
    if ghost.deepest < TOLD_SINK_CM * per_cm:
        return ""
    return f"The pelvis sinks by up to {length_words(ghost.deepest, None, unit)} for the legs to reach."


def no_ghost_words(none: NoGhost, key: str, study: Study) -> str:
    """Why there is no ghost, in a sentence.

    >>> from kneel.motion.example import example
    >>> no_ghost_words(NoGhost(Why.INSIDE), "pelvis_shift", example())
    'Pelvis shift is inside its window all along: nothing has to move.'
    """
    title = REGISTRY[key].title
    if none.why is Why.POINTS:
        return none.reason
    if none.why is Why.SINKS:
        deep = length_words(none.sunk, None, _length_unit(study))
        return (
            f"With {small(title)} in its window the legs would not reach: the pelvis would have to sink by "
            f"up to {deep}. Something else has to change with it."
        )
    words = _NONE[none.why]
    return words.format(title=title if words.startswith("{title}") else small(title))


def _length_unit(study: Study) -> str:
    return study.scale.unit if isinstance(study.scale, Scale) else "cm"


def figure_words(school: School) -> tuple[str, str]:
    """What the reference figure is, and what it is not.

    >>> from kneel.judge.knowledge import shipped
    >>> figure_words(shipped().school("centred"))[0]
    'Reference figure: this build in the centred pattern'
    """
    return (
        f"Reference figure: this build in the {small(school.title)} pattern",
        "In step with the swing at its checkpoints. A pattern, not a prediction.",
    )
