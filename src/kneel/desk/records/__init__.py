"""The Books at the desk: one worker owns them; records out, changes in, one undo."""

from kneel.desk.records.books import Books, Which
from kneel.desk.records.held import Held
from kneel.desk.records.records import Records

__all__ = ["Books", "Held", "Records", "Which"]
