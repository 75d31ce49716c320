"""Careful ways with files: read within bounds, replaced whole or not at all, shown safely."""

from kneel.disk.atomic import replacing, write_bytes, write_text
from kneel.disk.children import safe_children, safe_environment
from kneel.disk.names import free_path, shown, token_of
from kneel.disk.reading import TooLargeError, read_bounded
from kneel.disk.regular import NotAFileError, demand_file, real_target, same_file, writable_reason

__all__ = [
    "NotAFileError",
    "TooLargeError",
    "demand_file",
    "free_path",
    "read_bounded",
    "real_target",
    "replacing",
    "safe_children",
    "safe_environment",
    "same_file",
    "shown",
    "token_of",
    "writable_reason",
    "write_bytes",
    "write_text",
]
