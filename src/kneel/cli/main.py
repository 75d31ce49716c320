"""The command ``kneel``: what each subcommand takes, and how errors leave the program.

Exit code 0 is done, 2 is wrong input or usage with one line on standard
error, 1 is a bug. Subcommands import what they need when they run, so that
``analyze`` on points needs neither Qt nor a decoder.
"""

from __future__ import annotations

import argparse
import contextlib
import gc
import importlib
import io
import sys
from collections.abc import Sequence
from functools import partial
from typing import Any, NoReturn

from kneel import __version__
from kneel.cli.outputs import close_stdout
from kneel.disk import shown
from kneel.model import POSES, Club, Flag, Hand, Kind, KneelError, Prop, Shot, View, Where

_PROGRAM = "kneel"


class _Parser(argparse.ArgumentParser):
    def _get_values(self, action: argparse.Action, arg_strings: list[str]) -> Any:
        if action.option_strings and arg_strings == ["--"]:
            # Given by name it is a value like any other.
            return self._get_value(action, "--")
        return super()._get_values(action, arg_strings)

    def error(self, message: str) -> NoReturn:
        print(f"{self.prog}: {shown(message)}; see {self.prog} --help", file=sys.stderr)
        raise SystemExit(2)


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; gives the exit code."""
    parser = _parser()
    asked = parser.parse_args(arguments)
    if asked.command:
        # What a command makes lives as long as it runs: looking for garbage all the time only costs.
        gc.set_threshold(200_000)
    if "inches" in asked:
        from kneel.speech.units import tell_lengths_in

        tell_lengths_in("in" if asked.inches else "cm")
    module = importlib.import_module(f"kneel.cli.{asked.command or 'desk'}")
    if isinstance(sys.stdout, io.TextIOWrapper):
        # A terminal that knows few characters is told the others by number.
        sys.stdout.reconfigure(errors="backslashreplace")
    try:
        code = int(module.run(asked))
        sys.stdout.flush()
        return code
    except KneelError as error:
        _say(str(error))
        return 2
    except KeyboardInterrupt:
        _say("stopped.")
        return 130
    except BrokenPipeError:
        close_stdout()
        return 0
    except OSError as error:
        # Whoever meets one knows best what it was about; the last net says what the system says.
        close_stdout()
        where = f"{error.filename}: " if error.filename else ""
        _say(f"{where}{error.strerror or error}; what was not written is untouched.")
        return 2


def _say(sentence: str) -> None:
    with contextlib.suppress(OSError):
        print(f"{_PROGRAM}: {shown(sentence)}", file=sys.stderr)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog=_PROGRAM, description="Frame-by-frame review of golf swings.")
    parser.add_argument("--version", action="version", version=f"Kneel {__version__}")
    parser.add_argument("--demo", action="store_true", help="open the demo lesson, made on first use")
    parser.set_defaults(command=None, open=None)
    commands = parser.add_subparsers(metavar="COMMAND", parser_class=_Parser)
    _add_open(commands)
    _add_analyze(commands)
    _add_table(commands)
    _add_track(commands)
    _add_simulate(commands)
    _add_footage(commands)
    _add_plan(commands)
    _add_changed(commands)
    _add_compare(commands)
    _add_handout(commands)
    _add_book(commands)
    return parser


def _add_open(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("open", help="open a clip or a swing file on the desk")
    sub.set_defaults(command="desk", demo=False)
    sub.add_argument("open", metavar="FILE")


def _add_golfer(sub: argparse.ArgumentParser, *, view: str | None, hand: str | None) -> None:
    sub.add_argument("--view", choices=[v.value for v in View], default=view)
    sub.add_argument("--handed", choices=[h.value for h in Hand], default=hand)
    sub.add_argument("--club", choices=[c.value for c in Club], default=None)


def _add_analyze(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("analyze", help="measure and judge one swing, from points or a clip")
    sub.set_defaults(command="analyze")
    sub.add_argument("inputs", metavar="INPUT", nargs="+", help="points in CSV, a swing file, or a video")
    sub.add_argument(
        "--lesson", action="store_true", help="several swings of one lesson, pooled by view, club and kind"
    )
    sub.add_argument("--views", metavar="VIEW,VIEW,...", help="of a lesson, the view of each input in turn")
    sub.add_argument(
        "--balls", metavar="FILE", help="what the balls of a lesson did: swing,strike,start,curve,carry"
    )
    sub.add_argument("--against", metavar="STANDARD", help="judge under a second school too")
    sub.add_argument("--also", metavar="SECOND", help="the same swing by a second camera")
    sub.add_argument("--also-view", choices=[v.value for v in View], help="from where that one filmed it")
    sub.add_argument(
        "--also-fps", type=float, metavar="X", help="that one's true rate, where its file does not tell it"
    )
    sub.add_argument("--c3d", metavar="FILE", help="by two cameras: the body in space, as C3D")
    _add_swing(sub)
    _add_json(sub)


def _add_table(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("table", help="the numbers of many swings as CSV, a row a swing and checkpoint")
    sub.set_defaults(command="table")
    sub.add_argument("swings", metavar="SWING", nargs="+", help="swing files, points, or videos")
    sub.add_argument("--out", required=True, metavar="FILE|-", help="the table, CSV")
    _add_swing(sub)


def _add_json(sub: argparse.ArgumentParser) -> None:
    sub.add_argument("--json", metavar="FILE|-", help="write the result as JSON")


def _add_swing(sub: argparse.ArgumentParser) -> None:
    """What can be said of a swing that is analysed."""
    _add_golfer(sub, view=None, hand=None)
    sub.add_argument("--flight", default="", metavar="WORDS", help="what the ball does, in words")
    sub.add_argument("--standard", default=None, help="the school: centred, loading, forward, braced")
    sub.add_argument("--kind", choices=[k.value for k in Kind], help="what was swung; held: one pose")
    sub.add_argument("--pose", choices=POSES, help="which position is held")
    sub.add_argument(
        "--about", metavar="NAME", help="of a drill its name; of an exaggeration that or the fault"
    )
    sub.add_argument("--cm-per-px", type=float, metavar="X", help="scale; several are put together")
    sub.add_argument("--stature", type=float, metavar="CM")
    sub.add_argument(
        "--length",
        action="append",
        default=[],
        metavar="X1,Y1,X2,Y2,CM",
        help="two ends, in px, of something of known length that lies in the golfer's plane",
    )
    sub.add_argument("--inches", action="store_true", help="tell lengths in inches, where there is a scale")
    sub.add_argument("--plumb", metavar="X1,Y1,X2,Y2", help="a line that is vertical in life, px")
    sub.add_argument("--fps-capture", type=float, metavar="X", help="true capture rate, where the file lies")
    sub.add_argument("--checkpoint", action="append", default=[], metavar="NAME=FRAME")
    sub.add_argument(
        "--own", action="append", default=[], metavar="NAME=FRAME|RULE", help="a moment of your own"
    )
    sub.add_argument(
        "--typed",
        action="append",
        default=[],
        metavar="MEASURE[@CHECKPOINT]=VALUE",
        help="a value measured elsewhere",
    )
    sub.add_argument("--plate", metavar="FILE", help="a pressure plate's trace, CSV, on the clip's clock")
    sub.add_argument("--mirrored", choices=["yes", "no"], help="whether the picture is a mirror image")
    sub.add_argument("--marks", metavar="CSV", help="points marked by hand on a video, a few rows")


def _add_plan(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("plan", help="weeks of practice on what a swing shows")
    sub.set_defaults(command="plan")
    sub.add_argument("inputs", metavar="SWING", nargs="+", help="a swing, or several of one view and club")
    sub.add_argument("--days", default="4", metavar="N|mon,wed", help="days a week, or which")
    sub.add_argument("--weeks", type=int, default=3, metavar="N")
    sub.add_argument("--minutes", type=int, default=15, metavar="N", help="of a session")
    sub.add_argument("--start", metavar="DATE", help="the first day, as 2026-11-24; today")
    sub.add_argument("--fault", metavar="NAME", help="what to work on; the root that the swing shows")
    sub.add_argument("--drill", metavar="NAME", help="the drill; the one that fits best")
    many = partial(sub.add_argument, action="append")
    many("--flag", default=[], choices=[f.value for f in Flag], help="what has to be spared, or who it is")
    many("--place", default=[], choices=[w.value for w in Where], help="where there is practice; anywhere")
    many("--prop", choices=[p.value for p in Prop], help="what is at hand; anything")
    sub.add_argument("--shot", choices=[s.value for s in Shot], help="what the ball is wanted to do")
    sub.add_argument("--ics", metavar="FILE|-", help="write the days as a calendar")
    _add_swing(sub)
    _add_json(sub)


def _add_changed(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("changed", help="whether a student changed between two sets of swings")
    sub.set_defaults(command="changed")
    sub.add_argument("inputs", metavar="BEFORE", nargs="+", help="swings before, of one view, club and kind")
    sub.add_argument("--after", metavar="AFTER", nargs="+", required=True, help="swings after")
    sub.add_argument(
        "--measure", metavar="MEASURE@CHECKPOINT", help="the number that was practised, asked alone"
    )
    sub.add_argument("--least", type=float, metavar="X", help="the least change of it that would matter")
    sub.add_argument("--lessons", choices=["same", "different"], default="different")
    sub.add_argument("--camera", choices=["stood", "moved"], help="between the sides; as the pictures show")
    _add_swing(sub)
    _add_json(sub)


def _add_compare(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("compare", help="two swings in step, and what differs beyond error")
    sub.set_defaults(command="compare")
    for side in "ab":
        sub.add_argument(side, metavar=side.upper(), help="points in CSV, a swing file, or a video")
        sub.add_argument(f"--hand-{side}", choices=[h.value for h in Hand], help=f"of {side.upper()} alone")
        sub.add_argument(f"--stature-{side}", type=float, metavar="CM")
        sub.add_argument(f"--fps-capture-{side}", type=float, metavar="X")
        sub.add_argument(f"--checkpoint-{side}", action="append", default=[], metavar="NAME=FRAME")
    sub.add_argument("--measure", metavar="MEASURE@CHECKPOINT", help="a number that is asked alone")
    sub.add_argument("--least", type=float, metavar="X", help="the least difference that would matter")
    sub.add_argument("--golfers", choices=["same", "different"], help="as the swings name them")
    sub.add_argument("--lessons", choices=["same", "different"], default="different")
    sub.add_argument("--camera", choices=["stood", "moved"], help="between the two; as the pictures show")
    _add_swing(sub)
    _add_json(sub)


def _add_handout(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("handout", help="the page that goes home, and the slow clip")
    sub.set_defaults(command="handout")
    sub.add_argument("swing", metavar="SWING", help="a swing file, or a video")
    sub.add_argument("--pdf", metavar="FILE|-", help="write the page as PDF")
    sub.add_argument("--html", metavar="FILE|-", help="write the page as HTML that needs no other file")
    sub.add_argument("--clip", metavar="FILE", help="write a slow clip with lines, distances and words, MP4")
    sub.add_argument("--fault", metavar="NAME", help="what it is about; the plan's, or what comes first")
    sub.add_argument("--name", metavar="WORDS", help="the student's name, where the swing has none")
    sub.add_argument("--academy", default="", metavar="WORDS", help="stands under the name")
    sub.add_argument("--note", default="", metavar="WORDS", help="a line of your own")
    sub.add_argument("--no-book", action="store_true", help="leave out what the Book knows")
    _add_swing(sub)


def _add_book(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("book", help="copies of the Book, lessons sent and taken in, a check")
    sub.set_defaults(command="book")
    whats = sub.add_subparsers(metavar="WHAT", dest="what", required=True, parser_class=_Parser)
    whats.add_parser("backup", help="write a copy, checked").add_argument("file", metavar="FILE")
    whats.add_parser("restore", help="put a copy in the Book's place").add_argument("file", metavar="FILE")
    out = whats.add_parser("export", help="write students' lessons as folders, clips and all")
    out.add_argument("folder", metavar="FOLDER")
    out.add_argument("--student", metavar="NAME", help="one student; all")
    out.add_argument("--day", metavar="DATE", help="one lesson of that student; all")
    out.add_argument("--zip", action="store_true", help="as zip files")
    into = whats.add_parser("import", help="take in lessons from a folder or a zip")
    into.add_argument("source", metavar="FOLDER-OR-ZIP")
    whats.add_parser("check", help="look the Book through")


def _add_footage(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("probe", help="what a clip tells: frames, times, rates, strikes, swings")
    sub.set_defaults(command="probe")
    sub.add_argument("clip", metavar="CLIP")
    sub.add_argument("--json", metavar="FILE|-", help="write it as JSON")
    sub = commands.add_parser("review", help="write a spoken review as a film that phones play")
    sub.set_defaults(command="review")
    sub.add_argument("review", metavar="REVIEW", help="a *.review.json file")
    sub.add_argument("--out", required=True, metavar="FILE", help="the film, MP4")
    sub.add_argument("--upright", action="store_true", help="720 by 1280 instead of 1280 by 720")

    sub = commands.add_parser("class", help="the sheet of scores of a round of the Trainer for a class")
    sub.set_defaults(command="classroom")
    sub.add_argument("folder", metavar="FOLDER", help="the folder of the round")
    sub.add_argument("--pdf", metavar="FILE", help="a page to print")
    sub.add_argument("--csv", metavar="FILE|-", help="a table")

    sub = commands.add_parser("still", help="write exactly one frame as PNG, upright")
    sub.set_defaults(command="still")
    sub.add_argument("clip", metavar="CLIP")
    sub.add_argument("--frame", type=int, required=True, metavar="N")
    sub.add_argument("--out", required=True, metavar="PNG")


def _add_track(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("track", help="find and follow the joints of a clip, as a points file")
    sub.set_defaults(command="track")
    sub.add_argument("clip", metavar="CLIP")
    sub.add_argument("--view", choices=[v.value for v in View], default=None)
    sub.add_argument("--marks", metavar="CSV", help="points marked by hand, a few rows")
    sub.add_argument("--sources", default="body,flow,colour", help="besides marks: body, flow, colour")
    sub.add_argument("--near", metavar="X,Y", help="which body is meant, where there are several")
    sub.add_argument("--fps-capture", type=float, metavar="X", help="true capture rate, where the file lies")
    sub.add_argument("--out", required=True, metavar="CSV")


def _add_simulate(commands: argparse._SubParsersAction[_Parser]) -> None:
    sub = commands.add_parser("simulate", help="film a simulated golfer")
    sub.set_defaults(command="simulate")
    number = partial(sub.add_argument, type=float)
    sub.add_argument("--fault", action="append", default=[], metavar="NAME=AMOUNT", help="cm or degrees")
    _add_golfer(sub, view=View.FACE_ON.value, hand=Hand.RIGHT.value)
    number("--stature", default=176.0, metavar="CM")
    number("--girth", default=1.0, metavar="X", help="build: 0.85 slim, 1 usual, 1.2 heavy")
    sub.add_argument("--pattern", default="neutral", help="the clean swing: neutral or a school's")
    number("--tempo", default=1.0, metavar="X", help="1 is usual, 1.2 a fifth slower")
    number("--ratio", metavar="X", help="backswing over downswing, usual 3")
    number("--variation", default=0.0, metavar="X", help="spread from swing to swing by seed, 1 is usual")
    number("--still", default=0.4, metavar="S", help="seconds before the club moves")
    sub.add_argument("--waggle", action="store_true", help="waggle the club before address")
    number("--walk", default=0.0, metavar="CM", help="walk in from so far away")
    number(
        "--rehearsal", default=0.0, metavar="SHARE", help="a practice swing before, of a full one's length"
    )
    sub.add_argument("--looks", type=int, default=0, metavar="N", help="looks at the target before the swing")
    sub.add_argument("--leaves", action="store_true", help="lower the club after the finish and walk off")
    sub.add_argument(
        "--bystander", metavar="X,Y", help="somebody else stands there, cm toward target and ball"
    )
    _add_filming(sub)
    sub.add_argument("--seed", type=int, default=1)
    sub.add_argument("--out", required=True, metavar="CLIP")
    sub.add_argument("--truth", metavar="FILE", help="write the truth as JSON")
    sub.add_argument("--points", metavar="CSV", help="write the true points as a points file")
    sub.add_argument("--plate", metavar="CSV", help="write the pressure plate's trace")


def _add_filming(sub: argparse.ArgumentParser) -> None:
    number = partial(sub.add_argument, type=float)
    number("--fps", default=120.0, help="how often a second the camera looks")
    number("--stored-fps", metavar="X", help="what the file says: slow motion where lower")
    number("--start", default=0.0, metavar="S", help="when the clip begins, for a second camera")
    sub.add_argument("--size", default="1280x720", metavar="WxH")
    number("--distance", default=420.0, metavar="CM", help="camera to golfer")
    number("--height", default=105.0, metavar="CM", help="of the camera above the ground")
    number("--yaw", default=0.0, metavar="DEG", help="camera off square")
    number("--roll", default=0.0, metavar="DEG", help="camera tipped")
    number("--held", default=0.0, metavar="DEG", help="held in a hand that turns it so much, 0.25 is usual")
    number("--pan", default=0.0, metavar="DEG", help="how far a hand goes round with the swing")
    number("--focal", metavar="PX", help="focal length; none frames the golfer")
    number("--barrel", default=0.0, metavar="K1", help="the lens' radial distortion")
    number("--readout", default=0.0, metavar="MS", help="rolling shutter, first row to last")
    number("--exposure", default=0.0, metavar="MS", help="of each frame: motion blur")
    number("--noise", default=2.0, metavar="LEVELS", help="of the sensor, of 255")
    sub.add_argument("--quality", type=int, default=21, metavar="CRF", help="lower is better")
    sub.add_argument("--place", default="range", help="range, grass, bay, net")
    sub.add_argument("--light", default="sun", help="sun, overcast, evening, lamps, dim")
    sub.add_argument("--outfit", default="trousers", help="trousers, wide, shorts, skirt")
    sub.add_argument("--weave", default="plain", help="plain, stripes, checks")
    sub.add_argument("--build", default="man", help="man, woman, child")
    number("--loose", default=0.0, metavar="CM", help="how far clothes lag behind the joints")
    sub.add_argument("--tape", action="store_true", help="coloured tape on knees and hips")
    sub.add_argument("--mirrored", action="store_true")
