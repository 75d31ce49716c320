"""An open swing and its parts, none of them a widget."""

from kneel.desk.swing.open_swing import OpenSwing

__all__ = ["OpenSwing"]
