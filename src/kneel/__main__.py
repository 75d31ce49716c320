"""``python -m kneel``."""

import sys

from kneel.cli.main import main

sys.exit(main())
