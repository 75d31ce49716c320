"""Every action of the desk in one table: menus, shortcuts, the palette and the list of keys all come from
it.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from kneel.desk.stage.drawing import TITLES as SHAPES
from kneel.desk.swing.titles import CHECKPOINT_KEYS, CHECKPOINT_TITLES


class Reach(Enum):
    """Where an action's keys hold: everywhere, in its place, or only where the picture or the ribbon is
    worked on.

    Keys that lists and buttons need too (space, arrows up and down) belong to the picture, so that lists,
    text
    fields and Tab work as anywhere else.
    """

    WINDOW = "window"
    PLACE = "place"
    PICTURE = "picture"


@dataclass(frozen=True)
class Action:
    """``key`` names the deed; ``menu`` is where it stands, in what ``group``; ``keys`` hold within ``reach``.

    ``stage_keys`` are told in the list of keys and handled by the picture itself.
    """

    key: str
    title: str
    menu: str
    keys: tuple[str, ...] = ()
    needs_swing: bool = True
    group: int = 0
    reach: Reach = Reach.PLACE
    stage_keys: tuple[str, ...] = ()

    @property
    def under(self) -> str:
        """The menu within the menu where it stands, empty for none: nobody reads forty lines of one."""
        return next((words for words in WITHIN if self.title.startswith(words)), "")


WITHIN = ("Go to ", "Review: ", "School: ", "Trainer: ", "Hand-out: ")
"""Titles that begin so stand in a menu of their own within the one they belong to, without these words."""

MENUS = ("Lesson", "Swing", "Points", "Draw", "Reading", "Pair", "Plan", "Book", "Look", "Help")


def _keys_to(checkpoint: str) -> tuple[str, ...]:
    """The key of one of the nine; the optional one is in the menu alone."""
    return (CHECKPOINT_KEYS[checkpoint],) if checkpoint in CHECKPOINT_KEYS else ()


WIN, PIC = Reach.WINDOW, Reach.PICTURE

ACTIONS: tuple[Action, ...] = (
    Action("open", "Open clips …", "Lesson", ("Ctrl+O",), needs_swing=False, reach=WIN),
    Action(
        "open_folder", "Open a lesson’s folder …", "Lesson", ("Ctrl+Shift+O",), needs_swing=False, reach=WIN
    ),
    Action("watch", "Watch a folder for new clips …", "Lesson", needs_swing=False),
    Action("demo", "Open the demo lesson", "Lesson", needs_swing=False, reach=WIN),
    Action("name_golfer", "Name the student …", "Lesson", ("Ctrl+G",), group=1),
    Action("previous_swing", "Swing before, on the rack", "Lesson", ("Ctrl+PgUp",), group=1),
    Action("next_swing", "Swing after, on the rack", "Lesson", ("Ctrl+PgDown",), group=1),
    Action("remove_swing", "Take the swing off the rack", "Lesson", ("Ctrl+Delete",), group=1),
    Action("record_review", "Record a review, or end it", "Lesson", ("Ctrl+R",), group=1, reach=WIN),
    Action("pause_review", "Hold the recording, or go on", "Lesson", ("Ctrl+Shift+R",), group=1, reach=WIN),
    Action("choose_microphone", "Choose the microphone …", "Lesson", needs_swing=False, group=1, reach=WIN),
    Action("review_cut", "Review: cut the chosen stretch out", "Lesson", group=1),
    Action("review_trim", "Review: keep the chosen stretch alone", "Lesson", group=1),
    Action("review_again", "Review: say the stretch anew …", "Lesson", group=1),
    Action("review_under", "Review: lay a sound file under it …", "Lesson", group=1),
    Action("review_film", "Review: save as film …", "Lesson", group=1),
    Action("review_delete", "Review: delete it …", "Lesson", group=1),
    Action("put_on_shelf", "Put the swing on the shelf of references …", "Lesson", group=1),
    Action("take_off_shelf", "Take a reference off the shelf …", "Lesson", needs_swing=False, group=1),
    Action("save", "Save now", "Lesson", ("Ctrl+S",), group=2, reach=WIN),
    Action("save_elsewhere", "Save elsewhere …", "Lesson", ("Ctrl+Shift+S",), group=2, reach=WIN),
    Action("recover", "Work that could not be saved …", "Lesson", needs_swing=False, group=2, reach=WIN),
    Action("quit", "Quit", "Lesson", ("Ctrl+Q",), needs_swing=False, group=3, reach=WIN),
    Action("undo", "Undo", "Swing", ("Ctrl+Z",), reach=WIN),
    Action("redo", "Redo", "Swing", ("Ctrl+Shift+Z", "Ctrl+Y"), reach=WIN),
    Action("back", "One frame back", "Swing", ("Left", ","), group=1),
    Action("on", "One frame on", "Swing", ("Right", "."), group=1),
    Action("back_ten", "Ten frames back", "Swing", ("Shift+Left",), group=1),
    Action("on_ten", "Ten frames on", "Swing", ("Shift+Right",), group=1),
    Action("first", "First frame", "Swing", ("Home",), group=1, reach=PIC),
    Action("last", "Last frame", "Swing", ("End",), group=1, reach=PIC),
    Action("play", "Play and pause", "Swing", ("Space",), group=2, reach=PIC),
    Action("loop", "Loop between two checkpoints", "Swing", ("L",), group=2),
    Action("to_and_fro", "To and fro across the top", "Swing", ("T",), group=2),
    Action("slower", "Play slower", "Swing", ("[",), group=2),
    Action("faster", "Play faster", "Swing", ("]",), group=2),
    Action("flip", "Flip between the last two checkpoints", "Swing", ("A",), group=3),
    Action("previous_checkpoint", "Checkpoint before", "Swing", ("PgUp", "Up"), group=3, reach=PIC),
    Action("next_checkpoint", "Checkpoint after", "Swing", ("PgDown", "Down"), group=3, reach=PIC),
    Action("begin_here", "The swing begins here", "Swing", ("Ctrl+Shift+B",), group=5),
    Action("end_here", "The swing ends here", "Swing", ("Ctrl+Shift+F",), group=5),
    Action("split_here", "Split the clip here: two swings", "Swing", ("Ctrl+Shift+X",), group=5),
    Action("whole_clip", "The whole clip again", "Swing", group=5),
    Action("upright", "Turn the clip …", "Swing", group=5),
    Action("link", "Link the other camera’s clip …", "Swing", ("Ctrl+Shift+L",), group=6),
    Action("unlink", "Unlink the other camera", "Swing", group=6),
    Action("turn", "Work on the other camera’s picture", "Swing", ("E",), group=6),
    *(
        Action(f"checkpoint_{name}", f"Go to {title.lower()}", "Swing", _keys_to(name), group=4)
        for name, title in CHECKPOINT_TITLES.items()
    ),
    Action("mark", "Mark the body on this frame", "Points", ("M",)),
    Action("advised", "Mark where it tells most", "Points", ("N",)),
    Action("look", "Look for the joints, or stop using them", "Points", ("B",)),
    Action("golfer", "Point out the golfer", "Points", ("G",)),
    Action("skip", "Next point to mark", "Points", stage_keys=("Tab",)),
    Action("unmark", "Take away what is chosen on the picture", "Points", ("Delete", "Backspace"), reach=PIC),
    Action("cancel", "Let go", "Points", ("Esc",)),
    Action("pin", "Pin the nearest checkpoint here", "Points", ("P",), group=1),
    Action("free", "Set the nearest pinned checkpoint free", "Points", ("Shift+P",), group=1),
    Action(
        "stop_jobs",
        "Stop looking and following",
        "Points",
        ("Ctrl+.",),
        group=2,
        needs_swing=False,
        reach=WIN,
    ),
    *(Action(f"draw_{shape}", title, "Draw") for shape, title in SHAPES.items()),
    Action("lasting", "Keep what is chosen for the whole swing, or this frame", "Draw", ("K",), group=1),
    Action("copy", "Copy the picture as seen", "Draw", ("Ctrl+C",), group=2),
    Action("still", "Save a still beside the clip", "Draw", ("Ctrl+E",), group=2),
    Action("slow_clip", "Save a slow clip beside the clip", "Draw", ("Ctrl+Shift+E",), group=2),
    Action("next_finding", "Finding after", "Reading", ("F",)),
    Action("previous_finding", "Finding before", "Reading", ("Shift+F",)),
    Action("add_finding", "Add a fault that is seen …", "Reading", ("Ctrl+F",)),
    Action("dismiss", "Not so: leave the chosen finding out", "Reading", ("Ctrl+D",)),
    Action("school", "Judge by another school …", "Reading", ("J",), group=1),
    Action("school_copy", "School: a copy of your own …", "Reading", needs_swing=False, group=4),
    Action("school_measure", "School: another number …", "Reading", needs_swing=False, group=4),
    Action("school_club", "School: for which club …", "Reading", needs_swing=False, group=4),
    Action("school_kind", "School: for which kind of swing …", "Reading", needs_swing=False, group=4),
    Action("school_beside", "School: another one beside it …", "Reading", needs_swing=False, group=4),
    Action("school_window", "School: set the window chosen …", "Reading", needs_swing=False, group=4),
    Action("school_restore", "School: the window chosen as shipped", "Reading", needs_swing=False, group=4),
    Action(
        "school_from_swings",
        "School: windows from good swings …",
        "Reading",
        needs_swing=False,
        group=4,
    ),
    Action("school_bring", "School: bring one in …", "Reading", needs_swing=False, group=4),
    Action("school_hand_on", "School: hand it on …", "Reading", needs_swing=False, group=4),
    Action("school_away", "School: take it away", "Reading", needs_swing=False, group=4),
    Action("eye_begin", "Trainer: begin a round, or end it", "Reading", needs_swing=False, group=5),
    Action(
        "eye_answer",
        "Trainer: answer, then the next swing",
        "Reading",
        needs_swing=False,
        group=5,
        stage_keys=("Return",),
    ),
    Action("eye_shown", "Trainer: how it is shown …", "Reading", needs_swing=False, group=5),
    Action("eye_view", "Trainer: seen from …", "Reading", needs_swing=False, group=5),
    Action("eye_faults", "Trainer: how many faults …", "Reading", needs_swing=False, group=5),
    Action("eye_size", "Trainer: how large they are …", "Reading", needs_swing=False, group=5),
    Action("eye_clothes", "Trainer: clothes …", "Reading", needs_swing=False, group=5),
    Action("eye_light", "Trainer: light …", "Reading", needs_swing=False, group=5),
    Action("eye_hand", "Trainer: hand …", "Reading", needs_swing=False, group=5),
    Action("eye_length", "Trainer: swings in a round …", "Reading", needs_swing=False, group=5),
    Action("eye_class", "Trainer: a round for a class …", "Reading", needs_swing=False, group=5),
    Action("eye_forget", "Trainer: forget how I answered …", "Reading", needs_swing=False, group=5),
    Action("order", "Read root first, or by checkpoint", "Reading", ("O",), group=1),
    Action("unsure", "Why so unsure?", "Reading", ("W",), group=1),
    Action("lanes", "Measures on the ribbon …", "Reading", ("R",), group=2),
    Action("lines", "Reference lines …", "Reading", ("I",), group=2),
    Action("cue", "Cue tried before this swing …", "Reading", ("Ctrl+U",), group=3),
    Action("note_ball", "What the ball did …", "Reading", ("Ctrl+J",), group=3),
    Action("plate", "Read a pressure plate’s file …", "Points", group=3),
    Action("type_value", "Type in a value measured elsewhere …", "Points", group=3),
    Action("own_moment", "A moment of your own …", "Points", group=3),
    Action("begin_plan", "Begin the plan that is proposed", "Plan"),
    Action("note_today", "Note today’s session …", "Plan", ("F4",)),
    Action("ask_plan", "Did it change? Hold these swings against the plan", "Plan", ("F5",)),
    Action("plan_fault", "Plan for a fault …", "Plan", ("F6",), group=1),
    Action("change_drill", "Take the drill that is read about", "Plan", group=1),
    Action("drill_film", "A film of your own for the drill …", "Plan", group=1),
    Action("end_plan", "End the plan …", "Plan", group=1),
    Action("plan_calendar", "Save the days as a calendar file", "Plan", group=2),
    Action("plan_page", "Save the plan as a page to print", "Plan", group=2),
    Action(
        "find_in_book",
        "Search students and what was said",
        "Book",
        ("Ctrl+B",),
        needs_swing=False,
        reach=WIN,
    ),
    Action("new_student", "New student …", "Book", needs_swing=False),
    Action("rename_student", "Rename the student …", "Book", needs_swing=False),
    Action("student_wants", "Write what the student wants …", "Book", needs_swing=False),
    Action("book_measure", "Another number over the lessons …", "Book", ("F8",), needs_swing=False, group=1),
    Action("hold_against", "Hold the other lessons against this one", "Book", needs_swing=False, group=1),
    Action("open_lesson", "Open the lesson on the Bench", "Book", ("F9",), needs_swing=False, group=1),
    Action("hold_lesson", "Hold the lesson beside the swing on the desk", "Book", group=1),
    Action("choose_root", "Choose what the lesson works on …", "Book", needs_swing=False, group=1),
    Action("give_up_root", "Give that up, with a reason …", "Book", needs_swing=False, group=1),
    Action("archive_student", "Archive the student, or take up again", "Book", needs_swing=False, group=2),
    Action("show_archived", "Show archived students, or not", "Book", needs_swing=False, group=2),
    Action("join_students", "Make two students one …", "Book", needs_swing=False, group=2),
    Action("export_student", "Save all of the student in a folder …", "Book", needs_swing=False, group=3),
    Action("take_in", "Take in lessons …", "Book", needs_swing=False, group=3),
    Action("copy_book", "Save a copy of the Book …", "Book", needs_swing=False, group=3),
    Action("delete_lesson", "Delete the lesson", "Book", needs_swing=False, group=4),
    Action("delete_student", "Delete the student", "Book", needs_swing=False, group=4),
    Action("save_pdf", "Hand-out: save the page as PDF", "Book", ("Ctrl+P",), group=5, reach=WIN),
    Action("save_html", "Hand-out: save the page as HTML", "Book", group=5),
    Action("save_slow", "Hand-out: save the slow clip", "Book", group=5),
    Action("home_fault", "Hand-out: about something else …", "Book", group=5),
    Action("plain", "Picture without lines", "Look", ("H",)),
    Action("trail", "Way of the pelvis", "Look", ("Y",)),
    Action("fit", "Whole picture, or the golfer", "Look", ("0",), group=1),
    Action("one_to_one", "Pixel for pixel", "Look", ("Ctrl+1",), group=1),
    Action("closer", "Closer", "Look", ("+", "="), group=1),
    Action("farther", "Farther", "Look", ("-",), group=1),
    Action("aim", "Aim: this body with the number in its window", "Look", ("Z",), group=2),
    Action(
        "reference_figure",
        "Aim: a figure of this build in this school",
        "Look",
        ("Shift+Z",),
        group=2,
    ),
    Action("body_in_space", "The body in space, by two cameras", "Look", ("Q",), group=2),
    Action("layout", "Stage upright, or wide", "Look", ("U",), group=2),
    Action("student_view", "Picture alone, for the student", "Look", ("F11",), group=2),
    Action("ribbon_closer", "Ribbon: closer in time", "Look", ("Ctrl++", "Ctrl+="), group=3),
    Action("ribbon_farther", "Ribbon: farther in time", "Look", ("Ctrl+-",), group=3),
    Action("pair_before", "Against the swing before this one", "Pair", ("C",)),
    Action("pair_with", "Against another swing …", "Pair", ("Shift+C",)),
    Action("pair_reference", "Against a reference that shows it", "Pair", ("Shift+R",)),
    Action("pair_way", "Another way of looking", "Pair", ("V",), group=1),
    Action("pair_flip", "One at a time, and the other", "Pair", ("Shift+V",), group=1),
    Action("pair_at", "Held together at …", "Pair", ("S",), group=2),
    Action("pair_scale", "Lengths as large, or bodies", "Pair", ("Shift+S",), group=2),
    Action("pair_hold", "Hold one, move the other", "Pair", ("X",), group=2),
    Action("pair_same", "Pair: draw the same on the other body", "Draw", ("D",), group=1),
    Action("pair_back", "The other one frame back", "Pair", ("Ctrl+Left",), group=3),
    Action("pair_on", "The other one frame on", "Pair", ("Ctrl+Right",), group=3),
    Action("to_bench", "To the Bench", "Look", ("F2",), needs_swing=False, group=4, reach=WIN),
    Action("to_plan", "To the Plan", "Look", ("F3",), needs_swing=False, group=4, reach=WIN),
    Action("to_book", "To the Book", "Look", ("F7",), needs_swing=False, group=4, reach=WIN),
    Action("to_pair", "To the Pair", "Look", ("F10",), needs_swing=False, group=4, reach=WIN),
    Action("to_review", "To the Review", "Look", ("Shift+F2",), needs_swing=False, group=4, reach=WIN),
    Action("to_schools", "To the Schools", "Look", ("Shift+F3",), needs_swing=False, group=4, reach=WIN),
    Action("to_trainer", "To the Trainer", "Look", ("Shift+F7",), needs_swing=False, group=4, reach=WIN),
    Action("to_home", "To the Hand-out", "Look", ("F12",), needs_swing=False, group=4, reach=WIN),
    Action("inches", "Lengths in inches or centimetres", "Look", needs_swing=False, group=5, reach=WIN),
    Action("light", "Light or dark", "Look", ("Ctrl+L",), needs_swing=False, group=5, reach=WIN),
    Action("text_size", "Text size …", "Look", needs_swing=False, group=5, reach=WIN),
    Action("palette", "Find an action …", "Help", ("Ctrl+K",), needs_swing=False, reach=WIN),
    Action("crib", "All keys", "Help", ("F1",), needs_swing=False, reach=WIN),
    Action("read_knowledge", "Read my schools and drills anew", "Help", needs_swing=False, reach=WIN),
    Action("guide", "Guided reading", "Help", needs_swing=False, group=1, reach=WIN),
    Action("filming", "How to film a swing", "Help", needs_swing=False, group=1, reach=WIN),
    Action("care", "Care and limits", "Help", needs_swing=False, group=1, reach=WIN),
    Action("log", "The log", "Help", needs_swing=False, group=2, reach=WIN),
    Action("about", "About Kneel", "Help", needs_swing=False, group=2, reach=WIN),
)

TITLES = {action.key: action.title for action in ACTIONS}
