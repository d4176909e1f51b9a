"""Whether a document is open in another window: a lock beside the program's state, let go when its owner ends."""

import fcntl
import os
from hashlib import blake2b
from pathlib import Path
from typing import BinaryIO


class OpenLock:
    """Holds the lock of one document's file at a time. folder: where the locks lie."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._stream: BinaryIO | None = None

    def hold(self, path: str | os.PathLike[str]) -> bool:
        """Let go of the file before, and return whether this one is now held: False when another has it open.

        Where no lock can be kept at all, as on a full disk, nobody is said to have it.
        """
        self.release()
        name = blake2b(str(Path(path).resolve()).encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            stream = (self._folder / name).open("ab")
        except OSError:
            return True
        try:
            fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            stream.close()
            return False
        self._stream = stream
        return True

    def release(self) -> None:
        """Let go of the file that is held, if any."""
        if self._stream is not None:
            self._stream.close()
            self._stream = None
