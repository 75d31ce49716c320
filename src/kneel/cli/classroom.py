"""``kneel class FOLDER``: the sheet of scores of a round for a class."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from kneel.cli.outputs import Output, demand_outputs
from kneel.disk import write_bytes
from kneel.model import KneelError, UsageError


def run(asked: argparse.Namespace) -> int:
    """Write the sheet of all who answered."""
    from kneel.trainer.classroom import own_files, papers, read_class
    from kneel.trainer.sheet import sheet_of

    outputs = [*Output.of(asked.pdf, "--pdf"), *Output.of(asked.csv, "--csv")]
    if not outputs:
        raise UsageError("Say what to write: --pdf FILE, --csv FILE, or both.")
    folder = Path(asked.folder)
    try:
        opened = read_class(folder)
    except KneelError as error:
        raise UsageError(str(error)) from error
    demand_outputs(outputs, own_files(opened))
    every, wrong = papers(opened)
    for output in outputs:
        with output.writing() as path:
            write_bytes(path, sheet_of(opened, every, table=output.option == "--csv"), lasting=False)
    for one in wrong:
        print(f"Note: {one}", file=sys.stderr)
    return 0
