"""An append-only journal of what changed in a document: one JSON line a change, so that keeping an edit costs little.

The first line holds all JSON parts of the document, each line after it only what differs from the line before. A line
that a kill has torn is the last one, and is passed over.
"""

import json
from dataclasses import fields, replace
from typing import Any

from notcher.core.formats.document import (
    Document,
    document_data,
    practice_to_data,
    revisions_to_data,
)
from notcher.core.formats.models import to_data
from notcher.core.formats.upgrades import PRACTICE, REVISIONS, SCORE, Parts
from notcher.core.score import Score

FIELDS = tuple(field.name for field in fields(Score) if field.name != "notes")


def whole_line(document: Document) -> bytes:
    """Return the line that holds a whole document but for its sounds and its measured pitch."""
    return _line({"whole": document_data(document)})


def change_line(before: Document, after: Document) -> bytes:
    """Return the line that makes one state of a document the next; empty when they say the same."""
    change: dict[str, Any] = {}
    if after.score is not before.score:
        change |= {SCORE: told} if (told := _score_change(before.score, after.score)) else {}
    if after.revisions != before.revisions:
        change[REVISIONS] = revisions_to_data(after.revisions)
    if (after.marks, after.takes) != (before.marks, before.takes):
        change[PRACTICE] = practice_to_data(after.marks, after.takes)
    return _line(change) if change else b""


def _score_change(before: Score, after: Score) -> dict[str, Any]:
    """What differs: other fields whole (None for one at its default), notes one by one by their ids."""
    known = {note.id: note for note in before.notes}
    put = [note for note in after.notes if (old := known.get(note.id)) is not note and old != note]
    change: dict[str, Any] = {}
    others = [name for name in FIELDS if getattr(before, name) is not getattr(after, name)]
    if others:
        data = to_data(replace(after, notes=()))
        change["fields"] = {name: data.get(name) for name in others}
    if put:
        change["put"] = [to_data(note) for note in put]
    gone = known.keys() - {note.id for note in after.notes}
    if gone:
        change["gone"] = sorted(gone)
    return change


def _line(data: dict[str, Any]) -> bytes:
    return json.dumps(data, ensure_ascii=False, allow_nan=False, separators=(",", ":")).encode("utf-8") + b"\n"


def parts_of(journal: bytes) -> Parts:
    """Return the JSON parts that a journal's lines amount to, still unchecked.

    Raises: ValueError when not even its first line can be read.
    """
    first, *changes = journal.split(b"\n")
    parts = json.loads(first)["whole"]
    for line in changes:
        try:
            change = json.loads(line)
            parts = _applied(parts, change)
        except (ValueError, KeyError, TypeError, AttributeError):
            break  # torn by the kill; what lies behind it was never written
    return dict(parts)


def _applied(parts: dict[str, Any], change: dict[str, Any]) -> dict[str, Any]:
    result = parts | {name: part for name, part in change.items() if name != SCORE}
    if SCORE in change:
        told, score = change[SCORE], dict(parts[SCORE])
        for name, value in told.get("fields", {}).items():
            if value is None:
                score.pop(name, None)
            else:
                score[name] = value
        score.setdefault("title", "")
        notes = {note["id"]: note for note in score["notes"]}
        notes |= {note["id"]: note for note in told.get("put", ())}
        for note_id in told.get("gone", ()):
            notes.pop(note_id, None)
        result[SCORE] = score | {"notes": list(notes.values())}
    return result
