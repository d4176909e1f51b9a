"""Moved documents and recordings are found again: by identity and by content."""

from pathlib import Path

import pytest

from notcher.core.errors import Cancelled
from notcher.core.formats import Document, read_score, write_document
from notcher.core.ledger import KnownDocument, KnownRecording
from notcher.core.ledger.files import content_id, find_document, find_recording
from notcher.core.score import Note, Score


# The two examples that the standard gives: FIPS 180-4 by NIST's "Secure Hash Standard" example values.
@pytest.mark.outside(
    what="the digest that tells a recording",
    source="FIPS 180-4, the example values of NIST",
    tolerance="exact",
    why="bytes",
    kind="standard",
)
@pytest.mark.parametrize(
    ("text", "digest"),
    [
        (b"abc", "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"),
        (
            b"abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq",
            "248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1",
        ),
    ],
)
def test_a_recording_is_told_by_the_published_digest(tmp_path: Path, text: bytes, digest: str) -> None:
    (tmp_path / "a.wav").write_bytes(text)
    assert content_id(tmp_path / "a.wav") == digest


def test_a_document_is_found_by_its_id_under_another_name(tmp_path: Path) -> None:
    score = Score((Note(0.5, 1.0, 2, 5),))
    for name in ("one", "two", "three"):
        (tmp_path / name).mkdir()
        write_document(Document(score), tmp_path / name / f"{name}.notch")
    (tmp_path / "two" / "broken.notch").write_bytes(b"no document")
    moved = tmp_path / "three" / "three.notch"
    known = KnownDocument(read_score(moved)[0], "", "", str(tmp_path / "gone.notch"))
    assert find_document(known, [tmp_path]) == moved
    assert find_document(known, [tmp_path / "one"]) is None
    there = KnownDocument("whatever", "", "", str(moved))
    assert find_document(there, []) == moved, "what is at its place is not looked for"
    with pytest.raises(Cancelled):
        find_document(known, [tmp_path], cancelled=lambda: True)


def test_a_recording_is_found_by_what_it_holds(tmp_path: Path) -> None:
    (tmp_path / "shelf").mkdir()
    (tmp_path / "shelf" / "same size.wav").write_bytes(b"abd")
    found = tmp_path / "shelf" / "take 3.flac"
    found.write_bytes(b"abc")
    known = KnownRecording(content_id(found), str(tmp_path / "lead.wav"), "", 1.0, 3)
    assert find_recording(known, [tmp_path]) == found
    found.unlink()
    assert find_recording(known, [tmp_path]) is None
