"""Whatever can be made can be saved and opened again: the limits of models, schemas, writers and imports are the same.

A JSON Schema is held against by the reference implementation `jsonschema` too, beside the validator that the program
uses.
"""

import json
from dataclasses import replace
from pathlib import Path
from xml.sax.saxutils import escape

import jsonschema
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from made_scores import any_score
from notcher.core.formats import Document, FileError, read_document, write_document
from notcher.core.formats.document.document import score_to_data
from notcher.core.formats.events import Recording, read_events, write_events
from notcher.core.formats.files.atomic import held_against, schema
from notcher.core.formats.imports import read_import
from notcher.core.score import (
    BeatMap,
    Chord,
    Excluded,
    Facts,
    Note,
    Phrase,
    PitchCurve,
    Revision,
    Score,
    Section,
    limits,
)

QUICK = settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])


def texts(most: int) -> st.SearchStrategy[str]:
    """Any text, and long ones."""
    long = st.builds(lambda letter, count: letter * count, st.characters(exclude_categories=["Cs"]),
                     st.integers(most - 2, most))  # fmt: skip
    return st.one_of(st.text(st.characters(exclude_categories=["Cs"]), max_size=80), long)


NAMES, CHORDS, REMARKS = texts(limits.NAME_CHARS), texts(limits.CHORD_CHARS), texts(limits.REMARK_CHARS)


@given(st.integers(0, 10_000), NAMES, NAMES, CHORDS, REMARKS)
@QUICK
def test_what_a_score_can_be_is_written_read_and_equal(
    tmp_path: Path, seed: int, title: str, name: str, chord: str, remark: str
) -> None:
    score = any_score(seed, count=12)
    score = score.with_note(score.notes[0].id, remark=remark)
    score = replace(score, title=title, chords=(Chord(0.5, chord),), facts=Facts(name, name, name, name),
                    phrases=(Phrase(0.1, 3600.0, name),), sections=(Section(0.0, 3600.0, name),),
                    excluded=(Excluded(3600.0, 1000.0, note=score.notes[-1]),))  # fmt: skip
    document = Document(score, revisions=(Revision(name, "2026-01-01T10:00:00", score),))
    write_document(document, tmp_path / "a.notch")
    back = read_document(tmp_path / "a.notch")
    assert (back.score, back.revisions, back.id) == (document.score, document.revisions, document.id)
    jsonschema.validate(json.loads(json.dumps(score_to_data(score, document_id="a", recording=None))), schema("score"))


@given(st.integers(0, 10_000))
@QUICK
def test_what_is_written_as_events_is_read_again(tmp_path: Path, seed: int) -> None:
    score = any_score(seed, count=12)
    write_events(score, tmp_path / "a.events.json", Recording("a.wav", 10.0, 44_100))
    assert len(read_events(tmp_path / "a.events.json")[0].notes) == len(score.notes)


def a_note(**changes: object) -> Note:
    return Note(**{"onset_s": 1.0, "offset_s": 2.0, "string": 1, "fret": 3, **changes})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("made", "words"),
    [
        (lambda: a_note(remark="x" * 12_000), "a remark may be 10,000 characters long at most; this one has 12,000"),
        (lambda: a_note(remark="half \ud83d"), "half a character"),
        (lambda: Phrase(0, 1, "x" * 1_200), "name of a phrase"),
        (lambda: Section(0, 1, "x" * 1_200), "name of a section"),
        (lambda: Chord(0, "x" * 125), "a chord symbol"),
        (lambda: Score(title="x" * 1_001), "a title"),
        (lambda: Facts(player="x" * 1_001), "a fact"),
        (lambda: Revision("x" * 1_001, "", Score()), "name of a state"),
        (lambda: a_note(offset_s=3_601.0), "within an hour"),
        (lambda: Phrase(0, 3_601.0), "within the hour"),
        (lambda: Chord(-3_601.0, "C"), "no chord begins"),
        (lambda: PitchCurve(tuple((at / 100, 0.0) for at in range(10_001))), "10,000 points"),
        (lambda: BeatMap(tuple((at / 100, at / 50) for at in range(100_001))), "100,000 anchors"),
        (lambda: BeatMap(((0.0, 0.0), (4_000.0, 8_000.0))), "within the hour"),
        (lambda: BeatMap(((0.0, 0.0), (1.0, 39.0)), BeatMap().meters[:0] + (meter_changes("1/8"))), "bars so fast"),
    ],
)
def test_what_no_file_could_hold_no_model_can_be(made: object, words: str) -> None:
    with pytest.raises(ValueError, match=words):
        made()  # type: ignore[operator]


def meter_changes(text: str) -> tuple[object, ...]:
    from notcher.core.score import MeterChange, meter_from_text

    return (MeterChange(1, meter_from_text(text)),)


def test_the_schema_says_the_same_limits_as_the_models() -> None:
    whole = schema("score")
    note, defined = whole["$defs"]["note"]["properties"], whole["properties"]
    assert note["remark"]["maxLength"] == limits.REMARK_CHARS
    assert defined["title"]["maxLength"] == limits.NAME_CHARS
    assert defined["chords"]["items"]["properties"]["name"]["maxLength"] == limits.CHORD_CHARS
    assert defined["notes"]["maxItems"] == limits.MOST_NOTES
    assert defined["excluded"]["maxItems"] == limits.MOST_EXCLUDED
    assert defined["beat_map"]["properties"]["anchors"]["maxItems"] == limits.MOST_ANCHORS
    assert note["curve"]["maxItems"] == limits.MOST_POINTS
    assert {defined[name]["maxItems"] for name in ("chords", "phrases", "sections", "variants")} == {limits.MOST_PARTS}
    for end in (note["onset_s"], note["offset_s"], note["curve"]["items"]["items"][0]):
        assert end["maximum"] == limits.LAST_S
    for facts in defined["facts"]["properties"].values():
        assert facts["maxLength"] == limits.NAME_CHARS


def test_nothing_is_written_that_could_not_be_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a.notch"
    write_document(Document(Score((a_note(),))), path)
    before = path.read_bytes()
    monkeypatch.setattr("notcher.core.score.note.REMARK_CHARS", 50_000)  # as if a model took more than the schema
    with pytest.raises(FileError, match=r"was not written, for it could not be opened again .*remark"):
        write_document(Document(Score((a_note(remark="x" * 12_000),))), path)
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


# --- what strangers' files bring ---
BAR = """<measure number="{n}">{head}<note><pitch><step>E</step><octave>4</octave></pitch><duration>4</duration>
<notations><technical><string>1</string><fret>0</fret></technical></notations></note></measure>"""
HEAD = "<attributes><divisions>1</divisions></attributes>"


def musicxml(title: str, chord: str, mark: str, tempi: int = 1) -> str:
    head = (
        HEAD + f'<harmony><root><root-step>C</root-step></root><kind text="{escape(chord)}">other</kind></harmony>'
        f"<direction><direction-type><rehearsal>{escape(mark)}</rehearsal></direction-type></direction>"
    )
    bars = "".join(
        BAR.format(n=number + 1, head=(head if number == 0 else "") + f'<sound tempo="{100 + number % 3}"/>')
        for number in range(tempi)
    )
    return (
        f'<score-partwise version="4.0"><work><work-title>{escape(title)}</work-title></work><part-list>'
        '<score-part id="P1"><part-name>A</part-name></score-part></part-list>'
        f'<part id="P1">{bars}</part></score-partwise>'
    )


def jams(title: str, chord: str, phrase: str, points: int, anchors: int) -> str:
    note = {"time": 1.0, "duration": 30.0, "value": 64, "confidence": None}
    beside = {"fret": 0, "strike": "pick", "tone": "normal", "curve": [[at / 1000, 0.0] for at in range(points)]}
    beats = {"anchors": [[at / 1000, at / 500] for at in range(anchors)], "meters": [[1, "4/4"]]}
    row = {"time": 0.5, "duration": 2.0, "confidence": None}
    return json.dumps({
        "annotations": [
            {"namespace": "note_midi", "data": [note], "sandbox": {"string": 1, "notes": [beside]}},
            {"namespace": "beat", "data": [], "sandbox": beats},
            {"namespace": "chord", "data": [{**row, "value": chord}], "sandbox": {}},
            {"namespace": "segment_open", "data": [{**row, "value": phrase}], "sandbox": {"what": "phrases"}},
        ],
        "file_metadata": {"title": title},
    })  # fmt: skip


@pytest.mark.parametrize(
    ("name", "content", "cut"),
    [
        ("a.musicxml", musicxml("T" * 1_500, "m" * 150, "verse"), {"the title", "a chord"}),
        ("a.musicxml", musicxml("T", "m", "verse", tempi=1_200), set()),
        ("a.jams", jams("T" * 2_000, "C" * 125, "P" * 1_200, 12_000, 120_000),
         {"the title", "a chord", "the name of a phrase"}),
        ("a.txt", "T" * 1_500 + "\n\n" + "".join(f"{letter}|---0---3---|\n" for letter in "eBGDAE"), set()),
    ],
)  # fmt: skip
def test_what_an_import_makes_is_saved_and_opened_again(tmp_path: Path, name: str, content: str, cut: set[str]) -> None:
    (tmp_path / name).write_text(content, "utf-8")
    result = read_import(tmp_path / name)
    said = {what.what.split(" was cut to ")[0] for what in result.unread if " was cut to " in what.what}
    assert said == cut, "what is cut is said"
    document = Document(result.score)
    write_document(document, tmp_path / "a.notch")
    assert read_document(tmp_path / "a.notch").score == document.score


def test_an_import_beyond_the_hour_is_refused_in_a_sentence(tmp_path: Path) -> None:
    long = musicxml("T", "m", "verse").replace("<duration>4<", "<duration>40000000<")
    (tmp_path / "a.musicxml").write_text(long, "utf-8")
    with pytest.raises(FileError, match=r"'a.musicxml' is no solo: a solo ends within an hour"):
        read_import(tmp_path / "a.musicxml")


def test_both_validators_think_the_same_of_a_fault() -> None:
    data = json.loads(json.dumps(score_to_data(any_score(3), document_id="a", recording=None)))
    for spoil in (lambda note: note.update(fret=25), lambda note: note.update(string="1"), lambda note: note.pop("id"),
                  lambda note: note.update(mood="blue"), lambda note: note.update(curve=[[0.0, 99.0]])):  # fmt: skip
        wrong = json.loads(json.dumps(data))
        spoil(wrong["notes"][4])
        with pytest.raises(FileError, match="at notes/4"):
            held_against(wrong, "score", "a")
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate(wrong, schema("score"))
