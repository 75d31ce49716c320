"""An instructor's own schools: copied from one that is known, changed window by window, kept as TOML.

A school of one's own stands on another and says only where it differs, so that it follows what it stands on
everywhere else. Its file is laid out like those that come with the program, to be read and argued over.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable, Mapping
from pathlib import Path

from msgspec.structs import replace

from kneel.disk import shown, write_text
from kneel.judge.files import KnowledgeFile, knowledge_file, knowledge_files
from kneel.judge.knowledge import demand_window, in_use, laid_over, shipped
from kneel.judge.records import School, Window
from kneel.model import Club, Kind, KneelError

OWN = "your own"
"""The standing of a window that was set here and says nothing else."""

UNCHANGED = "Nothing was changed."


class ShapingError(KneelError):
    """A school cannot be shaped, read or kept as asked; nothing was changed."""


def copied(of: School, title: str, taken: Iterable[str]) -> School:
    """A school of one's own that stands on ``of`` and differs nowhere yet; its key is none of ``taken``.

    >>> from kneel.judge.knowledge import shipped
    >>> mine = copied(shipped().school("centred"), "Centred, mine", shipped().schools)
    >>> mine.key, mine.based_on, mine.window
    ('centred_mine', 'centred', ())
    """
    key = re.sub(r"[^a-z0-9]+", "_", title.lower()).strip("_") or "mine"
    known, number = set(taken), 2
    whole = key
    while whole in known:
        whole, number = f"{key}_{number}", number + 1
    name = (title.strip() or whole) + (f" {number - 1}" if whole != key else "")
    return School(whole, name, of.creed, (), based_on=of.key)


def shaped(
    school: School,
    whole: School,
    measure: str,
    at: str,
    club: Club | None = None,
    *,
    lo: float | None,
    hi: float | None,
    margin: float | None = None,
    standing: str = OWN,
    fault: str = "",
    kind: Kind | None = None,
) -> School:
    """The own school with other limits on a measure at a checkpoint; without a ``club`` for all of them, with
    a ``fault`` for that alone, with a ``kind`` for that kind of swing.

    ``whole`` is the same school with all it stands on, whose margin stays where none is given. Raises
    :class:`ShapingError` where nothing would be left of the window, or the school has none of this measure to
    take a margin from.

    >>> from kneel.judge.knowledge import shipped
    >>> mine = copied(shipped().school("centred"), "Mine", shipped().schools)
    >>> new = shaped(mine, shipped().school("centred"), "pelvis_shift", "top", lo=-2.5, hi=4.0)
    >>> new.window[0].lo, new.window[0].margin
    (-2.5, 2.0)
    """
    margin = margin_of(whole, measure, at, club, fault, kind) if margin is None else margin
    if lo is None and hi is None:
        raise ShapingError(f"A window needs a limit on one side. {UNCHANGED}")
    if lo is not None and hi is not None and lo >= hi:
        raise ShapingError(f"The lower limit has to lie below the upper one. {UNCHANGED}")
    clubs = () if club is None else (club,)
    kinds = () if kind is None else (kind,)
    window = Window(measure, (at,), margin, lo, hi, clubs, fault, standing, kinds)
    return replace(school, window=(window, *_without(school.window, measure, at, club, fault, kind)))


def margin_of(
    whole: School, measure: str, at: str, club: Club | None = None, fault: str = "", kind: Kind | None = None
) -> float:
    """One step of severity of a measure at a checkpoint: the window's there, else the widest of the measure.
    Raises :class:`ShapingError` where the school has none of it.

    >>> from kneel.judge.knowledge import shipped
    >>> margin_of(shipped().school("centred"), "pelvis_shift", "takeaway")
    3.0
    """
    own = fault_window(whole, fault, measure, at, club, kind) if fault else None
    now = own or whole.find(measure, at, club or Club.IRON, kind=kind or Kind.FULL)
    if now is not None:
        return now.margin
    others = [window.margin for window in whole.window if window.measure == measure]
    if not others:
        raise ShapingError(f"The school asks nothing of this number anywhere. {UNCHANGED}")
    return max(others)


def fault_window(
    whole: School, fault: str, measure: str, at: str, club: Club | None = None, kind: Kind | None = None
) -> Window | None:
    """What decides one fault at a checkpoint where it is not the school's window of the measure: the school's
    for that fault, else the fault's own limits.

    >>> from kneel.judge.knowledge import shipped
    >>> centred = shipped().school("centred")
    >>> fault_window(centred, "unopened_shift", "pelvis_shift", "impact").hi
    10.5
    >>> fault_window(centred, "sway", "pelvis_shift", "top") is None
    True
    """
    checks = in_use().faults[fault].check if fault in in_use().faults else ()
    told = (check.own for check in checks if check.measure == measure and at in check.at)
    own = next((one for one in told if one is not None), None)
    return whole.of_fault(measure, at, club or Club.IRON, fault, kind or Kind.FULL, own)


def restored(
    school: School, measure: str, at: str, club: Club | None = None, fault: str = "", kind: Kind | None = None
) -> School:
    """The own school as what it stands on has it there.

    >>> from kneel.judge.knowledge import shipped
    >>> base = shipped().school("centred")
    >>> mine = copied(base, "Mine", shipped().schools)
    >>> restored(shaped(mine, base, "pelvis_shift", "top", lo=-2.5, hi=4.0), "pelvis_shift", "top") == mine
    True
    """
    return replace(school, window=tuple(_without(school.window, measure, at, club, fault, kind)))


def _without(
    windows: Iterable[Window], measure: str, at: str, club: Club | None, fault: str, kind: Kind | None
) -> Iterable[Window]:
    """Windows less what they say of a measure at a checkpoint, for all faults or for one, of a full swing or
    of a kind; of one club, or of every one.
    """
    for window in windows:
        other = window.measure != measure or window.fault != fault
        if other or at not in window.at or (kind not in window.kind if kind else window.kind):
            yield window
            continue
        kinds = tuple(one for one in window.kind if one is not kind)
        if kinds:
            yield replace(window, at=(at,), kind=kinds)
        rest = tuple(one for one in window.at if one != at)
        if rest:
            yield replace(window, at=rest)
        if club is not None:
            others = tuple(one for one in window.club if one is not club)
            if others or not window.club:
                yield replace(window, at=(at,), club=others)


def whole_of(school: School, own: Mapping[str, School]) -> School:
    """An own school with the windows of what it stands on, one's own or shipped. Raises
    :class:`ShapingError` where that is gone, or stands on the school itself.

    >>> from kneel.judge.knowledge import shipped
    >>> base = shipped().school("centred")
    >>> whole_of(copied(base, "Mine", ()), {}).window == base.window
    True
    """
    under = [school]
    while under[-1].based_on:
        key = under[-1].based_on
        base = own.get(key) or shipped().schools.get(key) or shipped().grounds.get(key)
        if base is None or len(under) > len(own) + 1:
            raise ShapingError(
                f"“{school.title}” stands on a school “{key}” that is not there. Bring that in first."
            )
        under.append(base)
        if key not in own:
            # What was shipped is whole already.
            break
    whole = under.pop()
    while under:
        whole = laid_over(under.pop(), whole)
    return whole


# Files


def as_text(school: School, head: str = "") -> str:
    """The file of a school, laid out as the shipped ones are; ``head`` are the comments it begins with.

    >>> from kneel.judge.knowledge import shipped
    >>> text = as_text(copied(shipped().school("centred"), "Mine", ()))
    >>> from_text(text, "mine.toml").based_on
    'centred'
    """
    rows = [f"key = {_quoted(school.key)}", f"title = {_quoted(school.title)}"]
    rows.append(f"creed = {_quoted(school.creed)}")
    if school.based_on:
        rows.append(f"based_on = {_quoted(school.based_on)}")
    if school.common:
        rows.append("common = true")
    windows = "".join(f"    {_row(window)},\n" for window in school.window)
    rows.append(f"window = [\n{windows}]" if windows else "window = []")
    lead = f"{head.rstrip()}\n" if head.strip() else ""
    return lead + "\n".join(rows) + "\n"


def _row(window: Window) -> str:
    said = [f"measure = {_quoted(window.measure)}", f"at = [{', '.join(map(_quoted, window.at))}]"]
    if window.club:
        said.append(f"club = [{', '.join(_quoted(one.value) for one in window.club)}]")
    if window.kind:
        said.append(f"kind = [{', '.join(_quoted(one.value) for one in window.kind)}]")
    said += [
        f"{name} = {float(value)!r}"
        for name, value in (("lo", window.lo), ("hi", window.hi), ("margin", window.margin))
        if value is not None
    ]
    if window.fault:
        said.append(f"fault = {_quoted(window.fault)}")
    if window.standing != "common practice":
        said.append(f"standing = {_quoted(window.standing)}")
    return "{ " + ", ".join(said) + " }"


def _quoted(text: str) -> str:
    kept = text.replace("\\", "\\\\").replace('"', '\\"')
    kept = "".join(c if c.isprintable() else f"\\u{ord(c):04X}" if ord(c) < 65536 else "" for c in kept)
    return f'"{kept}"'


def from_text(text: str, name: str) -> School:
    r"""A school from its text, each window checked. Raises :class:`KnowledgeError` with the line.

    >>> from_text('key = "mine"\ntitle = "Mine"\ncreed = ""\nwindow = []', "mine.toml").title
    'Mine'
    """
    return _checked(KnowledgeFile(name, shown(name), text))


def _checked(file: KnowledgeFile) -> School:
    school = file.read(School)
    if not re.fullmatch(r"[A-Za-z0-9_-]{1,80}", school.key):
        raise file.wrong("a school's key is of letters, digits, “_” and “-”", "key")
    for window in school.window:
        demand_window(window, file)
    return school


def head_of(text: str) -> str:
    r"""The comments that a file begins with.

    >>> head_of("# mine\nkey = 1\n# later")
    '# mine'
    """
    rows = text.splitlines()
    count = next((k for k, row in enumerate(rows) if row.strip() and not row.startswith("#")), len(rows))
    return "\n".join(rows[:count])


def read_school(path: Path) -> School:
    """A school from any file. Raises :class:`KnowledgeError`.

    >>> from tempfile import TemporaryDirectory
    >>> with TemporaryDirectory() as folder:
    ...     path = Path(folder) / "from a colleague.toml"
    ...     _ = path.write_text(as_text(shipped().school("centred")), "utf-8")
    ...     read_school(path) == shipped().school("centred")
    True
    """
    return _checked(knowledge_file(path, shown(path.name)))


def own_schools(folder: Path) -> dict[str, tuple[School, str]]:
    """The schools in an instructor's own folder, by key, each with its text.

    Raises :class:`KnowledgeError`.

    >>> from tempfile import TemporaryDirectory
    >>> mine = copied(shipped().school("centred"), "Mine", {})
    >>> with TemporaryDirectory() as folder:
    ...     text = keep(Path(folder), mine.key, mine, None)
    ...     own_schools(Path(folder)) == {mine.key: (mine, text)}
    True
    """
    read = ((_checked(file), file.text) for file in knowledge_files(folder, "schools"))
    return {school.key: (school, text) for school, text in read}


def keep(folder: Path, key: str, school: School | None, was: str | None) -> str | None:
    """Write an own school, or with None take its file away; gives its text.

    ``was`` is the text that it was read or written with, None where there was none: where the file is another
    now, somebody else is at it, and nothing is written. A hand's comments at its head stay. Raises
    :class:`ShapingError`.

    >>> from tempfile import TemporaryDirectory
    >>> mine = copied(shipped().school("centred"), "Mine", {})
    >>> with TemporaryDirectory() as folder:
    ...     text = keep(Path(folder), mine.key, mine, None)
    ...     keep(Path(folder), mine.key, None, "what was there before")
    Traceback (most recent call last):
    kneel.judge.shaping.ShapingError: mine.toml was changed elsewhere meanwhile and is left as it is; ...
    """
    path = folder / "schools" / f"{key}.toml"
    try:
        now = path.read_text(encoding="utf-8") if path.is_file() else None
        if now != was:
            raise ShapingError(
                f"{shown(path.name)} was changed elsewhere meanwhile and is left as it is; it is read anew."
            )
        if school is None:
            path.unlink(missing_ok=True)
            return None
        text = as_text(school, head_of(now or ""))
        tomllib.loads(text)
        path.parent.mkdir(parents=True, exist_ok=True)
        write_text(path, text)
    except (OSError, UnicodeDecodeError) as error:
        why = getattr(error, "strerror", None) or str(error)
        raise ShapingError(f"The school cannot be kept ({why}). What was there is unchanged.") from error
    return text
