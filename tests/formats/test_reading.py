"""Tab and scores of others: text tab in the ways people write it, and MusicXML as another program writes it.

MusicXML is written by music21 (M. Cuthbert and C. Ariza, ISMIR 2010), an independent program, and read back to its
pitches and durations; our own files are read back to what they were made of. The letters of plain-text tab are common
practice, no source.
"""

import io
import zipfile
from dataclasses import replace
from pathlib import Path

import music21
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from notcher.core.formats import FileError, is_importable, musicxml_text, read_import, text_tab
from notcher.core.formats.musicxml.reading import read_musicxml
from notcher.core.formats.texttab.reading import read_text_tab
from notcher.core.score import (
    Attack,
    BeatMap,
    Chord,
    End,
    Meter,
    MeterChange,
    Note,
    Score,
    Tone,
    Tuning,
    bent_curve,
)
from notcher.demo import demo_score

PLAIN = """Night Watch

Verse
e|-----------------|-----------------|
B|-----5--8b10r8-5-|-----------------|
G|-5h7-------------|-7~--5-----------|
D|-----------------|-------7p5-/7----|
A|-----------------|-----------------|
E|-----------------|-----------(3)-x-|
"""
Fact = tuple[int, int, str]


def facts(score: Score) -> list[Fact]:
    return [(note.string, note.fret, str(note.attack)) for note in score.notes]


# --- text tab ---
def test_what_stands_on_the_strings_is_read_with_its_letters() -> None:
    reading = read_text_tab(PLAIN)
    assert reading.unread == ()
    assert (reading.score.title, [phrase.name for phrase in reading.score.phrases]) == ("Night Watch", ["Verse"])
    assert facts(reading.score) == [
        (3, 5, "pick"), (3, 7, "hammer"), (2, 5, "pick"), (2, 8, "pick"), (2, 5, "pick"), (3, 7, "pick"),
        (3, 5, "pick"), (4, 7, "pick"), (4, 5, "pull"), (4, 7, "slide"), (6, 3, "pick"), (6, 0, "pick"),
    ]  # fmt: skip
    bent = reading.score.notes[3]
    assert bent.reading.bend_semitones == pytest.approx(2, abs=0.1)
    assert "release" in bent.reading.names
    assert reading.score.notes[5].vibrato is not None
    assert [note.tone for note in reading.score.notes if note.tone is Tone.DEAD] == [Tone.DEAD]
    doubted = [note for note in reading.score.notes if note.doubt is not None]
    assert [(note.string, note.fret) for note in doubted] == [(6, 3)], "a figure in brackets is written, and doubted"


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("-12-14-", [12, 14]),
        ("-1214--", [12, 14]),
        ("-7-10-", [7, 10]),
        ("-35---", [3, 5]),  # there is no fret 35
        ("--24--", [24]),
        ("-5-5-5-", [5, 5, 5]),
    ],
)
def test_numbers_over_nine(line: str, expected: list[int]) -> None:
    rows = [f"e|{line}|", *(f"{letter}|{'-' * len(line)}|" for letter in "BGDAE")]
    assert [note.fret for note in read_text_tab("\n".join(rows)).score.notes] == expected


@pytest.mark.parametrize(
    ("line", "bend", "names"),
    [
        ("--7b9---", 2.0, {"bend"}),
        ("--7b(9)-", 2.0, {"bend"}),
        ("--7b----", 2.0, {"bend"}),
        ("--12b15-", 3.0, {"bend"}),
        ("--7b½---", 1.0, {"bend"}),
        ("--7b9r7-", 2.0, {"bend", "release"}),
        ("--7br---", 2.0, {"bend", "release"}),
        ("--7^----", 2.0, {"bend"}),
        ("--7full-", 2.0, {"bend"}),
    ],
)
def test_bends_in_letters(line: str, bend: float, names: set[str]) -> None:
    rows = [f"{letter}|{'-' * len(line)}|" for letter in "eB"] + [f"G|{line}|"]
    rows += [f"{letter}|{'-' * len(line)}|" for letter in "DAE"]
    (note,) = read_text_tab("\n".join(rows)).score.notes
    assert (note.string, note.fret) == (3, 12 if "12" in line else 7)
    assert note.reading.bend_semitones == pytest.approx(bend, abs=0.1)
    assert names <= set(note.reading.names)


def rows(order: str, labels: list[str]) -> str:
    """One note on each string, from the lowest up, in an order of lines."""
    lines = {
        string: "-" + "-" * 2 * (6 - string) + str(string) + "-" * (12 - 2 * (6 - string)) for string in range(1, 7)
    }
    strings = range(1, 7) if order == "high first" else range(6, 0, -1)
    return "\n".join(f"{label}{lines[string]}" for label, string in zip(labels, strings, strict=True))


@pytest.mark.parametrize(
    ("order", "labels"),
    [
        ("high first", ["e|", "B|", "G|", "D|", "A|", "E|"]),
        ("high first", ["E|", "B|", "G|", "D|", "A|", "E|"]),
        ("high first", ["", "", "", "", "", ""]),
        ("high first", ["1 ", "2 ", "3 ", "4 ", "5 ", "6 "]),
        ("high first", ["eb|", "Bb|", "Gb|", "Db|", "Ab|", "Eb|"]),
        ("low first", ["E|", "A|", "D|", "G|", "B|", "e|"]),
        ("low first", ["6|", "5|", "4|", "3|", "2|", "1|"]),
        ("low first", ["D|", "A|", "D|", "G|", "B|", "e|"]),
    ],
)
def test_any_order_and_letters_of_the_strings(order: str, labels: list[str]) -> None:
    score = read_text_tab(rows(order, labels)).score
    assert [(note.string, note.fret) for note in score.notes] == [(6, 6), (5, 5), (4, 4), (3, 3), (2, 2), (1, 1)]


@pytest.mark.parametrize(
    ("head", "labels", "opens"),
    [
        ("", "eBGDAE", (64, 59, 55, 50, 45, 40)),
        ("", "DAFCGD", (62, 57, 53, 48, 43, 38)),
        ("Tuning: D A D G B E\n", "eBGDAE", (64, 59, 55, 50, 45, 38)),
        ("Tuning: half-down\n", "eBGDAE", (63, 58, 54, 49, 44, 39)),
    ],
)
def test_the_tuning_is_told_by_a_line_or_by_the_letters(head: str, labels: str, opens: tuple[int, ...]) -> None:
    text = head + "\n" + "\n".join(f"{letter}|--5-----|" for letter in labels)
    assert read_text_tab(text).score.tuning.open_midi == opens


def test_wrapped_systems_follow_each_other_also_without_a_line_between() -> None:
    first = "\n".join(f"{letter}|--{fret}--|" for letter, fret in zip("eBGDAE", "5-----", strict=True))
    second = first.replace("5", "7")
    for text in (f"{first}\n\n{second}", f"{first}\n{second}"):
        score = read_text_tab(text).score
        assert [note.fret for note in score.notes] == [5, 7]
        assert score.notes[0].onset_s < score.notes[1].onset_s


def test_what_is_not_understood_is_told_with_line_and_column() -> None:
    text = "e|--5--$---|\nB|----------|\nG|-----@----|\nD|----------|\nA|----------|\nE|----------|"
    reading = read_text_tab(text)
    assert [str(unread) for unread in reading.unread] == [
        "line 1, column 8: the sign '$'",
        "line 3, column 8: the sign '@'",
    ]
    assert [note.fret for note in reading.score.notes] == [5]


def test_our_own_tab_comes_back_with_strings_frets_and_words() -> None:
    score = demo_score()
    back = read_text_tab(text_tab(score)).score
    assert [(n.string, n.fret) for n in back.notes] == [(n.string, n.fret) for n in score.notes]
    assert back.tuning.open_midi == score.tuning.open_midi
    assert [phrase.name for phrase in back.phrases] == [phrase.name for phrase in score.phrases]
    kept = sum(a.attack is b.attack or b.slid_in for a, b in zip(score.notes, back.notes, strict=True))
    assert kept >= 0.98 * len(score.notes)
    for mine, theirs in zip(score.notes, back.notes, strict=True):
        assert theirs.tone in (mine.tone, Tone.SQUEAL_HARMONIC if mine.tone is Tone.TAPPED_HARMONIC else mine.tone)
        assert (mine.end is End.SLIDES_AWAY) == (theirs.end is End.SLIDES_AWAY)


@pytest.mark.parametrize("semitones", [0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 1.22, 2.7])
def test_a_bend_of_any_size_comes_back_from_text(semitones: float) -> None:
    """Steps and quarters as printed music has them (common practice, no source); in cents what lies between them."""
    score = Score((Note(0.0, 1.0, 2, 12, curve=bent_curve(semitones, 1.0)), Note(1.0, 2.0, 2, 12)))
    back = read_text_tab(text_tab(score)).score.notes
    assert back[0].reading.bend_semitones == pytest.approx(semitones, abs=0.005)
    assert not back[1].bent


def test_a_size_that_no_bend_has_is_no_word_of_ours() -> None:
    """Found by the mutation bench."""
    text = text_tab(replace(demo_score(), phrases=())).replace("up1½", "up3½")
    assert len(read_text_tab(text).score.notes) == len(demo_score().notes)


@pytest.mark.parametrize("text", ["", "Dear student,\nplay it slowly.\n", "e|-----|\nB|-----|\nG|---|\n", "1 2 3 & 4"])
def test_a_text_without_tab_is_refused(text: str) -> None:
    with pytest.raises(FileError, match=r"no tab in this text|no notes in this tab"):
        read_text_tab(text)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.text("-|0123456789³½hpbrsx/\\~()<>e BGDAE\n$", max_size=40), max_size=14))
def test_no_text_breaks_the_reader(lines: list[str]) -> None:
    try:
        reading = read_text_tab("\n".join(lines))
    except FileError:
        return
    assert reading.score.notes
    assert all(0 <= note.fret <= 24 for note in reading.score.notes)


# --- MusicXML ---
def written(stream: music21.stream.Stream) -> bytes:
    return music21.musicxml.m21ToXml.GeneralObjectExporter(stream).parse()


def line_of_music21(meter: str = "4/4") -> music21.stream.Stream:
    part = music21.stream.Part()
    part.append(music21.tempo.MetronomeMark(number=90))
    part.append(music21.meter.TimeSignature(meter))
    for midi, length in ((64, 1.0), (67, 0.5), (69, 0.5), (72, 1 / 3), (71, 1 / 3), (69, 1 / 3), (67, 1.5), (64, 2.5)):
        part.append(music21.note.Note(midi, quarterLength=length))
    score = music21.stream.Score()
    score.insert(0, music21.metadata.Metadata(title="Lamp oil"))
    score.insert(0, part)
    return score


@pytest.mark.outside(
    what="MusicXML of another writer is read by us",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010) writes it",
    tolerance="1e-6 s; 2 %",
    why="onsets; bend sizes are whole numbers there",
    kind="library",
)
@pytest.mark.parametrize("meter", ["4/4", "3/4", "6/8", "5/4"])
def test_another_programs_notes_are_read_and_placed(meter: str) -> None:
    stream = line_of_music21(meter)
    reading = read_musicxml(written(stream))
    score = reading.score
    theirs = [(note.pitch.midi, float(note.offset), float(note.quarterLength)) for note in stream.flatten().notes]
    assert [round(score.fretted_midi(note)) for note in score.notes] == [midi for midi, _, _ in theirs]
    quarters = [float(score.beat_map.quarter_at(note.onset_s)) for note in score.notes]
    assert quarters == pytest.approx([offset for _, offset, _ in theirs], abs=1e-6)
    beat_s = 60 / 90
    lengths = [note.duration_s / beat_s for note in score.notes]
    assert lengths == pytest.approx([0.95 * length for _, _, length in theirs], rel=0.02), "tied over bars it is one"
    assert str(score.beat_map.meter) == meter
    assert score.title == "Lamp oil"
    assert reading.timed


@pytest.mark.outside(
    what="chords, rests and two notes at once of another writer",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010) writes it",
    tolerance="exact",
    why="sounding keys and chord names",
    kind="library",
)
def test_chords_and_rests_and_two_notes_at_once() -> None:
    part = music21.stream.Part([music21.chord.Chord(["E4", "B4"], quarterLength=1), music21.note.Rest(quarterLength=1),
                                music21.note.Note("A4", quarterLength=2)])  # fmt: skip
    part.insert(0, music21.harmony.ChordSymbol("Am7"))
    score = read_musicxml(written(part)).score
    assert sorted(round(score.fretted_midi(note)) for note in score.notes[:2]) == [64, 71]
    assert score.notes[0].onset_s == score.notes[1].onset_s
    assert score.notes[0].string != score.notes[1].string
    assert [chord.name for chord in score.chords] == ["Am7"]


def test_our_own_file_comes_back() -> None:
    score = demo_score()
    back = read_musicxml(musicxml_text(score).encode()).score
    assert [(n.string, n.fret) for n in back.notes] == [(n.string, n.fret) for n in score.notes]
    assert back.tuning.open_midi == score.tuning.open_midi
    bends = [round(note.reading.bend_semitones) for note in back.notes]
    assert sum(a == round(n.reading.bend_semitones) for a, n in zip(bends, score.notes, strict=True)) >= 0.97 * len(
        bends
    )
    again = {Attack.REPICK, Attack.SWELL, Attack.SLIDE}
    assert all(a.attack is b.attack or a.attack in again for a, b in zip(score.notes, back.notes, strict=True))
    assert back.beat_map.tempo_bpm == pytest.approx(score.beat_map.tempo_bpm or 0, rel=0.01)


def test_a_compressed_file_is_read(tmp_path: Path) -> None:
    path = tmp_path / "lamp.mxl"
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("META-INF/container.xml",
                         '<container><rootfiles><rootfile full-path="a/b.xml"/></rootfiles></container>')  # fmt: skip
        archive.writestr("a/b.xml", written(line_of_music21()))
    path.write_bytes(buffer.getvalue())
    assert len(read_import(path).score.notes) == 8


def test_of_several_parts_one_is_chosen_and_the_others_are_named() -> None:
    score = music21.stream.Score()
    for name, midi in (("Bass", 40), ("Lead", 76)):
        part = music21.stream.Part([music21.note.Note(midi, quarterLength=4)])
        part.partName = name
        score.insert(0, part)
    data = written(score)
    assert read_musicxml(data).unread[0].what == "only the part 'Bass' is read of several"
    lead = read_musicxml(data, part="Lead").score
    assert [round(lead.fretted_midi(note)) for note in lead.notes] == [76]
    with pytest.raises(FileError, match="no part 'Drums'"):
        read_musicxml(data, part="Drums")


def test_a_pitch_that_no_neck_has_is_told_and_the_rest_is_read() -> None:
    part = music21.stream.Part([music21.note.Note(midi, quarterLength=1) for midi in (64, 12, 67)])
    reading = read_musicxml(written(part))
    assert [round(reading.score.fretted_midi(note)) for note in reading.score.notes] == [64, 67]
    assert reading.unread


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no MusicXML"),
        (b"<score-partwise><part>", "no MusicXML: line 1"),
        (b"<html/>", "is a 'html'"),
        (b"<score-timewise/>", "score-partwise"),
        (b"<score-partwise version='4.0'/>", "no notes in this MusicXML"),
        (b"PK\x03\x04 broken", "damaged"),
        (b'<!DOCTYPE a [<!ENTITY x "aaaa">]><score-partwise>&x;</score-partwise>', "unfolds"),
    ],
)
def test_what_is_no_score_is_refused(data: bytes, says: str) -> None:
    with pytest.raises(FileError, match=says):
        read_musicxml(data)


@pytest.mark.slow
@settings(max_examples=60, deadline=None)
@given(st.data())
def test_no_damage_breaks_the_reader(data: st.DataObject) -> None:
    whole = musicxml_text(replace(demo_score(), notes=demo_score().notes[:6])).encode()
    at = data.draw(st.integers(0, len(whole) - 1))
    size = data.draw(st.integers(0, 30))
    damaged = whole[:at] + data.draw(st.binary(max_size=20)) + whole[at + size :]
    try:
        read_musicxml(damaged)
    except FileError:
        return


def test_endings(tmp_path: Path) -> None:
    assert is_importable("a.TXT")
    assert not is_importable("a.wav")
    with pytest.raises(FileError, match=r"cannot read '\.doc'"):
        read_import(tmp_path / "a.doc")
    with pytest.raises(FileError, match="no file"):
        read_import(tmp_path / "a.txt")


def test_notes_without_a_place_are_put_where_a_hand_finds_them() -> None:
    score = read_musicxml(written(line_of_music21())).score
    frets = [note.fret for note in score.notes if note.fret]
    assert max(frets) - min(frets) <= 5, "one position for a line of an octave"
    assert isinstance(score.tuning, Tuning)
    assert all(isinstance(note, Note) for note in score.notes)


def test_three_meters_are_read_each_at_its_bar() -> None:
    meters = (MeterChange(1, Meter(4, 4)), MeterChange(3, Meter(3, 4)), MeterChange(5, Meter(7, 8)))
    beats = replace(BeatMap.steady(120, 0.5), meters=meters)
    times = [0.5 + 0.5 * at for at in range(24)]
    score = Score(tuple(Note(time_s, time_s + 0.4, 2, 5) for time_s in times), beat_map=beats)
    assert read_musicxml(musicxml_text(score).encode()).score.beat_map.meters == meters


def test_of_two_meters_in_one_measure_the_later_holds() -> None:
    score = Score((Note(0.5, 0.9, 2, 5),), beat_map=BeatMap.steady(120, 0.5))
    text = musicxml_text(score)
    first = text[text.index("<time") : text.index("</time>") + len("</time>")]
    three = "<time><beats>3</beats><beat-type>4</beat-type></time>"
    end = text.index("</attributes>") + len("</attributes>")
    both = f"{text[:end]}<attributes>{three}</attributes>{text[end:]}"
    assert "<beats>4</beats>" in first
    assert read_musicxml(both.encode()).score.beat_map.meters == (MeterChange(1, Meter(3, 4)),)


def test_chords_keep_their_beat_after_a_lead_in() -> None:
    beats = BeatMap.steady(120, 1.0, pickup=1.0)
    notes = tuple(Note(0.5 + 0.5 * at, 0.9 + 0.5 * at, 2, 5) for at in range(9))
    score = Score(notes, beat_map=beats, chords=(Chord(1.0, "Am"), Chord(3.0, "C7")))
    read = read_musicxml(musicxml_text(score).encode()).score
    apart = [chord.start_s - read.notes[0].onset_s for chord in read.chords]
    assert [chord.name for chord in read.chords] == ["Am", "C7"]
    assert apart == pytest.approx([0.5, 2.5], abs=0.01)
