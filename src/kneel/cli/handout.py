"""``kneel handout SWING``: the page that goes home, as PDF or HTML, and the slow clip."""

from __future__ import annotations

import argparse
import datetime
from pathlib import Path

from kneel.book import book_url, open_book
from kneel.book.index.indexing import day_of
from kneel.cli.loading import analysed_as, load
from kneel.cli.outputs import Output, demand_outputs
from kneel.disk import write_bytes
from kneel.handout.making import Home, known_of, make_clip, make_content
from kneel.handout.page import html_of, pdf_of
from kneel.judge import known
from kneel.model import UsageError
from kneel.practice.judging import judge_swing


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
    study = analysed_as(loaded, asked)
    reading = judge_swing(study, known().school(loaded.swing.school), loaded.swing)
    clip = loaded.stretch.path if loaded.stretch is not None else None
    swing = loaded.swing if asked.name is None else loaded.swing.given(golfer=asked.name)
    home = Home(swing, study, reading, clip, day_of(clip) if clip else datetime.date.today())
    if not asked.no_book:
        home = _from_book(home)
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
