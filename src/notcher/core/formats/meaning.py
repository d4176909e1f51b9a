"""What comes again in a solo and what its notes mean, as `notcher patterns` prints it."""

from dataclasses import replace
from typing import Any

from notcher.core.neck import position_fret
from notcher.core.patterns import Kind, Pattern, Patterns, lines_of, phrases_of
from notcher.core.score import Note, Phrase, Score
from notcher.core.score.score import with_derived_ids
from notcher.core.theory import LikelyScale, Target, named_key, outside_notes, ranked_keys, scale_of
from notcher.core.words import boundary_reason_words, group_place_words, shape_words, statement

MOST_KEYS = 5  # further ones are never the answer


def patterns_data(score: Score, patterns: Patterns, targets: tuple[Target, ...]) -> dict[str, Any]:
    """Return what `notcher patterns --json` prints; see the schema of the same name."""
    keys = ranked_keys(score)
    if not score.phrases:  # proposed ones have the same ids at every run
        score = with_derived_ids(replace(score, phrases=phrases_of(score)))
    return {
        "format": "notcher-patterns",
        "version": 1,
        "notes": patterns.count,
        "to_learn": patterns.to_learn,
        "key": [_key(score, key) for key in keys[:MOST_KEYS]],
        "phrases": [_phrase(score, phrase, keys) for phrase in score.phrases],
        "shapes": [_shape(shape) for shape in patterns.shapes],
        "groups": [
            {"first": group.first, "last": group.last, "size": group.size, "count": group.count, "beats": group.beats}
            for group in patterns.groups
        ],
        "targets": [
            {
                "index": target.index,
                "chord": target.chord,
                "degree": target.degree,
                "role": str(target.role),
                "lands_on_change": target.lands_on_change,
            }
            for target in targets
        ],
    }


def _key(score: Score, key: LikelyScale) -> dict[str, Any]:
    return {
        "tonic": named_key(key.tonic, key.scale).tonic,
        "scale": key.scale,
        "weight": round(key.weight, 4),
        "outside": [index for index, _ in outside_notes(score, key)],
    }


def _phrase(score: Score, phrase: Phrase, keys: list[LikelyScale]) -> dict[str, Any]:
    notes: list[Note] = [score.notes[index] for index in score.notes_of(phrase)]
    key = phrase.key.moved(score.tuning.shift) if phrase.key is not None else None
    if key is None:
        likely = scale_of(score, notes, keys)
        key = named_key(likely.tonic, likely.scale) if likely is not None else named_key(0, "major")
    return {
        "id": phrase.id,
        "name": phrase.name,
        "start_s": round(phrase.start_s, 4),
        "end_s": round(phrase.end_s, 4),
        "key": {"tonic": key.tonic, "scale": key.scale},
        "position_fret": position_fret(notes),
    }


def _shape(shape: Pattern) -> dict[str, Any]:
    occurrences = []
    for occurrence in shape.occurrences:
        row: dict[str, Any] = {
            "first": occurrence.first,
            "last": occurrence.last,
            "frets": occurrence.frets,
            "strings": occurrence.strings,
            "semitones": occurrence.semitones,
        }
        if occurrence.but:
            row["but"] = list(occurrence.but)
        occurrences.append(row)
    return {
        "kind": str(shape.kind),
        "occurrences": occurrences,
        "notes": shape.notes,
        "saves": shape.saves,
        "says": shape_words(shape),
    }


def patterns_lines(score: Score, patterns: Patterns) -> list[str]:
    """Return the statement and one line for each shape and group, the one that saves most first."""
    lines = [statement(patterns)]
    for shape in patterns.shapes:
        first = shape.occurrences[0]
        times = [f"{score.notes[other.first].onset_s:.2f}" for other in shape.occurrences[1:]]
        when = "" if shape.kind in (Kind.CELL, Kind.SEQUENCE) else f", at {', '.join(times)} s"
        saves = f"saves {shape.saves}" if shape.saves else "saves none"
        begin_s = score.notes[first.first].onset_s
        lines.append(f"{begin_s:8.2f} s  {shape_words(shape)}{when}; {saves}")
    for group in (*patterns.groups, *patterns.outlines):
        lines.append(f"{score.notes[group.first].onset_s:8.2f} s  {group_place_words(group, score.tuning)}")
    for number, line in enumerate(lines_of(score), start=1):
        names = ", ".join(phrase.name or "a phrase" for phrase in line.phrases)
        why = boundary_reason_words(line.reasons)
        lines.append(f"{line.start_s:8.2f} s  line {number}, {why}: {names}")
    return lines
