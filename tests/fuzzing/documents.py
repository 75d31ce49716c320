"""Swing documents with their tree mutated."""

from __future__ import annotations

import json
import random
from typing import Any

ODD: tuple[Any, ...] = (
    *(
        None,
        True,
        False,
        -1,
        0,
        1,
        2**31,
        2**63,
        -(2**63),
        1e300,
        1e-300,
        0.5,
        "",
        "x",
        "\u0000",
        "\x1b[31m\n",
    ),
    *(
        "a" * 5000,
        "../../../etc/passwd",
        "/dev/zero",
        "-",
        [],
        {},
        [[]],
        [None],
        {"": None},
        "top",
        "face-on",
    ),
)
DEEP = 3000


def mutated(raw: bytes, seed: int) -> bytes:
    """One document made of a sound one."""
    rng = random.Random(seed)
    tree = json.loads(raw)
    if rng.random() < 0.6:
        for _ in range(rng.choice((1, 2, 4))):
            _odd_but_sound(rng, tree["swing"])
        return json.dumps(tree, indent=1).encode()
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        _mutate(rng, tree)
    text = json.dumps(tree, ensure_ascii=rng.random() < 0.5, indent=rng.choice((None, 1)))
    content = text.encode("utf-8", "surrogatepass")
    kind = rng.randrange(16)
    if kind == 0:
        return content[: rng.randrange(len(content))]
    if kind == 1:
        at = rng.randrange(len(content))
        return content[:at] + bytes([rng.randrange(256)]) + content[at + 1 :]
    if kind == 2:
        return content.replace(b'"marks"', b'"marks": ' + b"[" * DEEP + b"]" * DEEP + b', "marks"', 1)
    if kind == 3:
        return content.replace(b"frame", rng.choice((b"\xff\xfe", b"Frame", b"\\u0000")), 1)
    if kind == 4:
        return content.replace(b"1", rng.choice((b"NaN", b"1e999", b"01", b"-", b"1" * 400)), 1)
    return content


def _odd_but_sound(rng: random.Random, swing: dict[str, Any]) -> None:
    """A change that each record's bounds allow, whatever the clip is."""
    take = swing["takes"][0]
    frame, last = rng.choice((0, 1, 150, 298, 299)), 299
    lengths = {
        "type": "length",
        "frame": frame,
        "ax": 5,
        "ay": 5,
        "bx": rng.choice((5, 5.001, 99999)),
        "by": 5,
    }
    scales = [{"type": "none"}, {"type": "typed", "cm_per_px": rng.choice((0.001, 20))}]
    scales += [{"type": "stature", "stature_cm": rng.choice((80, 250)), "sigma_cm": 50}]
    scales += [
        lengths | {"length_cm": rng.choice((0.1, 10000)), "what": rng.choice(("", "\n\x1b", "x" * 900))}
    ]
    marks, names = take["marks"], ("address", "takeaway", "half_back", "top", "delivery", "impact", "finish")
    changes: list[tuple[str, Any]] = [
        ("scale", rng.choice(scales)),
        ("span", rng.choice(([0, 0], [299, 299], [0, 1], [298, 10**6], [100, 200], None))),
        ("view", rng.choice(("face-on", "down-the-line", "rear"))),
        ("mirrored", rng.choice((None, True, False))),
        ("capture_rate", rng.choice((1, 10000, 119.88, None))),
        ("near", {"x": rng.choice((-1e5, 0, 640)), "y": 300, "frame": rng.choice((None, frame, 10**7))}),
        ("pinned", {name: float(rng.randrange(last)) for name in rng.sample(names, rng.randrange(1, 7))}),
        ("pinned", {name: float(last - 40 * k) for k, name in enumerate(names)}),
        ("pinned", dict.fromkeys(names, float(frame))),
        ("marks", rng.choice(([], marks[:1], marks[::-1], marks * 3, rng.sample(marks, min(5, len(marks)))))),
        ("marks", [m | {"frame": frame} for m in marks]),
        ("marks", [m | {rng.choice("xy"): rng.choice((-1e5, 1e5, 0.0))} for m in marks]),
        ("marks", [m | {"sigma": rng.choice((1e-300, 1e-9, 1e5))} for m in marks]),
        ("steadied", rng.random() < 0.5),
    ]
    name, value = rng.choice(changes)
    take[name] = value
    swing["hand"] = rng.choice(("left", "right", swing.get("hand", "right")))
    swing["school"] = rng.choice(("centred", "loading", "forward", "braced"))
    swing["golfer"] = rng.choice((swing.get("golfer", ""), "\n\x1b[2J\u202e", "é" * 500))


def _places(tree: Any, found: list[tuple[Any, Any]]) -> list[tuple[Any, Any]]:
    """Every place of the tree, as the container and the key or number in it."""
    for key in list(tree) if isinstance(tree, dict) else range(len(tree)) if isinstance(tree, list) else ():
        found.append((tree, key))
        _places(tree[key], found)
    return found


def _mutate(rng: random.Random, tree: Any) -> None:
    places = _places(tree, [])
    if not places:
        return
    # Marks are most of a document; every kind of place gets its turn.
    inner = [p for p in places if not isinstance(p[0], dict) or "point" not in p[0]]
    holder, key = rng.choice(inner if inner and rng.random() < 0.7 else places)
    other, name = rng.choice(places)
    deed = rng.randrange(8)
    if deed <= 3:
        holder[key] = rng.choice(ODD)
    elif deed == 4:
        del holder[key]
    elif deed == 5 and isinstance(holder, list):
        holder.extend([holder[key]] * rng.choice((1, 5, 1000)))
    elif deed == 6:
        try:
            holder[key], other[name] = other[name], holder[key]
            json.dumps(tree)
        except (ValueError, KeyError, IndexError, RecursionError):
            holder[key] = None
    elif isinstance(holder, dict):
        holder[rng.choice(("", "x", key.upper(), key + "_px"))] = holder.pop(key)
    else:
        holder.insert(0, rng.choice(ODD))
