"""Zip archives and NumPy arrays of strangers, read in bounded pieces: no header is believed before what it promises
has come.

Sources: PKWARE, "APPNOTE.TXT" 6.3.10, 4.4 (compression methods, flags); NumPy, "NEP 1: a simple file format for NumPy
arrays".
"""

import io
import zipfile
from typing import BinaryIO

import numpy as np

from notcher.core.arrays import FloatArray
from notcher.core.formats.files.atomic import FileError

METHODS = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
"""The others unfold without a bound."""
ENCRYPTED = 0x1
PIECE = 2**20
MOST_MEMBERS = 1_000
MOST_HEADER = 10_000
"""Bytes of an array's header."""


class Archive:
    """An open zip of a stranger's. Raises, like its methods: FileError. kind: what it should be."""

    def __init__(self, stream: BinaryIO, file_name: str, kind: str = "archive") -> None:
        self._file_name, self._kind = file_name, kind
        try:
            self._zip = zipfile.ZipFile(stream)
        except OSError:
            raise
        except Exception as problem:  # zipfile and struct each raise their own on a damaged archive
            raise self._damaged() from problem
        if len(self._zip.filelist) > MOST_MEMBERS:
            raise FileError(f"{file_name!r} claims to hold thousands of files.", "Do not trust this file.")

    def read(self, name: str, most: int) -> bytes | None:
        """Return what a member holds, at most so many bytes of it; None where there is none of this name."""
        info = self._zip.NameToInfo.get(name)
        if info is None:
            return None
        if info.compress_type not in METHODS or info.flag_bits & ENCRYPTED:
            raise FileError(f"{self._file_name!r} holds {name!r}, which is packed in a way no Notcher packs.",
                            "Do not trust this file.")  # fmt: skip
        if info.file_size > most:
            raise self._too_large(name)
        pieces, count = [], 0
        try:
            with self._zip.open(info) as member:
                while piece := member.read(PIECE):
                    pieces.append(piece)
                    count += len(piece)
                    if count > most:
                        raise self._too_large(name)
        except (FileError, OSError):
            raise
        except Exception as problem:  # zlib as well
            raise self._damaged() from problem
        return b"".join(pieces)

    def close(self) -> None:
        self._zip.close()

    def __enter__(self) -> "Archive":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _too_large(self, name: str) -> FileError:
        return FileError(f"{self._file_name!r} holds {name!r}, which is of absurd size.", "Do not trust this file.")

    def _damaged(self) -> FileError:
        return FileError(
            f"{self._file_name!r} is damaged or no {self._kind}.", "Restore it from a copy; it was left as it is."
        )


def read_numbers(data: bytes) -> FloatArray:
    """Return the row of numbers that a .npy file holds, shape (n,), float64.

    Raises: ValueError for anything else, before room is made for it.
    """
    stream = io.BytesIO(data)
    version = np.lib.format.read_magic(stream)
    read_header = {(1, 0): np.lib.format.read_array_header_1_0, (2, 0): np.lib.format.read_array_header_2_0}.get(
        version
    )
    if read_header is None:
        raise ValueError(f"no known array: version {version}")
    shape, _, kind = read_header(stream, max_header_size=MOST_HEADER)
    if kind.kind not in "fiu" or len(shape) != 1:
        raise ValueError(f"no row of numbers: {kind}, shape {shape}")
    if shape[0] * kind.itemsize != len(data) - stream.tell():
        raise ValueError("it holds another count of numbers than it claims")
    return np.frombuffer(data, kind, offset=stream.tell()).astype(np.float64)
