"""Files: written whole or not at all, read back equal, refused with a reason, valid by published schemas."""

import importlib.util
import io
import json
import re
import resource
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import jsonschema
import music21
import numpy as np
import pytest
import xmlschema
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from made_scores import any_score
from notcher.core.formats import (
    Document,
    FileError,
    atomic_write,
    export,
    musicxml_text,
    read_document,
    read_events,
    text_tab,
    write_document,
    write_events,
    write_pitch_csv,
)
from notcher.core.formats.events import Recording, events_data
from notcher.core.formats.files.atomic import schema
from notcher.core.formats.texttab.writing import clock
from notcher.core.hearing import draft
from notcher.core.neck import strokes
from notcher.core.score import Attack, BeatMap, Chord, Meter, Note, Score, Tone
from notcher.core.sound import Clip
from notcher.demo import demo_score


@pytest.fixture(scope="module")
def demo() -> Score:
    return demo_score()


# --- the document ---
def test_a_document_is_read_back_equal(tmp_path: Path, demo: Score, lick_clip: Clip) -> None:
    score = replace(demo, chords=(Chord(0.5, "E♭m7/9"), Chord(2.0, "A7", certainty=0.4)))
    heard = draft(lick_clip)
    path = tmp_path / "solo.notch"
    write_document(Document(score, lick_clip, heard.track), path)
    back = read_document(path)
    assert back.score == score
    assert back.clip is not None
    assert back.clip.name == lick_clip.name
    assert np.abs(back.clip.samples - lick_clip.samples).max() < 2e-7, "24 bits"
    assert np.array_equal(back.track.pitch_hz, heard.track.pitch_hz, equal_nan=True)


def test_a_document_without_a_recording(tmp_path: Path) -> None:
    write_document(Document(Score((Note(0, 1, 1, 5),))), tmp_path / "a.notch")
    back = read_document(tmp_path / "a.notch")
    assert back.clip is None
    assert back.track.times_s.size == 0


def changed(path: Path, entry: str, change: Callable[[bytes], bytes]) -> None:
    """Rewrite one entry of a document."""
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    parts[entry] = change(parts.get(entry, b""))
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)


def as_version(number: int) -> Callable[[bytes], bytes]:
    return lambda text: json.dumps({**json.loads(text), "version": number}).encode()


def with_note(**values: object) -> Callable[[bytes], bytes]:
    def change(text: bytes) -> bytes:
        data = json.loads(text)
        data["notes"].append({"id": "other", "onset_s": 9, "offset_s": 10, "string": 1, "fret": 1, **values})
        return json.dumps(data).encode()

    return change


def pickled(_: bytes) -> bytes:
    stream = io.BytesIO()
    np.savez(stream, times_s=np.array([{"a": 1}], dtype=object), pitch_hz=0, voicing=0, level_db=0)
    return stream.getvalue()


@pytest.mark.parametrize(
    ("entry", "change", "words"),
    [
        ("score.json", lambda text: text[:50], "damaged or no JSON"),
        ("score.json", lambda text: b"[1, 2]", "does not hold"),
        ("score.json", lambda text: b'{"format": "other"}', "is not a notcher-score"),
        ("score.json", lambda text: b'{"a":' * 100_000, "damaged or no JSON"),
        ("score.json", as_version(3), "newer Notcher"),
        ("score.json", with_note(fret=99), "at notes/1/fret"),
        ("score.json", with_note(onset_s=11), "must end after it starts"),
        ("score.json", with_note(vibrato={"from_s": 0, "rate_hz": 99, "extent_cents": 1}), "no finger makes"),
        ("score.json", lambda text: text.replace(b"0.5", b"NaN"), "damaged or no JSON"),
        ("pitch.npz", lambda _: b"PK nonsense", "measured pitch inside"),
        ("pitch.npz", pickled, "measured pitch inside"),
        ("recording.flac", lambda _: b"fLaC nonsense", "recording inside"),
    ],
)
def test_hostile_or_damaged_documents_are_refused(
    tmp_path: Path, entry: str, change: Callable[[bytes], bytes], words: str
) -> None:
    path = tmp_path / "a.notch"
    write_document(Document(Score((Note(0, 0.5, 1, 5),))), path)
    changed(path, entry, change)
    before = path.read_bytes()
    with pytest.raises(FileError, match=words):
        read_document(path)
    assert path.read_bytes() == before, "a refused file is left as it was"


@pytest.mark.parametrize("content", [b"", b"not a zip", b"PK\x03\x04" + bytes(100)])
def test_what_is_no_document_is_refused(tmp_path: Path, content: bytes) -> None:
    (tmp_path / "a.notch").write_bytes(content)
    with pytest.raises(FileError, match="damaged or no Notcher document"):
        read_document(tmp_path / "a.notch")
    with pytest.raises(FileError, match="no file"):
        read_document(tmp_path / "b.notch")


def test_an_entry_of_absurd_size_is_not_unpacked(tmp_path: Path) -> None:
    path = tmp_path / "bomb.notch"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("score.json", b" " * (65 * 2**20))
    with pytest.raises(FileError, match="absurd size"):
        read_document(path)


def test_a_zip_without_a_score_is_refused(tmp_path: Path) -> None:
    with zipfile.ZipFile(tmp_path / "a.notch", "w") as archive:
        archive.writestr("readme.txt", "hello")
    with pytest.raises(FileError, match="holds no score"):
        read_document(tmp_path / "a.notch")


# --- saving when saving fails ---
def test_a_full_disk_leaves_the_old_file(tmp_path: Path, lick_clip: Clip) -> None:
    path = tmp_path / "a.notch"
    write_document(Document(Score(title="old")), path)
    before = path.read_bytes()
    limits = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (20_000, limits[1]))
    try:
        with pytest.raises(FileError, match="could not be written"):
            write_document(Document(Score(title="new"), lick_clip), path)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, limits)
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path], "no half-written file is left"


@pytest.mark.parametrize("place", ["/proc/a.notch", "/nowhere/at/all/a.notch"])
def test_a_folder_that_cannot_be_written_is_said(place: str) -> None:
    with pytest.raises(FileError, match="could not be written"):
        write_document(Document(Score()), place)


def test_an_error_while_writing_changes_nothing(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("old")

    def interrupted() -> None:
        with atomic_write(path) as stream:
            stream.write(b"half")
            raise KeyError

    with pytest.raises(KeyError):
        interrupted()
    assert path.read_text() == "old"
    assert len(list(tmp_path.iterdir())) == 1


# --- events ---
def test_events_fit_their_schema_and_come_back(tmp_path: Path, demo: Score) -> None:
    recording = Recording("lantern.wav", 55.0, 44_100)
    data = events_data(demo, recording)
    jsonschema.Draft7Validator.check_schema(schema("events"))
    jsonschema.validate(data, schema("events"))
    path = tmp_path / "a.events.json"
    write_events(demo, path, recording)
    back, heard_from = read_events(path)
    assert heard_from == recording
    places = [(note.string, note.fret, note.attack, note.tone) for note in demo.notes]
    assert [(note.string, note.fret, note.attack, note.tone) for note in back.notes] == places
    assert [note.reading.names for note in back.notes] == [note.reading.names for note in demo.notes]


def test_the_demo_uses_the_whole_vocabulary(demo: Score) -> None:
    wanted = set(schema("events")["$defs"]["note"]["properties"]["techniques"]["items"]["enum"])
    used = {name for note in events_data(demo, Recording())["notes"] for name in note["techniques"]}
    assert wanted - used == {"chord"}, "a lead line strums nothing"
    assert 45 <= demo.notes[-1].offset_s <= 70


def test_events_without_places_are_placed_and_others_stay(tmp_path: Path) -> None:
    data = events_data(Score((Note(0, 0.5, 6, 20), Note(0.5, 1, 3, 9))), Recording())
    del data["notes"][1]["string"], data["notes"][1]["fret"]
    path = tmp_path / "a.json"
    path.write_text(json.dumps(data))
    score, _ = read_events(path)
    assert (score.notes[0].string, score.notes[0].fret) == (6, 20)
    assert score.fretted_midi(score.notes[1]) == 64


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"notes": [{"onset_s": 1}]}, "at notes/0"),
        ({"tuning": {"open_midi": [64], "offset_cents": 0}}, "at tuning/open_midi"),
        ({"notes": [{"onset_s": 2, "offset_s": 1, "fretted_midi": 64}]}, "must end after"),
        ({"version": 9}, "newer Notcher"),
    ],
)
def test_bad_events_are_refused(tmp_path: Path, change: dict[str, object], words: str) -> None:
    data = events_data(Score(), Recording()) | change
    (tmp_path / "a.json").write_text(json.dumps(data))
    with pytest.raises(FileError, match=words):
        read_events(tmp_path / "a.json")


def test_the_pitch_curve_has_a_line_every_10_ms_or_finer(tmp_path: Path, lick_clip: Clip) -> None:
    write_pitch_csv(draft(lick_clip).track, tmp_path / "f0.csv")
    table = np.loadtxt(tmp_path / "f0.csv", delimiter=",")
    assert np.diff(table[:, 0]).max() <= 0.010
    assert table[:, 1].min() == 0.0
    # G4 on fret 12 of the third string: 392.00 Hz in the equal-tempered table
    assert np.median(table[(table[:, 0] > 0.6) & (table[:, 0] < 0.9), 1]) == pytest.approx(392.0, rel=0.003)


# --- MusicXML ---
@pytest.fixture(scope="module")
def musicxml_schema() -> etree.XMLSchema:
    """The W3C's MusicXML 4.0 schema, with its two imports led to copies that ship in packages."""
    package = importlib.util.find_spec("musicxml")  # found, not imported: it is large and only its schema is wanted
    assert package is not None
    xsd = next(Path(str(package.origin)).parent.rglob("musicxml_4_0.xsd")).read_text("utf-8")
    shipped = Path(xmlschema.__file__).parent / "schemas"
    for name in ("xml.xsd", "xlink.xsd"):
        xsd = re.sub(rf'schemaLocation="[^"]*/{name}"', f'schemaLocation="{next(shipped.rglob(name)).as_uri()}"', xsd)
    return etree.XMLSchema(etree.fromstring(xsd.encode()))


@pytest.mark.parametrize(
    "beat_map", [None, BeatMap(), BeatMap.steady(80, 0.2, Meter(3, 4)), BeatMap.steady(50, 0.0, Meter(6, 8))]
)
def test_musicxml_is_valid(musicxml_schema: etree.XMLSchema, demo: Score, beat_map: BeatMap | None) -> None:
    score = demo if beat_map is None else replace(demo, beat_map=beat_map)
    tree = etree.fromstring(musicxml_text(score).encode())
    assert musicxml_schema.validate(tree), musicxml_schema.error_log
    per_bar = round(int(tree.findtext(".//divisions")) * score.beat_map.meter.quarters)
    for measure in tree.iter("measure"):
        for voice in ("1", "5"):  # the first of each staff
            alone = [note for note in measure.iter("note") if note.find("chord") is None]
            lasting = [int(note.findtext("duration")) for note in alone if note.findtext("voice") == voice]
            assert sum(lasting) == per_bar, f"bar {measure.get('number')} is not full"


@pytest.mark.slow
@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000))
def test_any_musicxml_is_valid(musicxml_schema: etree.XMLSchema, seed: int) -> None:
    tree = etree.fromstring(musicxml_text(any_score(seed, count=24)).encode())
    assert musicxml_schema.validate(tree), musicxml_schema.error_log


def test_musicxml_says_how_it_is_played(demo: Score) -> None:
    tree = etree.fromstring(musicxml_text(demo).encode())
    count = {name: len(list(tree.iter(name))) for name in ("string", "fret", "bend", "pre-bend", "release", "tap")}
    assert min(count.values()) > 0
    for name in ("hammer-on", "pull-off", "slide"):
        kinds = [element.get("type") for element in tree.iter(name)]
        assert kinds.count("start") == kinds.count("stop") > 0
    # "Negative values indicate pre-bends or releases": MusicXML 4.0, bend-alter
    assert all(float(release.getparent().findtext("bend-alter")) < 0 for release in tree.iter("release"))


def test_musicxml_tells_strokes_and_fingers(musicxml_schema: etree.XMLSchema, demo: Score) -> None:
    played = demo.with_notes(
        replace(note, stroke=stroke, finger=1 + number % 4)
        for number, (note, stroke) in enumerate(zip(demo.notes, strokes(demo.notes), strict=True))
    )
    tree = etree.fromstring(musicxml_text(played).encode())
    assert musicxml_schema.validate(tree), musicxml_schema.error_log
    told = sum(note.stroke is not None for note in played.notes)  # once each, on the staff of tablature
    assert len(list(tree.iter("up-bow"))) + len(list(tree.iter("down-bow"))) == told > 50
    assert len(list(tree.iter("fingering"))) == len(played.notes)


@pytest.mark.slow
@pytest.mark.outside(
    what="the notes of our MusicXML, read by another program",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="pitches and onsets in quarters",
    kind="library",
)
def test_an_independent_reader_finds_the_same_notes(demo: Score) -> None:
    read = music21.converter.parseData(musicxml_text(demo), format="musicxml")
    struck = [note for note in read.recurse().notes if not isinstance(note, music21.harmony.ChordSymbol)]
    sounding = {pitch.midi for note in struck for pitch in note.pitches}
    # a natural harmonic is written by what sounds
    written = {
        note.id: round(demo.sounding_midi(note) if note.tone is Tone.NATURAL_HARMONIC else demo.fretted_midi(note))
        for note in demo.notes
    }
    assert sounding == set(written.values())
    # this reader hangs the strings of a chord on the chord, so single notes are compared by string
    single = {
        (mark.number, note.pitch.midi)
        for note in read.recurse().getElementsByClass("Note")
        for mark in note.articulations
        if isinstance(mark, music21.articulations.StringIndication)
    }
    assert single <= {(note.string, written[note.id]) for note in demo.notes}
    assert len(single) > 20


# --- text ---
def test_text_tab_shows_every_fret_once_on_its_string(demo: Score) -> None:
    text = text_tab(demo)
    rows: dict[int, list[str]] = {string: [] for string in range(1, 7)}
    for line in text.splitlines():
        if re.match(r"^[1-6] [A-Ga-g]b? ", line):
            rows[int(line[0])] += re.findall(r"\d+", line[5:])
    for string, found in rows.items():
        assert found == [str(note.fret) for note in demo.notes if note.string == string]
    assert max(len(line) for line in text.splitlines()) <= 110


def test_text_tab_explains_its_words(demo: Score) -> None:
    text = text_tab(demo)
    head, legend = text.split("Words under the notes")
    assert "strings from the highest: Eb4 Bb3 Gb3 Db3 Ab2 Eb2" in head
    for word in ("ham", "pull", "tap", "slide", "up", "pre", "let", "wave"):
        assert re.search(rf"^  {word}\s", legend, re.MULTILINE), word
    plain = text_tab(Score((Note(0, 1, 1, 5),)))
    assert "Words under" not in plain
    assert "up1½" in head


def test_clock_reads_minutes_and_tenths() -> None:
    assert [clock(time_s) for time_s in (0.0, 59.96, 61.25)] == ["0:00.0", "1:00.0", "1:01.2"]


def test_exports_go_by_the_ending(tmp_path: Path) -> None:
    score = Score((Note(0, 1, 1, 5), Note(1, 2, 1, 7, Attack.HAMMER)))
    for ending in (".txt", ".musicxml"):
        export(score, tmp_path / f"a{ending}")
        assert (tmp_path / f"a{ending}").stat().st_size > 100
    with pytest.raises(FileError, match="cannot write"):
        export(score, tmp_path / "a.doc")
