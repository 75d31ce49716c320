"""Hostile tries at the Book: damaged files, spoilt parcels, odd knowledge, odd addresses.

``python -m tests.fuzzing.book_tries`` is part of ``make fuzz``. Each try ends well or in one sentence; what
is refused leaves nothing behind, and a good copy takes the place of any damaged Book.
"""

from __future__ import annotations

import os
import random
import shutil
import sys
import tempfile
import zipfile
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path

from kneel.book import open_book
from kneel.book.db.opening import lies_at
from kneel.book.exchange import exporting, importing
from kneel.book.maintenance import copies
from kneel.book.repository import students
from kneel.judge.knowledge import load, shipped
from kneel.model import KneelError
from kneel.practice import catalogue
from tests.fuzzing.book_kills import lesson_folder

WHOLE = {"books": 250, "parcels": 250, "knowledge": 400, "addresses": 300}
SECRET = "s3cret"

Try = Callable[[random.Random, Path], str]


def spoilt(raw: bytes, rng: random.Random) -> bytes:
    """Bytes with some changed, cut out, doubled, zeroed, or the end gone."""
    made = bytearray(raw)
    for _ in range(rng.choice((1, 1, 3, 20))):
        at, length = rng.randrange(max(len(made), 1)), rng.choice((1, 8, 512, 4096))
        how = rng.randrange(5)
        if how == 0:
            made[at : at + 1] = rng.randbytes(1)
        elif how == 1:
            made[at : at + length] = rng.randbytes(length)
        elif how == 2:
            made[at : at + length] = bytes(length)
        elif how == 3:
            del made[at : at + length]
        else:
            made = made[: max(at, 1)]
    return bytes(made)


def _books(rng: random.Random, home: Path) -> str:
    """A Book that is damaged: opened and checked or refused, and a good copy takes its place."""
    good = home / "good.sqlite"
    if not good.exists():
        book = open_book(str(home / "first" / "book.sqlite"))
        with book.writing() as db:
            for k in range(40):
                students.save(db, students.named(db, f"Ida {k}")[0], 0)
        copies.back_up(book, good)
        book.close()
    to = home / "now" / "book.sqlite"
    shutil.rmtree(to.parent, ignore_errors=True)
    to.parent.mkdir()
    to.write_bytes(spoilt(good.read_bytes(), rng))
    try:
        book = open_book(str(to))
        try:
            copies.check(book)
        finally:
            book.close()
    except KneelError:
        pass
    found, _ = copies.restore(good, to)
    return "" if found.students == 40 and not found.troubles else f"not replaced: {found}"


def _parcels(rng: random.Random, home: Path) -> str:
    """A parcel that is spoilt: taken in whole, or refused with nothing left."""
    sent = lesson_folder(home)
    whole, bad = home / "whole.zip", home / "bad.zip"
    if not whole.exists():
        with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as packed:
            for path in sorted(sent.rglob("*")):
                if path.is_file():
                    packed.write(path, path.relative_to(sent))
    if rng.random() < 0.5:
        bad.write_bytes(spoilt(whole.read_bytes(), rng))
    else:
        with zipfile.ZipFile(whole) as source, zipfile.ZipFile(bad, "w", zipfile.ZIP_STORED) as packed:
            for info in source.infolist():
                raw = source.read(info)
                odd = info.filename.endswith(exporting.MANIFEST) or rng.random() < 0.2
                name = (
                    info.filename if rng.random() < 0.95 else rng.choice(("../", "./", "/")) + info.filename
                )
                packed.writestr(name, spoilt(raw, rng) if odd else raw)
    shutil.rmtree(home / "other", ignore_errors=True)
    other = open_book(str(home / "other" / "book.sqlite"))
    try:
        importing.take_in(other, bad)
    except KneelError:
        with other.reading() as db:
            known = students.listed(db)
        left = [path for path in (other.folder / importing.FOLDER).rglob("*") if path.is_file()]
        return f"left behind: {left[:1]} {known[:1]}" if left or known else ""
    finally:
        other.close()
    return ""


def _knowledge(rng: random.Random, home: Path) -> str:
    """A file of knowledge that is spoilt: read, or refused with a sentence."""
    folder = rng.choice(("schools", "faults", "drills"))
    root = files("kneel.practice" if folder == "drills" else "kneel.judge") / folder
    source = rng.choice(
        sorted((path for path in root.iterdir() if path.name.endswith(".toml")), key=lambda p: p.name)
    )
    own = home / "own"
    shutil.rmtree(own, ignore_errors=True)
    (own / folder).mkdir(parents=True)
    text = source.read_text()
    lines = text.split("\n")
    for _ in range(rng.choice((1, 2, 5))):
        at = rng.randrange(len(lines))
        odd = rng.choice(
            ("nan", "inf", "-1e300", "[[[[", "''", "{value.x}", "\x00", "9" * 400, "true", "1979-05-27")
        )
        head = lines[at].partition("=")[0]
        lines[at] = rng.choice((f"{head}= {odd}", lines[at] + odd, "", lines[rng.randrange(len(lines))]))
    raw = "\n".join(lines).encode()
    (own / folder / source.name).write_bytes(raw if rng.random() < 0.8 else spoilt(raw, rng))
    try:
        load(own) if folder != "drills" else catalogue.load(shipped(), own)
    except KneelError as error:
        return "" if "\n" not in str(error) else "more than a line"
    return ""


def _addresses(rng: random.Random, home: Path) -> str:
    """An address that is odd: told as a place, or refused without a word of it."""
    kinds = ("sqlite", "sqlite+pysqlite", "postgresql", "mysql", "x", "", "SQLITE")
    hosts = ("", f"me:{SECRET}@", f"me:{SECRET}@host", f"me:{SECRET}@host:99999999", f"[::1:{SECRET}@]", "~")
    tails = (
        "",
        "/",
        "//",
        "/:memory:",
        "/file:x?mode=ro&uri=true",
        f"/{home}/b.sqlite",
        "/\x00",
        "/%00",
        "?x=%",
    )
    url = f"{rng.choice(kinds)}://{rng.choice(hosts)}{rng.choice(tails)}"
    if rng.random() < 0.3:
        url = spoilt(url.encode(), rng).decode("latin-1")
    try:
        if lies_at(url).path is None:
            open_book(url).close()
    except KneelError as error:
        return "" if SECRET not in str(error) and "\n" not in str(error) else f"told too much: {error}"
    return ""


TRIES: dict[str, Try] = {
    "books": _books,
    "parcels": _parcels,
    "knowledge": _knowledge,
    "addresses": _addresses,
}


def tried(kind: str, seed: int, home: Path) -> str:
    """What is wrong with one try; empty where it ended as it should."""
    try:
        return TRIES[kind](random.Random(f"{kind} {seed}"), home)
    except Exception as error:
        return f"{type(error).__name__}: {error}"


def main() -> int:
    """All of them, or one kind and number to be shown."""
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        os.environ["XDG_CACHE_HOME"], os.environ["XDG_DATA_HOME"] = str(home / "cache"), str(home / "data")
        if len(sys.argv) > 2:
            print(tried(sys.argv[1], int(sys.argv[2]), home) or "as it should be")
            return 0
        failed = 0
        for kind, count in WHOLE.items():
            wrong = [f"{kind} {seed}: {words}" for seed in range(count) if (words := tried(kind, seed, home))]
            print(f"{kind}: {count} tries, {len(wrong)} faults", *wrong, sep="\n")
            failed += len(wrong)
        return int(bool(failed))


if __name__ == "__main__":
    sys.exit(main())
