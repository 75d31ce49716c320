"""What each token says: its value, a remark, whether it is a guess, why, and whether an answer is wanted."""

from __future__ import annotations

from dataclasses import dataclass

from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import CLUB_TITLES, KIND_TITLES, VIEW_TITLES
from kneel.desk.widgets.language import tr
from kneel.model import KnownLength, NoScale, Stature, TypedScale
from kneel.motion.analysis import camera_moved_cm
from kneel.motion.measures.lines import LINES
from kneel.motion.scale import Scale
from kneel.motion.viewed import Question


@dataclass(frozen=True)
class TokenLabel:
    """A token's words; ``shown`` is whether it stands on the strip at all."""

    value: str
    remark: str = ""
    guessed: bool = False
    why: str = ""
    asks: bool = False
    shown: bool = True


def told_of(opened: OpenSwing) -> dict[str, TokenLabel]:
    """All tokens of the open swing, in their order."""
    swing = opened.swing
    guessed = set(swing.guessed)
    return {
        "view": _view(opened, guessed="view" in guessed),
        "hand": _hand(opened),
        "club": TokenLabel(tr(CLUB_TITLES[swing.club.value]), guessed="club" in guessed),
        "kind": TokenLabel(tr(KIND_TITLES[swing.kind.value]), guessed="kind" in guessed),
        "scale": _scale(opened, guessed="scale" in guessed),
        "capture_rate": _rate(opened, guessed="capture_rate" in guessed),
        "ball": _ball(opened),
        "near": _near(opened),
        "steadied": _camera(opened),
        "lines": _lines(opened),
    }


def _view(opened: OpenSwing, *, guessed: bool) -> TokenLabel:
    asks = opened.question in (Question.VIEW, Question.BEHIND)
    return TokenLabel(tr(VIEW_TITLES[opened.swing.view.value]), "?" if asks else "", guessed, asks=asks)


def _hand(opened: OpenSwing) -> TokenLabel:
    """Hand and sides together: a mirrored clip looks like the other hand's."""
    swing, analysis = opened.swing, opened.analysis
    value = tr(swing.hand.value.title())
    mirrored = analysis.mirrored if analysis else bool(swing.mirrored)
    if opened.question in (Question.LEFT, Question.MIRRORED):
        return TokenLabel(value, tr("mirrored clip?"), guessed="hand" in swing.guessed, asks=True)
    if opened.question is Question.HAND:
        return TokenLabel(value, "?", guessed=True, asks=True)
    if mirrored:
        return TokenLabel(value, tr("mirrored"), guessed=swing.mirrored is None)
    return TokenLabel(value, guessed="hand" in swing.guessed)


def _scale(opened: OpenSwing, *, guessed: bool) -> TokenLabel:
    swing, analysis = opened.swing, opened.analysis
    source, lost = _source(swing.scale, guessed=guessed)
    if analysis is None or not isinstance(analysis.scale, Scale):
        return TokenLabel(tr("none yet"), source, guessed=guessed)
    scale = analysis.scale
    if scale.unit == "stance":
        return TokenLabel(
            tr("stance widths"), tr("no length known: no cm, windows are guesses"), guessed=guessed
        )
    value = f"{scale.per_px * scale.cm_per_unit * 10:.2f} mm/px"
    remark = (
        f"± {scale.relative * 100:.1f} % · {source}"
        if scale.relative < 0.02
        else (f"± {scale.relative * 100:.0f} % · {source}")
    )
    return TokenLabel(value, remark, guessed=guessed, why=lost)


def _source(scale: object, *, guessed: bool) -> tuple[str, str]:
    """Where a scale comes from; and what is lost where nobody has said the golfer's height."""
    if isinstance(scale, Stature):
        if guessed:
            return tr("height unknown"), tr(
                "nobody has said the student’s height: every length is ± 6 % or so"
            )
        return tr("height %g cm") % scale.stature_cm, ""
    if isinstance(scale, KnownLength):
        return tr(scale.what), ""
    if isinstance(scale, TypedScale):
        return tr("typed in"), ""
    assert isinstance(scale, NoScale)
    return tr("no length known"), ""


def _rate(opened: OpenSwing, *, guessed: bool) -> TokenLabel:
    store, rate, analysis = opened.store, opened.swing.capture_rate, opened.analysis
    stored = store.info.rate_stored if store else 0.0
    filmed = store.info.filmed if store else None
    why = filmed.why if filmed and filmed.rate == rate else ""
    if analysis is not None and analysis.slowed:
        slowed = analysis.slowed
        remark = tr("looks %.3g times slowed") % slowed.times if slowed.rates else tr("looks too quick")
        shown = stored if slowed.rates or rate is None else rate
        return TokenLabel(f"{shown:.3g} /s", remark, guessed=True, why=why, asks=True)
    if rate is None or abs(rate - stored) < 0.5:
        return TokenLabel(f"{stored:.3g} /s", tr("as stored"), guessed, why)
    if store and store.info.pace is not None:
        return TokenLabel(f"{rate:.3g} /s", tr("slowed in part"), guessed, why)
    return TokenLabel(f"{rate:.3g} /s", tr("stored %.3g") % stored, guessed, why)


def _ball(opened: OpenSwing) -> TokenLabel:
    """Whether the ball is seen, and by whom."""
    swing, analysis = opened.swing, opened.analysis
    if any(mark.point == "ball" for mark in swing.marks):
        return TokenLabel(tr("marked"))
    if analysis is not None and "ball" in analysis.tracks:
        return TokenLabel(tr("found"), guessed=True)
    return TokenLabel(tr("not seen"), guessed=True)


def _near(opened: OpenSwing) -> TokenLabel:
    """Which of several people is meant: only where that is open, or was said."""
    swing = opened.swing
    shows = swing.looked and (swing.near is not None or opened.looked.choice_open)
    if swing.near is None:
        return TokenLabel(tr("found"), tr("nearest the middle"), guessed=True, shown=shows)
    return TokenLabel(tr("pointed out"), shown=shows)


def _camera(opened: OpenSwing) -> TokenLabel:
    camera, analysis = opened.camera, opened.analysis
    if camera is None:
        return TokenLabel("", shown=False)
    if not opened.swing.steadied:
        return TokenLabel(tr("stood still"))
    if analysis is None or not analysis.tracks:
        return TokenLabel(tr("moves"), guessed=True)
    if camera.by_feet:
        return TokenLabel(tr("not told"), guessed=True)
    moved = camera_moved_cm(camera, analysis.tracks, analysis.px_per_m)
    if moved is None:
        return TokenLabel(tr("moves"), guessed=True)
    return TokenLabel(tr("moved %.0f cm") % moved if moved >= 1 else tr("moved a little"), guessed=True)


def _lines(opened: OpenSwing) -> TokenLabel:
    names = [tr(LINES[line].title) for line in opened.sight.lines if line in LINES]
    if len(names) > 1:
        return TokenLabel(tr("%d shown") % len(names))
    return TokenLabel(names[0] if names else tr("the finding’s"))
