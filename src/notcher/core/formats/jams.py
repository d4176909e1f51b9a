"""A solo as JAMS, for those who study music by machine: notes by string, curves, beats, chords, key, segments.

Source: E. Humphrey et al., "JAMS: a JSON annotated music specification for reproducible MIR research", ISMIR 2014;
namespaces of version 0.3. What a namespace has no room for, strings, frets and how a note is played, stands in
sandboxes.
"""

from dataclasses import replace
from typing import Any

import numpy as np

from notcher import __version__
from notcher.core.formats.files.atomic import LARGEST_JSON, FileError, json_bytes, parsed_json
from notcher.core.formats.import_result import (
    MOST_UNREAD,
    ImportResult,
    Unread,
    check_note_count,
    placed,
    thinned,
    without_overlaps,
)
from notcher.core.hearing import EMPTY_TRACK, PitchTrack
from notcher.core.score import (
    FLAT,
    LAST_FRET,
    Attack,
    BeatMap,
    Chord,
    MeterChange,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Section,
    Tone,
    Tuning,
    meter_from_text,
    new_id,
    techniques,
)
from notcher.core.score.limits import CHORD_CHARS, LAST_S, MOST_ANCHORS, MOST_PARTS, MOST_POINTS, NAME_CHARS, fitting
from notcher.core.theory import ChordError, chord_tones

JAMS_VERSION = "0.3.4"
DEGREES = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7", "8", "b9", "9", "#9", "b11", "11", "#11",
           "b12", "b13", "13")  # fmt: skip
"""Semitones over the root as C. Harte et al. write degrees, "Symbolic representation of musical chords", ISMIR 2005."""
MODES = ("major", "dorian", "phrygian", "lydian", "mixolydian", "locrian")


def jams_bytes(score: Score, track: PitchTrack = EMPTY_TRACK) -> bytes:
    """Return a solo as JAMS. track: what was measured, for the pitch contour; else the claimed curves alone."""
    end_s = max((note.offset_s for note in score.notes), default=0.0)
    end_s = max(end_s, float(track.times_s[-1]) if track.times_s.size else 0.0)
    annotations = [_string(score, string, end_s) for string in range(1, score.tuning.strings + 1)]
    annotations += [_contour(track, end_s)] if track.times_s.size else []
    annotations += [
        annotation for annotation in (_beats(score, end_s), _chords(score, end_s), _key(score, end_s)) if annotation
    ]
    for name, spans in (("phrases", score.phrases), ("sections", score.sections)):
        if spans:
            rows = [_row(span.start_s, span.end_s - span.start_s, span.name) for span in spans]
            annotations.append(_annotation("segment_open", rows, end_s, {"what": name}))
    return json_bytes(
        {
            "annotations": annotations,
            "file_metadata": {
                "title": score.title, "artist": score.facts.player, "release": score.facts.version, "duration": end_s,
                "identifiers": {}, "jams_version": JAMS_VERSION,
            },
            "sandbox": {},
        }
    )  # fmt: skip


def _annotation(namespace: str, data: object, end_s: float, sandbox: dict[str, Any] | None = None) -> dict[str, Any]:
    return {
        "namespace": namespace,
        "data": data,
        "annotation_metadata": {
            "curator": {"name": "", "email": ""}, "annotator": {}, "version": "1", "corpus": "",
            "annotation_tools": f"Notcher {__version__}", "annotation_rules": "", "validation": "", "data_source": "",
        },
        "sandbox": sandbox or {},
        "time": 0.0,
        "duration": end_s,
    }  # fmt: skip


def _row(time_s: float, duration_s: float, value: object, confidence: float | None = None) -> dict[str, Any]:
    return {
        "time": round(time_s, 6), "duration": round(max(duration_s, 0.0), 6), "value": value, "confidence": confidence,
    }  # fmt: skip


def _string(score: Score, string: int, end_s: float) -> dict[str, Any]:
    """The notes of one string, their pitches as they begin to sound; the rest beside them."""
    tuning, rows, sandboxes = score.tuning, [], []
    for index, note in enumerate(score.notes):
        if note.string != string:
            continue
        pitch = score.sounding_midi(note) + tuning.offset_cents / 100
        rows.append(_row(note.onset_s, note.duration_s, round(pitch, 4), round(note.certainty, 3)))
        sandboxes.append(
            {
                "fret": note.fret, "strike": str(note.attack), "tone": str(note.tone),
                "muted": note.muted, "partial": note.partial,
                "techniques": list(techniques(score, index)),
                "curve": [[round(time_s, 4), round(bend, 3)] for time_s, bend in note.curve.points],
            }
        )  # fmt: skip
    sandbox = {
        "string": string, "open_midi": list(tuning.open_midi), "capo": tuning.capo, "offset_cents": tuning.offset_cents,
        "notes": sandboxes,
    }  # fmt: skip
    return _annotation("note_midi", rows, end_s, sandbox)


def _contour(track: PitchTrack, end_s: float) -> dict[str, Any]:
    """The measured pitch; frames where no lead sounds are unvoiced."""
    rows = []
    for time_s, hz in zip(track.times_s.tolist(), track.pitch_hz.tolist(), strict=True):
        voiced = bool(np.isfinite(hz))
        rows.append(_row(time_s, 0.0, {"index": 0, "frequency": round(hz, 3) if voiced else 0.0, "voiced": voiced}))
    return _annotation("pitch_contour", rows, end_s)


def _beats(score: Score, end_s: float) -> dict[str, Any] | None:
    """The felt beats, and where each stands in its bar."""
    if not score.beat_map.known:
        return None
    beats = score.beat_map.beats_between(0.0, end_s)
    sandbox = {
        "meters": [[change.bar, str(change.meter)] for change in score.beat_map.meters],
        "anchors": [[round(time_s, 6), quarter] for time_s, quarter in score.beat_map.anchors],
    }
    return _annotation("beat", [_row(beat.time_s, 0.0, beat.beat) for beat in beats], end_s, sandbox)


def _chords(score: Score, end_s: float) -> dict[str, Any] | None:
    if not score.chords:
        return None
    ends_s = [*(chord.start_s for chord in score.chords[1:]), max(end_s, score.chords[-1].start_s)]
    rows = [
        _row(max(0.0, chord.start_s), until_s - chord.start_s, harte(chord.name), chord.certainty)
        for chord, until_s in zip(score.chords, ends_s, strict=True)
    ]
    return _annotation("chord", rows, end_s, {"names": [chord.name for chord in score.chords]})


def harte(name: str) -> str:
    """Return a chord symbol in the syntax of Harte et al.: its root and its degrees; X for what nobody can read."""
    try:
        tones = chord_tones(name)
    except ChordError:
        return "X"
    root = name.strip()[:2] if name.strip()[1:2] in ("#", "b") else name.strip()[:1]
    degrees = [DEGREES[step] for step in tones.intervals if 0 < step < len(DEGREES)]
    bass = DEGREES[(tones.bass - tones.root) % 12]
    return f"{root}:({','.join(['1', *degrees])})" + (f"/{bass}" if tones.bass != tones.root else "")


def _key(score: Score, end_s: float) -> dict[str, Any] | None:
    """The key as it sounds."""
    key = score.sounding_key_at(0.0)
    if key is None:
        return None
    mode = "minor" if key.scale.endswith(" minor") else key.scale if key.scale in MODES else ""
    value = f"{key.tonic}:{mode}" if mode else key.tonic
    return _annotation("key_mode", [_row(0.0, end_s, value)], end_s, {"scale": key.scale})


# --- reading ---
def read_jams(data: bytes, *, title: str = "") -> ImportResult:
    """Read notes, beats, chords and segments from JAMS; what has no string is placed. Raises: FileError."""
    if len(data) > LARGEST_JSON:
        raise FileError("This JAMS file is of absurd size.", "Do not trust this file.")
    content = parsed_json(data, file_name="This file")
    try:
        annotations = [part for part in content["annotations"] if isinstance(part, dict)]
        name = str(content.get("file_metadata", {}).get("title") or title)
    except (KeyError, TypeError, AttributeError) as problem:
        raise FileError("This is no JAMS file, or a damaged one.", "Write it again.") from problem
    unread: list[Unread] = []
    notes: list[Note] = []
    pitches: dict[str, float] = {}
    tuning = next((found_tuning for part in annotations if (found_tuning := _tuning_of(part)) is not None), Tuning())
    for part in annotations:
        if part.get("namespace") in ("note_midi", "note_hz"):
            _take_notes(part, tuning, notes, pitches, unread)
    if not notes:
        raise FileError("There are no notes in this JAMS file.", "Choose another file.")
    unplaced = list(pitches)
    score = Score((), tuning, _beat_map(annotations), title=fitting(name, NAME_CHARS)).with_notes(notes)
    try:
        score = placed(score, unplaced, pitches)
    except Exception as problem:
        raise FileError("These notes are on no guitar's neck.", "Choose another file.") from problem
    score = score.with_notes(without_overlaps(score.notes))
    return ImportResult(_with_form(score, annotations), tuple(unread[:MOST_UNREAD]), timed=True)


def _rows(part: dict[str, Any]) -> list[tuple[float, float, Any]]:
    """Time, duration and value of what an annotation holds; what is none is left out."""
    rows = []
    data = part.get("data")
    for row in data if isinstance(data, list) else []:
        try:
            time_s, duration_s = float(row["time"]), float(row["duration"])
        except (TypeError, KeyError, ValueError):
            continue
        if 0 <= time_s < LAST_S and 0 <= duration_s <= LAST_S - time_s:
            rows.append((time_s, duration_s, row.get("value")))
    return rows


def _tuning_of(part: dict[str, Any]) -> Tuning | None:
    sandbox = part.get("sandbox")
    try:
        return Tuning(tuple(map(float, sandbox["open_midi"])), int(sandbox["capo"]), float(sandbox["offset_cents"]))  # type: ignore[index]
    except (TypeError, KeyError, ValueError):
        return None


def _take_notes(
    part: dict[str, Any], tuning: Tuning, notes: list[Note], pitches: dict[str, float], unread: list[Unread]
) -> None:
    sandbox = part.get("sandbox") if isinstance(part.get("sandbox"), dict) else {}
    string = sandbox.get("string") if sandbox else None
    beside = sandbox.get("notes") if sandbox else None
    for number, (time_s, duration_s, value) in enumerate(_rows(part)):
        check_note_count(len(notes))
        try:
            midi = float(value) if part["namespace"] == "note_midi" else 69 + 12 * float(np.log2(float(value) / 440.0))
        except (TypeError, ValueError, ZeroDivisionError):
            midi = np.nan
        note = Note(time_s, time_s + max(duration_s, 0.01), 1, 0, id=new_id())
        mine = beside[number] if isinstance(beside, list) and number < len(beside) else {}
        note, understood = _dressed(note, mine, string, tuning)  # also a harmonic above every fret
        if not understood and not 20 <= midi <= 100:
            unread.append(Unread(1, 1, f"a note at {time_s:.2f} s that is on no guitar's neck"))
            continue
        notes.append(note)
        if not understood:
            pitches[note.id] = float(round(midi - tuning.offset_cents / 100))


def _dressed(note: Note, extra: Any, string: Any, tuning: Tuning) -> tuple[Note, bool]:
    """A note as ours is told in a sandbox; whether its place is known."""
    try:
        fret = int(extra["fret"])
        if not (1 <= int(string) <= tuning.strings and 0 <= fret <= LAST_FRET):
            return note, False
        points = tuple((float(time_s), float(bend)) for time_s, bend in extra["curve"])
        curve = PitchCurve(thinned(points, MOST_POINTS)) if points else FLAT
        return replace(note, string=int(string), fret=fret, attack=Attack(extra["strike"]), tone=Tone(extra["tone"]),
                       muted=bool(extra.get("muted", False)), partial=int(extra.get("partial", 0)),
                       curve=curve, locked=True), True  # fmt: skip
    except (TypeError, KeyError, ValueError):
        return note, False


def _beat_map(annotations: list[dict[str, Any]]) -> BeatMap:
    part = next((part for part in annotations if part.get("namespace") == "beat"), None)
    if part is None:
        return BeatMap()
    sandbox = part.get("sandbox")
    try:
        anchors = tuple((float(time_s), float(quarter)) for time_s, quarter in sandbox["anchors"])  # type: ignore[index]
        meters = tuple(MeterChange(int(bar), meter_from_text(str(meter))) for bar, meter in sandbox["meters"])  # type: ignore[index]
        return BeatMap(thinned(anchors, MOST_ANCHORS), meters)
    except (TypeError, KeyError, ValueError):
        rows = _rows(part)
    try:
        firsts = [at for at, (_, _, value) in enumerate(rows) if value == 1]
        first = firsts[0] if firsts else 0
        beats = tuple((time_s, float(at - first)) for at, (time_s, _, _) in enumerate(rows))
        return BeatMap(thinned(beats, MOST_ANCHORS))
    except ValueError:
        return BeatMap()


def _with_form(score: Score, annotations: list[dict[str, Any]]) -> Score:
    """The score with chords, phrases and sections."""
    chords: list[Chord] = []
    form: dict[str, list[tuple[float, float, str]]] = {"phrases": [], "sections": []}
    for part in annotations:
        sandbox = part.get("sandbox") if isinstance(part.get("sandbox"), dict) else {}
        if part.get("namespace") == "chord":
            names = sandbox.get("names") if sandbox else None
            for number, (time_s, _, value) in enumerate(_rows(part)):
                ours = isinstance(names, list) and number < len(names) and isinstance(names[number], str)
                chords.append(Chord(time_s, fitting(names[number] if ours and names else str(value), CHORD_CHARS)))
        elif part.get("namespace") == "segment_open":
            what = "sections" if sandbox and sandbox.get("what") == "sections" else "phrases"
            form[what] += [
                (time_s, time_s + length, fitting(str(value), NAME_CHARS))
                for time_s, length, value in _rows(part)
                if length > 0
            ]
    return replace(
        score, chords=tuple(sorted(chords, key=lambda chord: chord.start_s)[:MOST_PARTS]),
        phrases=tuple(Phrase(*span) for span in sorted(form["phrases"])[:MOST_PARTS]),
        sections=tuple(Section(*span) for span in sorted(form["sections"])[:MOST_PARTS]),
    )  # fmt: skip
