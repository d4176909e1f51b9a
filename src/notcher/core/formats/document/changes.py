"""What changed in a document, as the lines of its journal say it, so that keeping an edit costs little.

The first line holds all JSON parts of the document, each line after it only what differs from the line before. A line
that a kill has torn is the last one, and is passed over.
"""

from collections.abc import Sequence
from dataclasses import fields, replace
from typing import Any

from notcher.core.formats.document.document import Document, document_data, revisions_to_data
from notcher.core.formats.document.models import to_data
from notcher.core.formats.document.upgrades import REVISIONS, SCORE, Parts
from notcher.core.formats.files.journal import parsed_line
from notcher.core.score import Score

FIELDS = tuple(field.name for field in fields(Score) if field.name != "notes")


def whole_change(document: Document) -> dict[str, Any]:
    """Return what holds a whole document but for its sounds and its measured pitch."""
    return {"whole": document_data(document)}


def change_between(before: Document, after: Document) -> dict[str, Any]:
    """Return what makes one state of a document the next; empty when they say the same."""
    change: dict[str, Any] = {}
    if after.score is not before.score:
        change |= {SCORE: score_change} if (score_change := _score_change(before.score, after.score)) else {}
    if after.revisions != before.revisions:
        change[REVISIONS] = revisions_to_data(after.revisions)
    return change


def _score_change(before: Score, after: Score) -> dict[str, Any]:
    """What differs: other fields whole (None for one at its default), notes one by one by their ids."""
    notes_before = {note.id: note for note in before.notes}
    put = [note for note in after.notes if (old := notes_before.get(note.id)) is not note and old != note]
    change: dict[str, Any] = {}
    others = [name for name in FIELDS if getattr(before, name) is not getattr(after, name)]
    if others:
        data = to_data(replace(after, notes=()))
        change["fields"] = {name: data.get(name) for name in others}
    if put:
        change["put"] = [to_data(note) for note in put]
    removed = notes_before.keys() - {note.id for note in after.notes}
    if removed:
        change["gone"] = sorted(removed)
    return change


def parts_of(lines: Sequence[str]) -> Parts:
    """Return the JSON parts that a journal's lines amount to, still unchecked.

    Raises: ValueError when not even its first line can be read.
    """
    if not lines:
        raise ValueError("a journal without a line")
    parts = parsed_line(lines[0])["whole"]
    for line in lines[1:]:
        try:
            parts = _applied(parts, parsed_line(line))
        except (ValueError, KeyError, TypeError, AttributeError):
            break  # torn by the kill; what lies behind it was never written
    return dict(parts)


def _applied(parts: dict[str, Any], change: dict[str, Any]) -> dict[str, Any]:
    result = parts | {name: part for name, part in change.items() if name != SCORE}
    if SCORE in change:
        score_change, score = change[SCORE], dict(parts[SCORE])
        for name, value in score_change.get("fields", {}).items():
            if value is None:
                score.pop(name, None)
            else:
                score[name] = value
        score.setdefault("title", "")
        notes = {note["id"]: note for note in score["notes"]}
        notes |= {note["id"]: note for note in score_change.get("put", ())}
        for note_id in score_change.get("gone", ()):
            notes.pop(note_id, None)
        result[SCORE] = score | {"notes": list(notes.values())}
    return result
