"""Every action of the desk in one table: menus, keys and the printed crib all come from it."""

from __future__ import annotations

from dataclasses import dataclass

from kneel.desk.words import CHECKPOINT_KEYS, CHECKPOINT_TITLES


@dataclass(frozen=True)
class Action:
    """``key`` names the slot in :class:`kneel.desk.commands.Commands`; ``menu`` is where it stands.

    ``keys`` hold in the whole window, ``stage_keys`` only where the picture has the focus.
    """

    key: str
    title: str
    menu: str
    keys: tuple[str, ...] = ()
    needs_swing: bool = True
    group: int = 0
    stage_keys: tuple[str, ...] = ()


def _keys_to(checkpoint: str) -> tuple[str, ...]:
    """The key of one of the nine; the optional one is in the menu alone."""
    return (CHECKPOINT_KEYS[checkpoint],) if checkpoint in CHECKPOINT_KEYS else ()


ACTIONS: tuple[Action, ...] = (
    Action("open", "Open a clip …", "Lesson", ("Ctrl+O",), needs_swing=False),
    Action("demo", "Open the demo lesson", "Lesson", needs_swing=False),
    Action("save", "Save now", "Lesson", ("Ctrl+S",), group=1),
    Action("save_elsewhere", "Save elsewhere …", "Lesson", ("Ctrl+Shift+S",), group=1),
    Action("recover", "Work that could not be saved …", "Lesson", needs_swing=False, group=1),
    Action("quit", "Quit", "Lesson", ("Ctrl+Q",), needs_swing=False, group=2),
    Action("undo", "Undo", "Swing", ("Ctrl+Z",)),
    Action("redo", "Redo", "Swing", ("Ctrl+Shift+Z", "Ctrl+Y")),
    Action("back", "One frame back", "Swing", ("Left", ","), group=1),
    Action("on", "One frame on", "Swing", ("Right", "."), group=1),
    Action("back_ten", "Ten frames back", "Swing", ("Shift+Left",), group=1),
    Action("on_ten", "Ten frames on", "Swing", ("Shift+Right",), group=1),
    Action("first", "First frame", "Swing", ("Home",), group=1),
    Action("last", "Last frame", "Swing", ("End",), group=1),
    Action("play", "Play and pause", "Swing", ("Space",), group=2),
    Action("loop", "Loop between two checkpoints", "Swing", ("L",), group=2),
    Action("to_and_fro", "To and fro across the top", "Swing", ("T",), group=2),
    Action("slower", "Play slower", "Swing", ("[",), group=2),
    Action("faster", "Play faster", "Swing", ("]",), group=2),
    Action("previous_checkpoint", "Checkpoint before", "Swing", ("PgUp", "Up"), group=3),
    Action("next_checkpoint", "Checkpoint after", "Swing", ("PgDown", "Down"), group=3),
    *(
        Action(f"checkpoint_{name}", f"Go to {title.lower()}", "Swing", _keys_to(name), group=4)
        for name, title in CHECKPOINT_TITLES.items()
    ),
    Action("mark", "Mark the body on this frame", "Points", ("M",)),
    Action("advised", "Mark where it tells most", "Points", ("N",)),
    Action("look", "Look for the joints, or stop using them", "Points", ("B",)),
    Action("golfer", "Point out the golfer", "Points", ("G",)),
    Action("skip", "Next point to mark", "Points", stage_keys=("Tab",)),
    Action("unmark", "Take the chosen mark away", "Points", ("Delete", "Backspace")),
    Action("cancel", "Let go", "Points", ("Esc",)),
    Action("pin", "Pin the nearest checkpoint here", "Points", ("P",), group=1),
    Action("stop_following", "Stop following", "Points", group=2),
    Action("plain", "Picture without lines", "Look", ("H",)),
    Action("fit", "Whole picture", "Look", ("0",)),
    Action("inches", "Lengths in inches or centimetres", "Look", needs_swing=False),
    Action("light", "Light or dark", "Look", ("Ctrl+L",), needs_swing=False),
    Action("crib", "All keys", "Help", ("F1",), needs_swing=False),
    Action("filming", "How to film a swing", "Help", needs_swing=False),
    Action("care", "Care and limits", "Help", needs_swing=False),
    Action("log", "The log", "Help", needs_swing=False),
    Action("about", "About Kneel", "Help", needs_swing=False),
)
