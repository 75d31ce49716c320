"""Option lines made of sound and of odd pieces."""

from __future__ import annotations

import random

VALUES = (
    "",
    "-",
    "0",
    "-1",
    "1e300",
    "nan",
    "inf",
    "x",
    "9999999999999999999",
    "/",
    "/dev/null",
    "/nowhere/x",
    ".",
)
VALUES += (
    "a\nb",
    "\x1b[2J",
    "top=3",
    "top=1e300",
    "=",
    "sway",
    "sway=6",
    "sway=nan",
    "1280x720",
    "0x0",
    "3",
    "120",
)
VALUES += (
    "face-on",
    "2026-11-24",
    "mon,wed",
    "pelvis_shift@top",
    "outer_edge_up",
    "hip",
    "left",
    "centred",
    "driver",
    "yes",
    "body,flow",
    "100,200",
    "in.csv",
    "in.mp4",
    "in.swing.json",
)
VALUES += (
    "out.csv",
    "out.json",
    "out.png",
    "link.csv",
    "hard.mp4",
    "\udcff",
    "ü",
    "a" * 300,
    "pipe",
    "ro.json",
)

OPTIONS = {
    "analyze": ("--view", "--handed", "--club", "--standard", "--against", "--cm-per-px", "--stature")
    + ("--fps-capture", "--checkpoint", "--mirrored", "--marks", "--json"),
    "plan": ("--view", "--stature", "--days", "--weeks", "--minutes", "--start", "--fault", "--drill")
    + ("--flag", "--place", "--prop", "--shot", "--json", "--ics"),
    "changed": ("--after", "--view", "--stature", "--measure", "--least", "--lessons", "--camera", "--json"),
    "compare": ("--view", "--stature", "--hand-a", "--hand-b", "--stature-b", "--checkpoint-a", "--measure")
    + ("--golfers", "--lessons", "--camera", "--json"),
    "handout": ("--pdf", "--html", "--clip", "--fault", "--name", "--academy", "--note", "--stature"),
    "book": ("--student", "--day"),
    "probe": ("--json",),
    "still": ("--frame", "--out"),
    "track": ("--view", "--near", "--marks", "--sources", "--fps-capture", "--out"),
    "simulate": (
        "--fault",
        "--view",
        "--handed",
        "--fps",
        "--out",
        "--truth",
        "--points",
        "--plate",
        "--seed",
    )
    + ("--size", "--still", "--tempo", "--ratio", "--start", "--stature", "--pattern", "--place", "--focal"),
}


def line(seed: int) -> list[str]:
    """One line of arguments; films that would take long to make or follow are kept small."""
    rng = random.Random(seed)
    command = rng.choice(list(OPTIONS))
    words = [command]
    if command == "book":
        words.append(rng.choice(("backup", "restore", "export", "import", "check", "x")))
    if command != "simulate":
        words.append(rng.choice(("in.csv", "in.csv", "in.mp4", "in.swing.json", *VALUES)))
    for option in rng.sample(OPTIONS[command], rng.randrange(min(5, len(OPTIONS[command]) + 1))):
        words += [option, rng.choice(VALUES)]
    if command == "still" and rng.random() < 0.8:
        words += ["--frame", rng.choice(("0", "3", "99999")), "--out", rng.choice(VALUES)]
    if command == "track":
        words += ["--out", rng.choice(VALUES)]
        words += ["--sources", "flow"] if "--sources" not in words else []
    if command == "simulate":
        words += ["--out", rng.choice(VALUES), "--size", "160x160", "--fps", rng.choice(("10", "0", "10"))]
    if rng.random() < 0.1:
        rng.shuffle(words)
    return words
