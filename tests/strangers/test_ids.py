"""Ids are names and never ways to another place: what a stranger's file calls itself leads nowhere."""

import json
import zipfile
from pathlib import Path

import pytest

from notcher.core.formats import Document, read_document, write_document
from notcher.core.formats.document.document import read_score
from notcher.core.formats.document.recovery import AutosaveStore
from notcher.core.proving import Take
from notcher.core.score import Note, Score
from notcher.core.score.identity import is_id, new_id
from notcher.ui.shell.program import Program

WICKED = ("../../outside", "a/b", "..", ".", "a b", "a\nb", "ä", "con:")


def called(tmp_path: Path, document_id: str) -> Path:
    """A document that calls itself something."""
    path = tmp_path / "a.notch"
    write_document(Document(Score((Note(1, 2, 1, 3),))), path)
    with zipfile.ZipFile(path) as archive:
        data = json.loads(archive.read("score.json"))
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("score.json", json.dumps({**data, "id": document_id}))
    return path


@pytest.mark.parametrize("document_id", WICKED)
def test_a_foreign_id_gets_one_of_ours_the_same_at_every_reading(tmp_path: Path, document_id: str) -> None:
    path = called(tmp_path, document_id)
    first, second = read_document(path), read_document(path)
    assert is_id(first.id)
    assert first.id == second.id == read_score(path)[0]
    assert "one of its own" in first.said
    write_document(first, path)
    assert read_document(path).said == "", "said once"


@pytest.mark.parametrize("wicked", WICKED)
def test_no_document_and_no_take_can_be_called_so(tmp_path: Path, wicked: str) -> None:
    with pytest.raises(ValueError, match="no id"):
        Document(Score(), id=wicked)
    with pytest.raises(ValueError, match="no id"):
        Take(wicked, "A", ("p",), 0.0, 1.0, 1.0, "")


def test_our_own_ids_are_ids(tmp_path: Path) -> None:
    assert is_id(new_id())
    store = AutosaveStore(tmp_path, new_id())
    assert store.folder.parent == tmp_path


def test_opening_one_says_it_and_keeps_unsaved_work_in_its_folder(program: Program, tmp_path: Path, qtbot) -> None:  # type: ignore[no-untyped-def]
    path = called(tmp_path, "../../../outside")
    program.open_path(str(path))
    qtbot.waitUntil(lambda: "one of its own" in program.said, timeout=10_000)
    assert is_id(program.session.document.id)
