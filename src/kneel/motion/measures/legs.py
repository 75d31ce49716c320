"""Knees, legs and the lead side's stack."""

from __future__ import annotations

from kneel.model import View
from kneel.motion.measures import geometry as g
from kneel.motion.measures.carried import Carried
from kneel.motion.measures.geometry import (
    SIDES,
    FloatArray,
    Points,
    both,
    length,
    middle,
    worst,
    x,
    y,
)
from kneel.motion.measures.registry import ACROSS, ALONG, Figure, Shape, Unit, measure, otherwise

JUMP = "a recorded jump: 19.1° standing, 103.3° deepest by markers (open data)"

LEG_OF = {"lead": Carried.LEAD_LEG, "trail": Carried.TRAIL_LEG}


def leg_of(side: str) -> tuple[str, str, str]:
    """The joints of a leg, from above.

    >>> leg_of("lead")
    ('lead_hip', 'lead_knee', 'lead_ankle')
    """
    return f"{side}_hip", f"{side}_knee", f"{side}_ankle"


def _flexes(side: str) -> None:
    hip, knee, ankle = leg_of(side)
    figure = Figure(Shape.ANGLE, (hip, knee, ankle))

    @measure(
        f"{side}_knee_flex",
        f"{side.capitalize()} knee flex",
        Unit.ANGLE,
        views=ALONG,
        needs=(hip, knee, ankle),
        positive="bent; 0 is straight",
        hint="0 straight",
        figure=figure,
        lanes={View.DOWN_THE_LINE: 3 if side == "trail" else 4},
        check=JUMP,
        says="180° minus the angle hip–knee–ankle as this view shows it; face-on shows little of it.",
        carried=LEG_OF[side],
    )
    def along(now: Points, _: Points) -> FloatArray:
        return g.flex(now[hip], now[knee], now[ankle])

    @otherwise(f"{side}_knee_flex", views=ACROSS, needs=(hip, knee, ankle), bends=True)
    def across(now: Points, _: Points) -> FloatArray:
        return abs(g.flex(now[hip], now[knee], now[ankle]))

    @measure(
        f"{side}_knee_flex_change",
        f"{side.capitalize()} knee flex since address",
        Unit.ANGLE,
        views=ALONG,
        needs=(hip, knee, ankle),
        then=(hip, knee, ankle),
        positive="more bent than at address",
        figure=figure,
        says="Knee flex less that of address.",
        carried=LEG_OF[side],
    )
    def changed(now: Points, then: Points) -> FloatArray:
        return along(now, then) - along(then, then)

    @otherwise(
        f"{side}_knee_flex_change",
        views=ACROSS,
        needs=(hip, knee, ankle),
        then=(hip, knee, ankle),
        bends=True,
    )
    def changed_across(now: Points, then: Points) -> FloatArray:
        return across(now, then) - across(then, then)


for _side in SIDES:
    _flexes(_side)


@measure(
    "knee_separation",
    "Knees apart",
    Unit.LENGTH,
    views=ACROSS,
    needs=both("knee"),
    positive="apart",
    figure=Figure(Shape.GAP, both("knee")),
)
def knee_separation(now: Points, _: Points) -> FloatArray:
    """Distance of the two knee joints in the picture.

    >>> from kneel.motion.measures.example import across
    >>> knee_separation(across("top"), across("address")).round(1).item()
    29.2
    """
    return length(now["lead_knee"] - now["trail_knee"])


@measure(
    "knee_gap",
    "Knee gap",
    Unit.RATIO,
    views=ACROSS,
    needs=(*both("knee"), *both("ankle")),
    positive="wide",
    figure=Figure(Shape.GAP, both("knee")),
)
def knee_gap(now: Points, _: Points) -> FloatArray:
    """Distance of the knees over that of the ankles.

    >>> from kneel.motion.measures.example import across
    >>> knee_gap(across("top"), across("address")).round(1).item()
    0.7
    """
    return knee_separation(now, now) / length(now["lead_ankle"] - now["trail_ankle"])


@measure(
    "lead_knee_to_ball",
    "Lead knee to the ball",
    Unit.LENGTH,
    views=ACROSS,
    needs=("lead_knee",),
    then=("ball",),
    positive="target side of the ball",
    figure=Figure(Shape.GAP, ("lead_knee", "ball")),
    check="not behind the ball at the top (common practice, no source)",
    carried=Carried.LEAD_KNEE,
)
def lead_knee_to_ball(now: Points, then: Points) -> FloatArray:
    """How far the lead knee is past the ball's place.

    >>> from kneel.motion.measures.example import across
    >>> lead_knee_to_ball(across("top"), across("address")).round(1).item()
    12.0
    """
    return x(now["lead_knee"]) - x(then["ball"])


@measure(
    "lead_knee_to_heel",
    "Lead knee to the lead heel",
    Unit.LENGTH,
    views=ACROSS,
    needs=("lead_knee", "lead_heel"),
    positive="target side of the heel",
    figure=Figure(Shape.GAP, ("lead_knee", "lead_heel")),
    carried=Carried.LEAD_KNEE,
)
def lead_knee_to_heel(now: Points, _: Points) -> FloatArray:
    """How far the lead knee is past the lead heel.

    >>> from kneel.motion.measures.example import across
    >>> lead_knee_to_heel(across("top"), across("address")).round(1).item()
    -10.0
    """
    return x(now["lead_knee"]) - x(now["lead_heel"])


@measure(
    "lead_knee_float",
    "Lead knee past the ankle",
    Unit.LENGTH,
    views=ACROSS,
    needs=("lead_knee", "lead_ankle"),
    positive="toward the target",
    hint="+ to target",
    figure=Figure(Shape.GAP, ("lead_knee", "lead_ankle")),
    carried=Carried.LEAD_KNEE,
)
def lead_knee_float(now: Points, _: Points) -> FloatArray:
    """How far the lead knee is past the lead ankle.

    >>> from kneel.motion.measures.example import across
    >>> lead_knee_float(across("top"), across("address")).round(1).item()
    -13.0
    """
    return x(now["lead_knee"]) - x(now["lead_ankle"])


@measure(
    "trail_knee_drift",
    "Trail knee drift",
    Unit.LENGTH,
    views=ACROSS,
    needs=("trail_knee",),
    then=("trail_knee",),
    positive="toward the target",
    hint="+ to target",
    figure=Figure(Shape.PLUMB, ("trail_knee",)),
    carried=Carried.TRAIL_KNEE,
)
def trail_knee_drift(now: Points, then: Points) -> FloatArray:
    """The trail knee, sideways from address.

    >>> from kneel.motion.measures.example import across
    >>> trail_knee_drift(across("top"), across("address")).round(1).item()
    -3.0
    """
    return x(now["trail_knee"]) - x(then["trail_knee"])


@measure(
    "knee_level",
    "Knee level",
    Unit.LENGTH,
    views=ACROSS,
    needs=both("knee"),
    positive="trail knee higher",
    figure=Figure(Shape.SEGMENT, both("knee")),
)
def knee_level(now: Points, _: Points) -> FloatArray:
    """Height of the trail knee over the lead knee.

    >>> from kneel.motion.measures.example import across
    >>> knee_level(across("top"), across("address")).round(1).item()
    3.0
    """
    return y(now["trail_knee"]) - y(now["lead_knee"])


STACKED = {"shoulder": Carried.TRUNK, "hip": Carried.PELVIS_ACROSS, "knee": Carried.LEAD_KNEE}


def _stack(joint: str) -> None:
    @measure(
        f"lead_stack_{joint}",
        f"Lead {joint} over the ankle",
        Unit.LENGTH,
        views=ACROSS,
        needs=(f"lead_{joint}", "lead_ankle"),
        positive="target side of the ankle",
        hint="+ to target",
        figure=Figure(Shape.PLUMB, ("lead_ankle",)),
        says=f"Horizontal offset of the lead {joint} from the lead ankle.",
        carried=STACKED[joint],
    )
    def offset(now: Points, _: Points) -> FloatArray:
        return x(now[f"lead_{joint}"]) - x(now["lead_ankle"])


for _joint in ("shoulder", "hip", "knee"):
    _stack(_joint)


@measure(
    "lead_stack",
    "Lead side off its stack",
    Unit.LENGTH,
    views=ACROSS,
    needs=("lead_shoulder", "lead_hip", "lead_knee", "lead_ankle"),
    bends=True,
    positive="target side of the ankle",
    hint="+ to target",
    figure=Figure(Shape.SEGMENT, ("lead_shoulder", "lead_hip", "lead_knee", "lead_ankle")),
    check="near one vertical at impact (common practice, no source)",
)
def lead_stack(now: Points, _: Points) -> FloatArray:
    """Horizontal offset from the lead ankle of lead shoulder, hip or knee, whichever is farthest off.

    >>> from kneel.motion.measures.example import across
    >>> lead_stack(across("top"), across("address")).round(1).item()
    -27.0
    """
    return worst(*(x(now[f"lead_{joint}"]) - x(now["lead_ankle"]) for joint in ("shoulder", "hip", "knee")))


def _lined(side: str) -> None:
    hip, knee, ankle = leg_of(side)
    outward = 1.0 if side == "lead" else -1.0

    @measure(
        f"{side}_leg_line",
        f"{side.capitalize()} knee off the leg's line",
        Unit.LENGTH,
        views=ACROSS,
        needs=(hip, knee, ankle),
        positive="outside the line",
        hint="+ outside",
        figure=Figure(Shape.SEGMENT, (hip, knee, ankle)),
        says=f"How far the {side} knee lies outside the line from hip to ankle.",
    )
    def line(now: Points, _: Points) -> FloatArray:
        share = (y(now[knee]) - y(now[ankle])) / (y(now[hip]) - y(now[ankle]))
        return outward * (x(now[knee]) - x(now[ankle]) - share * (x(now[hip]) - x(now[ankle])))


for _side in SIDES:
    _lined(_side)


@measure(
    "lead_leg_length",
    "Lead hip to ankle",
    Unit.LENGTH,
    views=ACROSS,
    needs=("lead_hip", "lead_ankle"),
    positive="long",
    figure=Figure(Shape.SEGMENT, ("lead_hip", "lead_ankle")),
)
def lead_leg_length(now: Points, _: Points) -> FloatArray:
    """Distance of the lead hip from the lead ankle: longest when the leg is straight.

    >>> from kneel.motion.measures.example import across
    >>> lead_leg_length(across("top"), across("address")).round(1).item()
    83.7
    """
    return length(now["lead_hip"] - now["lead_ankle"])


def _forward(side: str) -> None:
    knee = f"{side}_knee"

    @measure(
        f"{side}_knee_forward",
        f"{side.capitalize()} knee forward",
        Unit.LENGTH,
        views=ALONG,
        needs=(knee,),
        then=(knee,),
        positive="toward the ball",
        hint="+ to the ball",
        figure=Figure(Shape.PLUMB, (knee,)),
        says=f"The {side} knee toward the ball since address.",
    )
    def forward(now: Points, then: Points) -> FloatArray:
        return x(now[knee]) - x(then[knee])


for _side in SIDES:
    _forward(_side)


@measure(
    "knees_forward",
    "Knees forward",
    Unit.LENGTH,
    views=ALONG,
    needs=both("knee"),
    then=both("knee"),
    positive="toward the ball",
    hint="+ to the ball",
    figure=Figure(Shape.PLUMB, both("knee")),
)
def knees_forward(now: Points, then: Points) -> FloatArray:
    """Middle of both knees toward the ball since address.

    >>> from kneel.motion.measures.example import along
    >>> knees_forward(along("impact"), along("address")).round(1).item()
    -1.5
    """
    return x(middle(now, "knee")) - x(middle(then, "knee"))
