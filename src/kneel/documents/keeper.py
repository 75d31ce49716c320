"""One document on the disk as one desk knows it: saved only over the state it was read in.

Two desks may have one document open. The first one holds a lock as long as it
is open, so that the second is told; and each looks at the disk before it
writes, so that nobody's work is replaced without a word.
"""

from __future__ import annotations

import contextlib
import glob
import hashlib
import os
import stat
import threading
from pathlib import Path
from typing import ClassVar

from filelock import FileLock, Timeout

from kneel.disk import shown
from kneel.documents.swing_file import SUFFIX, disk_stamp, load_stamped, raw_swing, save_swing, stamp_of, why
from kneel.model import Swing, SwingFileError

SAVING_S = 5.0


class ChangedElsewhereError(SwingFileError):
    """The document on the disk is not the one that was read: another desk has saved it meanwhile."""


def put_beside(document: Path) -> list[Path]:
    """What another desk saved beside a document instead of over it."""
    stem = document.name.removesuffix(SUFFIX)
    try:
        return sorted(document.parent.glob(f"{glob.escape(stem)}.desk-*{SUFFIX}"))
    except OSError:
        return []


class Keeper:
    """Saves one document. Methods may be called from any thread, one after another.

    ``stamp`` is that of the state last read or written here, None where there was no file.
    """

    def __init__(self, path: Path, stamp: str | None) -> None:
        self.path, self.stamp = path, stamp
        self._one_at_a_time = threading.Lock()
        self._hold: _Hold | None = None
        self.alone = True
        """Whether no other desk had the document open when this one opened it."""

    def hold(self) -> Keeper:
        """Take the lock that tells other desks, as far as the folder allows one."""
        try:
            self._hold = _Hold.of(self.path)
        except Timeout:
            self.alone = False
        except (OSError, NotImplementedError):
            # Where no lock can lie, nothing can be written either.
            pass
        return self

    def release(self) -> None:
        """Let the lock go."""
        if self._hold is not None:
            self._hold.release()
            self._hold = None

    def save(self, swing: Swing) -> None:
        """Write a swing over the state known here.

        Raises :class:`ChangedElsewhereError` where another state lies there,
        and ``SwingFileError`` where writing fails; the disk is then as it was.
        """
        with self._one_at_a_time, self._saving():
            try:
                found = disk_stamp(self.path)
            except OSError as error:
                raise SwingFileError(
                    f"{shown(self.path.name)} could not be saved ({why(error)}); "
                    "the last saved state stands. Save elsewhere."
                ) from error
            if found == stamp_of(raw_swing(swing, self.path.parent)):
                self.stamp = found
                return
            if found != self.stamp:
                raise ChangedElsewhereError(
                    f"{shown(self.path.name)} was changed by another desk or program while it was open here; "
                    "both states are safe."
                    if found is not None
                    else f"{shown(self.path.name)} was taken away while it was open here; your work is safe."
                )
            self.stamp = save_swing(self.path, swing)

    def replace(self, swing: Swing) -> None:
        """Write a swing whatever lies there now: the user has said so. Raises ``SwingFileError``."""
        with self._one_at_a_time, self._saving():
            self.stamp = save_swing(self.path, swing)

    def theirs(self) -> Swing:
        """What lies on the disk now, taken as known. Raises ``SwingFileError``."""
        swing, self.stamp = load_stamped(self.path)
        return swing

    def beside(self, swing: Swing) -> Keeper:
        """Save a swing as another document beside this one, which stays. Raises ``SwingFileError``."""
        stem = self.path.name.removesuffix(SUFFIX)
        for number in range(2, 1000):
            path = self.path.with_name(f"{stem}.desk-{number}{SUFFIX}")
            other = Keeper(path, None)
            with contextlib.suppress(ChangedElsewhereError):
                other.save(swing)
                return other.hold()
        raise SwingFileError(f"There are too many documents beside {shown(self.path.name)}.")

    @contextlib.contextmanager
    def _saving(self):  # type: ignore[no-untyped-def]
        """Looking at the disk and writing to it belong together, whoever else saves."""
        lock = _lock(self.path, "saving")
        try:
            lock.acquire(timeout=SAVING_S)
        except Timeout as error:
            raise SwingFileError(
                f"{shown(self.path.name)} could not be saved (another desk is saving it); try again."
            ) from error
        except (OSError, NotImplementedError):
            # The writing itself tells better what is wrong with the folder.
            yield
            return
        try:
            yield
        finally:
            _free(lock)


class _Hold:
    """This program's lock on an open document, shared by all that it has open of it."""

    _ours: ClassVar[dict[str, _Hold]] = {}
    _turn: ClassVar[threading.Lock] = threading.Lock()

    def __init__(self, lock: FileLock) -> None:
        self._lock, self._count = lock, 0

    @classmethod
    def of(cls, document: Path) -> _Hold:
        """The hold on a document, once more. Raises ``Timeout`` where another program has it."""
        lock = _lock(document, "open")
        with cls._turn:
            hold = cls._ours.get(lock.lock_file)
            if hold is None:
                lock.acquire(timeout=0)
                hold = cls._ours[lock.lock_file] = _Hold(lock)
            hold._count += 1
            return hold

    def release(self) -> None:
        with self._turn:
            self._count -= 1
            if self._count == 0:
                self._ours.pop(self._lock.lock_file, None)
                _free(self._lock)


def _free(lock: FileLock) -> None:
    """Take a lock's file away while it is still held, and let it go."""
    with contextlib.suppress(OSError):
        Path(lock.lock_file).unlink(missing_ok=True)
    with contextlib.suppress(OSError):
        lock.release(force=True)


def _lock(document: Path, what: str) -> FileLock:
    real = Path(os.path.realpath(document))
    # Names of documents may be as long as names can be; those of their locks must not be longer.
    token = hashlib.sha256(os.fsencode(real.name)).hexdigest()[:16]
    try:
        group = real.parent.stat().st_mode & stat.S_IWGRP
    except OSError:
        group = 0
    # A lock kept by one thread is let go by another.
    mode = 0o660 if group else 0o600
    return FileLock(real.with_name(f".kneel-{token}.{what}.lock"), thread_local=False, mode=mode)
