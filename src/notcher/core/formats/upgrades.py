"""The chain of upgrades: how the parts of an older document are said today, one version at a time.

Each step takes and returns the JSON parts of a document by file name. What had no id gets one that follows from what it
says, so that the same file gives the same ids at every opening.
"""

import json
from collections import Counter
from collections.abc import Callable
from typing import Any

from notcher.core.formats.older import doubt_from_text
from notcher.core.score import derived_id

Parts = dict[str, dict[str, Any]]
SCORE, REVISIONS, PRACTICE = "score.json", "revisions.json", "practice.json"
SAME_S = 1e-6  # marks of version 1 were kept as times


def _ids(name: str, rows: list[dict[str, Any]], facts: Callable[[dict[str, Any]], tuple[object, ...]]) -> list[str]:
    seen: Counter[tuple[object, ...]] = Counter()
    ids = []
    for row in rows:
        seen[facts(row)] += 1
        ids.append(derived_id(name, *facts(row), seen[facts(row)]))
    return ids


def _microseconds(time_s: float) -> int:
    return round(1e6 * time_s)


def _span(row: dict[str, Any]) -> tuple[object, ...]:
    return _microseconds(row["start_s"]), _microseconds(row["end_s"])


def _score_1_to_2(old: dict[str, Any]) -> dict[str, Any]:
    """Names of the field, ids, a meter map over quarters, sections apart from phrases; marks are left out."""
    pulse = old["pulse"]
    beats, unit = pulse["meter"]
    spans = {False: [], True: []}  # type: dict[bool, list[dict[str, Any]]]
    for row in old["phrases"]:
        spans[row["section"]].append(row)
    notes = [_note_1_to_2(row) for row in old["notes"]]
    note_ids = _ids("note", notes, lambda row: (_microseconds(row["onset_s"]), row["string"], row["fret"]))
    return {
        "format": old["format"],
        "version": 2,
        "id": derived_id(json.dumps(old, sort_keys=True)),
        "title": old["title"],
        "recording": old["recording"],
        "tuning": old["tuning"],
        "beat_map": {
            # a beat of version 1 was the meter's written beat; positions are quarters now
            "anchors": [[time_s, beat * 4 / unit] for time_s, beat in pulse["anchors"]],
            "meters": [{"bar": 1, "meter": f"{beats}/{unit}"}],
        },
        "chords": old["chords"],
        "phrases": [
            {key: row[key] for key in ("start_s", "end_s", "name", "near_fret") if key in row} | {"id": phrase_id}
            for row, phrase_id in zip(spans[False], _ids("phrase", spans[False], _span), strict=True)
        ],
        "sections": [
            {key: row[key] for key in ("start_s", "end_s", "name")} | {"id": section_id}
            for row, section_id in zip(spans[True], _ids("section", spans[True], _span), strict=True)
        ],
        "excluded": old.get("asides", []),
        "notes": [row | {"id": note_id} for row, note_id in zip(notes, note_ids, strict=True)],
    }


def _note_1_to_2(old: dict[str, Any]) -> dict[str, Any]:
    note = dict(old)
    if "strike" in note:
        note["attack"] = note.pop("strike")
    if isinstance(note.get("doubt"), str):
        doubt = doubt_from_text(note.pop("doubt"))
        if doubt is not None:
            note["doubt"] = {
                "kind": str(doubt.kind),
                "amount": doubt.amount,
                "tone": None if doubt.tone is None else str(doubt.tone),
                "place": None if doubt.place is None else list(doubt.place),
                "text": doubt.text,
            }
    return note


def _marks_1_to_2(old: dict[str, Any], new: dict[str, Any]) -> list[dict[str, Any]]:
    """Marks by the ids of their phrases; one of a stretch that is no phrase any more was shown nowhere."""
    phrases, marks = new["phrases"], []
    for mark in old.get("practice", ()):
        first = [row["id"] for row in phrases if abs(row["start_s"] - mark["start_s"]) < SAME_S]
        last = [row["id"] for row in phrases if abs(row["end_s"] - mark["end_s"]) < SAME_S]
        if first and last:
            ids = [first[0]] if first[0] == last[0] else [first[0], last[0]]
            marks.append({"phrases": ids, "pace": mark["pace"], "result": mark["result"]})
    return marks


def document_1_to_2(parts: Parts) -> Parts:
    """Return the parts of a version-1 document as version 2 says them."""
    score = _score_1_to_2(parts[SCORE])
    result: Parts = {SCORE: score}
    marks = _marks_1_to_2(parts[SCORE], score)
    if marks:
        result[PRACTICE] = {"format": "notcher-practice", "version": 2, "marks": marks}
    if REVISIONS in parts:
        result[REVISIONS] = parts[REVISIONS] | {
            "version": 2,
            "revisions": [
                # a kept state's marks were those of its day; how practice stands is told by the document's own
                revision | {"score": _score_1_to_2(revision["score"])}
                for revision in parts[REVISIONS]["revisions"]
            ],
        }
    return result


UPGRADES: dict[int, Callable[[Parts], Parts]] = {1: document_1_to_2}
"""From each older version to the next."""
