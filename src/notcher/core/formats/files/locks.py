"""Locks between windows: files that the kernel lets go of when their owner ends, however it ends."""

import contextlib
import os
from collections.abc import Iterator
from hashlib import blake2b
from pathlib import Path

from filelock import FileLock, Timeout


def held_lock(path: Path) -> FileLock | None:
    """Return a lock, held until any thread releases it; None when another window has it. Raises: OSError."""
    lock = FileLock(path, blocking=False, thread_local=False)
    try:
        lock.acquire()
    except Timeout:
        return None
    return lock


@contextlib.contextmanager
def held(path: Path) -> Iterator[bool]:
    """Hold a lock for a while, and tell whether it is held: not while another window has it. Raises: OSError."""
    lock = held_lock(path)
    try:
        yield lock is not None
    finally:
        if lock is not None:
            lock.release()


class OpenLock:
    """Tells whether a document is open in another window: holds one file's lock at a time. folder: where they lie."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._lock: FileLock | None = None

    def hold(self, path: str | os.PathLike[str]) -> bool:
        """Let go of the file before, and return whether this one is now held: False when another has it open.

        Where no lock can be kept at all, as on a full disk, nobody is said to have it.
        """
        self.release()
        name = blake2b(str(Path(path).resolve()).encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            self._lock = held_lock(self._folder / name)
        except OSError:
            return True
        return self._lock is not None

    def release(self) -> None:
        """Let go of the file that is held, if any."""
        if self._lock is not None:
            self._lock.release()
            self._lock = None
