"""Small files that promise or unfold into much are refused or read with little: see `bench/endure_strangers.py`."""

import io
import sys
import zipfile
from pathlib import Path

import numpy as np
import pytest

sys.path.insert(0, str(Path(__file__).parents[2] / "bench"))

from endure_strangers import bombs, outcome
from notcher.core.formats import FileError
from notcher.core.formats.files import archive as module
from notcher.core.formats.files.archive import Archive, read_numbers


@pytest.mark.slow
def test_no_small_file_takes_a_gigabyte_or_ten_seconds(tmp_path: Path) -> None:
    outcomes = [outcome(path) for path in bombs(tmp_path, "blanks.notch", "lists.notch", "array's claim.notch")]
    assert [told for told in outcomes if not told.bounded] == []
    assert [told.words[:4] for told in outcomes] == ["'bla", "'lis", "The "]


def zipped(content: bytes, method: int = zipfile.ZIP_DEFLATED) -> io.BytesIO:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", method) as packed:
        packed.writestr("a", content)
    stream.seek(0)
    return stream


def test_a_member_is_read_up_to_its_limit_and_no_further() -> None:
    with Archive(zipped(b"x" * 5_000), "a.zip") as packed:
        assert packed.read("a", 5_000) == b"x" * 5_000
        assert packed.read("b", 5_000) is None
        with pytest.raises(FileError, match="absurd size"):
            packed.read("a", 4_999)


def test_what_a_directory_claims_is_not_believed() -> None:
    """A directory may say less than unfolds: what comes is no more than it says, and is found wrong by its checksum."""
    whole = zipped(b"x" * 5_000_000).getvalue()
    at = whole.index(b"PK\x01\x02")
    lying = whole[: at + 24] + (10).to_bytes(4, "little") + whole[at + 28 :]
    with Archive(io.BytesIO(lying), "a.zip") as packed, pytest.raises(FileError, match="damaged or no archive"):
        packed.read("a", 100)


@pytest.mark.parametrize("method", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_only_what_unfolds_in_bounded_steps_is_unfolded(method: int) -> None:
    with Archive(zipped(b"x" * 100, method), "a.zip") as packed, pytest.raises(FileError, match="packed in a way"):
        packed.read("a", 1_000)


def test_an_archive_of_thousands_of_files_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "MOST_MEMBERS", 0)
    with pytest.raises(FileError, match="thousands of files"):
        Archive(zipped(b"x"), "a.zip")


@pytest.mark.parametrize("kind", ["<f8", "<f4", "<i4", ">f8"])
def test_a_row_of_numbers_is_read_as_numpy_reads_it(kind: str) -> None:
    row = np.arange(7).astype(kind)
    stream = io.BytesIO()
    np.save(stream, row)
    assert read_numbers(stream.getvalue()).tolist() == row.astype(float).tolist()


@pytest.mark.parametrize("array", [np.zeros((2, 2)), np.array(["a"]), np.array([1j]), np.array(3.0), np.array([None])])
def test_what_is_no_row_of_numbers_is_refused(array: np.ndarray) -> None:
    stream = io.BytesIO()
    np.save(stream, array, allow_pickle=True)
    with pytest.raises(ValueError, match="no row of numbers"):
        read_numbers(stream.getvalue())


def test_a_header_that_claims_more_than_there_is_makes_no_room_for_it() -> None:
    stream = io.BytesIO()
    np.save(stream, np.zeros(3))
    with pytest.raises(ValueError, match="another count"):
        read_numbers(stream.getvalue().replace(b"(3,)", b"(9,)"))
