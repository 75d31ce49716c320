"""``kneel handout SWING``: the page that goes home, as PDF or HTML, and the slow clip."""

from __future__ import annotations

import argparse
import datetime
import sys
from pathlib import Path

from kneel.book import book_url, open_book
from kneel.book.index.indexing import day_of
from kneel.cli.loading import analysed_as, load
from kneel.cli.outputs import Output, demand_outputs
from kneel.cli.space import alone, by_both_as_kept
from kneel.compare.views import judge_views
from kneel.disk import write_bytes
from kneel.handout.making import Home, known_of, make_clip, make_content, pictured
from kneel.handout.page import html_of, pdf_of
from kneel.judge import known
from kneel.model import UsageError


def run(asked: argparse.Namespace) -> int:
    """Write what was asked for."""
    outputs = [
        *Output.of(asked.pdf, "--pdf"),
        *Output.of(asked.html, "--html"),
        *Output.of(asked.clip, "--clip"),
    ]
    if not outputs:
        raise UsageError("Say what to write: --pdf FILE, --html FILE or --clip FILE.")
    asked.input = asked.swing
    loaded = load(asked, outputs)
    demand_outputs(outputs, [])
    study, both = analysed_as(loaded, asked), None
    clip = loaded.stretch.path if loaded.stretch is not None else None
    try:
        both = by_both_as_kept(loaded, study)
    except UsageError as error:
        print(f"Note: {alone(error)}", file=sys.stderr)
    studies = both.studies if both is not None else (study,)
    study = studies[0]
    reading = judge_views(studies, known().school(loaded.swing.school), loaded.swing)
    swing = loaded.swing if asked.name is None else loaded.swing.given(golfer=asked.name)
    home = Home(swing, study, reading, clip, day_of(clip) if clip else datetime.date.today())
    if not asked.no_book:
        home = _from_book(home)
    if both is not None:
        home = pictured(home, both, asked.fault or "")
    page = None
    for output in outputs:
        with output.writing() as path:
            if output.option == "--clip":
                make_clip(home, path, fault=asked.fault or "")
                continue
            if page is None:
                content = make_content(
                    home,
                    fault=asked.fault or "",
                    academy=asked.academy,
                    note=asked.note,
                    today=datetime.date.today(),
                )
                page = html_of(content)
            raw = pdf_of(page) if output.option == "--pdf" else page.encode("utf-8")
            write_bytes(path, raw, private=True, lasting=False)
    return 0


def _from_book(home: Home) -> Home:
    """With what the Book knows, where there is one."""
    url = book_url()
    if "://" not in url and not Path(url).is_file():
        return home
    book = open_book(url)
    try:
        return known_of(book, home)
    finally:
        book.close()
