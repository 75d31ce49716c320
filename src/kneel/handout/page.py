"""Pages as HTML that needs no other file, and as PDF: a template each, one sheet under them."""

from __future__ import annotations

import base64
import io
from functools import cache
from importlib.resources import files
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape

from kneel.handout.classroom import ClassPage
from kneel.handout.content import Content, Small
from kneel.handout.plan import PlanPage
from kneel.handout.stills import HIGH_PX, WIDE_PX
from kneel.model import UsageError
from kneel.motion.drawn import Shaped
from kneel.speech.words import number, small

FONTS = {400: "Inter-Regular.otf", 600: "Inter-SemiBold.otf"}
LETTERS = {"\n", *map(chr, range(ord(" "), ord("~") + 1)), *"–—‘’“”…±×−°→≤≥·"}
"""What pages are written with: their type is cut once, and anew only for names that need more."""

ABOVE_PX, FOOT_PX = 46.0, 26.0
CHART = (336.0, 150.0)
LETTER_PX = 14.5
"""How wide a letter of a label is at most, px of the still."""


def html_of(content: Content) -> str:
    """The page, with pictures and type inside."""
    return _rendered("page.html", content=content, drawn=drawn, label=label, chart=chart(content.small))


def plan_html(page: PlanPage) -> str:
    """The page of a plan, with its type inside."""
    return _rendered("plan.html", page=page)


def class_html(page: ClassPage) -> str:
    """The sheet of a class, with its type inside."""
    return _rendered("class.html", page=page)


def _rendered(name: str, **what: Any) -> str:
    """A template with the shipped type inside."""
    template = _environment().get_template(name)
    css = (files("kneel.handout") / "page.css").read_text(encoding="utf-8")
    used = template.render(css=css, fonts=(), **what)
    return template.render(css=css, fonts=_fonts(used), **what)


def ready() -> None:
    """Load what lays out pages, and the type of all that are in English, so that the first is there as soon
    as any other. Raises ``UsageError`` as :func:`pdf_of` does.
    """
    _environment()
    _fonts("")
    pdf_of("<p>.</p>")


def pdf_of(html: str) -> bytes:
    """The page as PDF, A4. Raises ``UsageError`` where the system lacks what lays out text."""
    try:
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError as error:
        raise UsageError(
            "A PDF needs the system library Pango, which is missing; on Debian install libpango-1.0-0 and "
            "libpangoft2-1.0-0, or write HTML."
        ) from error
    # Everything is in the page itself; whatever names a file or an address is not fetched.
    fetcher = URLFetcher(allowed_protocols=("data",))
    written: bytes = HTML(string=html, url_fetcher=fetcher).write_pdf()
    return written


@cache
def _environment() -> Environment:
    made = Environment(
        loader=PackageLoader("kneel.handout", "."),
        autoescape=select_autoescape(["html"]),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters["small"] = small
    return made


def _fonts(text: str) -> list[tuple[int, str]]:
    """The shipped type by weight, with the letters of a text besides the usual ones."""
    letters = "".join(sorted(LETTERS.union(text)))
    return [(weight, _subset(face, letters)) for weight, face in FONTS.items()]


@cache
def _subset(name: str, used: str) -> str:
    """These letters of a shipped type, as a data address."""
    from fontTools import subset
    from fontTools.ttLib import TTFont

    source = (files("kneel.fonts") / name).read_bytes()
    font = TTFont(io.BytesIO(source), lazy=True)
    options = subset.Options(flavor="woff2", layout_features=["kern", "tnum"], notdef_outline=True)
    cutter = subset.Subsetter(options)
    cutter.populate(text=used)
    cutter.subset(font)
    font.flavor = "woff2"
    buffer = io.BytesIO()
    font.save(buffer)
    return "data:font/woff2;base64," + base64.b64encode(buffer.getvalue()).decode("ascii")


def drawn(shape: Shaped | None) -> list[dict[str, Any]]:
    """A shape as lines to draw over a still, each dark on light so that grey paper shows it."""
    if shape is None:
        return []
    lines: list[dict[str, Any]] = []
    for x, _ in shape.plumbs:
        top = shape.at[1] - ABOVE_PX * 2
        lines.append({"a": (x, top), "b": (x, HIGH_PX - FOOT_PX), "wide": 3.4})
    lines += [{"a": a, "b": b, "wide": 2.4, "dash": "9 7"} for a, b in shape.faint]
    lines += [{"a": a, "b": b, "wide": 3.4} for a, b in shape.firm]
    if shape.gap is not None:
        lines.append({"a": shape.gap[0], "b": shape.gap[1], "wide": 8.0})
    return [{"dash": "none"} | line for line in lines]


def label(shape: Shaped | None, words: str) -> dict[str, Any] | None:
    """Where a distance is written: beside it, on the side away from its line."""
    if shape is None or shape.gap is None or not words:
        return None
    (from_x, _), (x, y) = shape.gap
    wide = LETTER_PX * len(words) + 14
    left = x + 14 if x >= from_x else x - 14 - wide
    left = min(max(left, 4), WIDE_PX - wide - 4)
    return {"x": left, "y": y - 17, "wide": wide, "words": words}


def chart(small: Small | None) -> dict[str, Any] | None:
    """Where the points of the small picture lie."""
    if small is None:
        return None
    width, height = CHART
    values = [value for _, value in small.points]
    edges = [edge for edge in (small.low, small.high) if edge is not None]
    near = min(edges, key=lambda edge: min(abs(edge - v) for v in values), default=None)
    low, high = min(values), max(values)
    if near is not None:
        reach = 0.35 * max(high - low, abs(near - low), abs(near - high), 1e-6)
        far = near + reach if near == small.low else near - reach
        low, high = min(low, near, far), max(high, near, far)
    room = 0.14 * max(high - low, 1e-6)
    low, high = low - room, high + room

    def y(value: float) -> float:
        return 34 + (height - 64) * (high - value) / (high - low)

    step = (width - 90) / max(len(small.points) - 1, 1)
    band = None
    if edges:
        top = y(min(small.high, high)) if small.high is not None else y(high)
        bottom = y(max(small.low, low)) if small.low is not None else y(low)
        band = {"top": top, "high": max(bottom - top, 0.0)}
    return {
        "width": width,
        "height": height,
        "band": band,
        "points": [
            {"x": 45 + k * step, "y": y(value), "day": day, "value": number(value, small.unit)}
            for k, (day, value) in enumerate(small.points)
        ],
    }
