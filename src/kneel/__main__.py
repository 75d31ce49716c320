"""``python -m kneel``."""

import sys

# Python has put the working folder in front; a module lying there beside somebody's clip is none of ours.
if not sys.flags.safe_path:
    del sys.path[0]

from kneel.cli.main import main

sys.exit(main())
