"""The notes as a table: one line each, the fields of events.json as columns."""

import csv
import io
import json

from notcher.core.formats.events import Recording, events_data
from notcher.core.formats.files.cells import guarded
from notcher.core.score import Score

FIRST = ("onset_s", "offset_s", "string", "fret")
"""The columns that come first; the rest follow in the order of events.json."""


def note_table(score: Score) -> str:
    """Return the notes as CSV (RFC 4180) with a header; what holds several values stands in its cell as JSON."""
    rows = events_data(score, Recording())["notes"]
    names = [*FIRST, *(name for name in _columns(rows) if name not in FIRST)]
    stream = io.StringIO()
    writer = csv.writer(stream)
    writer.writerow(names)
    for row in rows:
        writer.writerow([_cell(row.get(name)) for name in names])
    return stream.getvalue()


def _columns(rows: list[dict[str, object]]) -> list[str]:
    usual = ("id", "onset_s", "offset_s", "string", "fret", "fretted_midi", "strike", "techniques", "bend_semitones",
             "curve", "vibrato", "confidence")  # fmt: skip
    return [*usual, *(name for name in dict.fromkeys(name for row in rows for name in row) if name not in usual)]


def _cell(value: object) -> object:
    if value is None:
        return ""
    if isinstance(value, list) and all(isinstance(part, str) for part in value):
        return guarded(" ".join(value))
    if isinstance(value, str):
        return guarded(value)
    return json.dumps(value) if isinstance(value, list | dict) else value
