"""MIDI and JAMS: read by other libraries to the exact pitches and times, read back by us, refused when damaged."""

import io
import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import jams
import mido
import music21
import numpy as np
import pretty_midi
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from made_scores import any_score
from notcher.cli import main
from notcher.core.formats import Document, FileError, read_document, read_import, write_document
from notcher.core.formats.events import Recording, read_events, write_events
from notcher.core.formats.jams import harte, jams_bytes, read_jams
from notcher.core.formats.midi.reading import read_midi
from notcher.core.formats.midi.writing import BEND_MIDDLE, CLEAN_GUITAR, TICKS_PER_QUARTER, midi_bytes
from notcher.core.formats.musicxml.reading import read_musicxml
from notcher.core.formats.musicxml.writing import musicxml_text
from notcher.core.formats.note_table import note_table
from notcher.core.formats.texttab.reading import read_text_tab
from notcher.core.formats.texttab.writing import text_tab
from notcher.core.hearing import PitchTrack
from notcher.core.score import Attack, BeatMap, End, Meter, Note, PitchCurve, Score, Tone, Tuning, bent_curve
from notcher.core.score.notation import written_bars
from notcher.core.score.rhythm import TICKS, written_times
from notcher.core.theory import chord_tones
from notcher.demo.solo import demo_score

SEEDS = st.integers(0, 10_000)


def opened(data: bytes) -> mido.MidiFile:
    return mido.MidiFile(file=io.BytesIO(data))


def sounding(data: bytes) -> list[tuple[float, float, float, int]]:
    """Onset, end, pitch at the onset and channel of every note, as pretty_midi hears the file: bends of two semitones
    are its own reading of nothing else, so the range set by RPN 0 is read with mido first."""
    file = opened(data)
    spans: dict[int, float] = {}
    for track in file.tracks:
        rpn = {}
        for message in track:
            if message.type == "control_change":
                rpn[message.control] = message.value
                if message.control == 6 and (rpn.get(101), rpn.get(100)) == (0, 0):
                    spans[message.channel] = float(message.value)
    midi = pretty_midi.PrettyMIDI(io.BytesIO(data))
    channels = [spans[at] for at in sorted(spans)]
    notes = []
    for instrument in midi.instruments:
        string = int(instrument.name.split()[1]) - 1
        for note in instrument.notes:
            bends = [bend.pitch for bend in instrument.pitch_bends if bend.time <= note.start + 1e-6]
            bend = channels[string] * (bends[-1] if bends else 0) / BEND_MIDDLE
            notes.append((note.start, note.end, note.pitch + bend, string))
    return sorted(notes)


@pytest.mark.slow
@pytest.mark.outside(
    what="the sounding pitch and time of our MIDI, bends included",
    source="pretty_midi (C. Raffel, D. Ellis, ISMIR 2014)",
    tolerance="2 ms; 1.5 cents",
    why="two ticks; 14 bits over four octaves",
    kind="library",
)
@pytest.mark.parametrize("seed", range(6))
def test_pretty_midi_hears_every_note_at_its_time_and_pitch(seed: int) -> None:
    """Onsets within two ticks (0.6 ms each at 100 beats), pitches within 1.5 cents (14 bits over four octaves)."""
    score = demo_score() if seed == 0 else any_score(seed, count=40)
    heard = sounding(midi_bytes(score))
    assert len(heard) == len(score.notes)
    told = sorted(
        (
            note.onset_s,
            note.offset_s,
            float(score.pitch_at(note, 0.0)) + score.tuning.offset_cents / 100,
            note.string - 1,
        )
        for note in score.notes
    )
    shift = told[0][0] - heard[0][0]  # what is missing of the first bar stands before the recording
    for (on, off, pitch, string), (onset_s, offset_s, midi, own) in zip(heard, told, strict=True):
        assert on + shift == pytest.approx(onset_s, abs=0.002)
        assert off + shift == pytest.approx(offset_s, abs=0.004)
        assert pitch == pytest.approx(midi, abs=0.015)
        assert string == own


@pytest.mark.outside(
    what="how MIDI says the range of its pitch wheel",
    source="MIDI 1.0, registered parameter 0; read by mido",
    tolerance="1 cent",
    why="the parameter counts whole cents",
    kind="standard",
)
def test_the_range_of_a_bend_is_set_by_registered_parameter_zero() -> None:
    """MIDI 1.0: controllers 101 and 100 choose parameter 0, 6 and 38 set semitones and cents, 127 127 ends it."""
    score = Score((Note(0.0, 1.0, 2, 12, curve=bent_curve(2, 1.0)),), beat_map=BeatMap.steady(60, 0.0))
    track = opened(midi_bytes(score)).tracks[2]
    controls = [(message.control, message.value) for message in track if message.type == "control_change"]
    assert controls == [(101, 0), (100, 0), (6, 12), (38, 0), (101, 127), (100, 127)]
    wheel = max(message.pitch for message in track if message.type == "pitchwheel")
    assert wheel == pytest.approx(8192 * 2 / 12, abs=1)  # a whole step of twelve semitones
    assert [m.program for m in track if m.type == "program_change"] == [CLEAN_GUITAR]
    assert (CLEAN_GUITAR + 1) in range(25, 33)  # General MIDI level 1: programs 25 to 32 are guitars


@pytest.mark.slow
@pytest.mark.outside(
    what="the channel of percussion and the programs of guitars",
    source="General MIDI level 1; read by mido",
    tolerance="exact",
    why="numbers",
    kind="standard",
)
def test_strings_have_channels_of_their_own_and_none_is_the_drums() -> None:
    """General MIDI level 1: channel 10, 9 counted from 0, is percussion."""
    file = opened(midi_bytes(demo_score()))
    used = [{m.channel for m in track if not m.is_meta} for track in file.tracks[1:]]
    assert used == [{at} for at in range(6)]
    assert 9 not in set().union(*used)


@pytest.mark.outside(
    what="tempo and meter events of a MIDI file",
    source="Standard MIDI Files 1.0; read by mido",
    tolerance="exact",
    why="whole microseconds and clocks",
    kind="standard",
)
def test_tempo_and_meters_are_where_they_were() -> None:
    """Standard MIDI Files 1.0: a tempo is microseconds to the quarter; a click of 36 clocks is a dotted quarter."""
    beats = BeatMap(((0.0, 0.0), (2.0, 4.0), (5.0, 8.0))).with_meter(2, Meter(6, 8))
    notes = tuple(Note(at, at + 0.4, 1, 5) for at in (0.0, 1.0, 2.5, 4.0))
    file = opened(midi_bytes(Score(notes, beat_map=beats)))
    assert file.ticks_per_beat == TICKS_PER_QUARTER
    tempi = [message.tempo for message in file.tracks[0] if message.type == "set_tempo"]
    assert tempi == [500_000, 750_000]
    meters = [m for m in file.tracks[0] if m.type == "time_signature"]
    assert [(m.numerator, m.denominator, m.clocks_per_click) for m in meters] == [(4, 4, 24), (6, 8, 36)]


def test_a_note_is_as_hard_as_it_was_measured() -> None:
    notes = (Note(0.0, 0.9, 1, 5), Note(1.0, 1.9, 1, 5), Note(2.0, 2.9, 1, 5))
    times = np.arange(0.0, 3.0, 0.01)
    level = np.where(times < 0.95, -20.0, np.where(times < 1.95, -5.0, -80.0))
    track = PitchTrack(times, np.full(times.size, 440.0), np.ones(times.size), level)
    file = opened(midi_bytes(Score(notes, beat_map=BeatMap.steady(60, 0.0)), track))
    soft, loud, least = (m.velocity for m in file.tracks[1] if m.type == "note_on")
    assert 1 <= least < soft < loud <= 127


@pytest.mark.slow
@settings(max_examples=25, deadline=None)
@given(SEEDS)
def test_what_midi_holds_is_read_back(seed: int) -> None:
    """Ours back into ours: tuning, strings, frets, times and the whole pitch of every note, chords, phrases."""
    score = any_score(seed, count=24)
    score = score.with_notes(replace(note, tone=note.tone.NORMAL) for note in score.notes)
    back = read_midi(midi_bytes(score)).score
    assert (back.tuning.open_midi, back.tuning.capo) == (score.tuning.open_midi, score.tuning.capo)
    assert [(note.string, note.fret) for note in back.notes] == [(note.string, note.fret) for note in score.notes]
    for mine, other in zip(score.notes, back.notes, strict=True):
        assert other.onset_s == pytest.approx(mine.onset_s, abs=0.002)
        if mine.duration_s < 0.15:
            continue
        since = np.linspace(0.02, mine.duration_s - 0.02, 9)
        heard = back.pitch_at(other, since)
        # within the 5 ms from bend to bend: a dive of two octaves a second is far off at any one moment
        around = [np.abs(score.pitch_at(mine, since + by_s) - heard) for by_s in np.linspace(-0.005, 0.005, 5)]
        assert np.median(np.min(around, axis=0)) < 0.12
    assert [chord.name for chord in back.chords] == [chord.name for chord in score.chords]
    assert back.beat_map.bar_meter(2) == score.beat_map.bar_meter(2)
    assert back.beat_map.pickup == score.beat_map.pickup


def plain_melody() -> bytes:
    """What anybody's program writes: one track of notes, no strings."""
    file = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("track_name", name="Melody"))
    track.append(mido.MetaMessage("set_tempo", tempo=500_000))
    for key in (64, 67, 69, 71, 74, 76):
        track.append(mido.Message("note_on", note=key, velocity=90))
        track.append(mido.Message("note_off", note=key, time=480))
    stream = io.BytesIO()
    file.save(file=stream)
    return stream.getvalue()


def test_a_plain_melody_is_put_on_the_neck() -> None:
    reading = read_midi(plain_melody())
    score = reading.score
    assert [score.fretted_midi(note) for note in score.notes] == [64, 67, 69, 71, 74, 76]
    assert [note.onset_s for note in score.notes] == pytest.approx([0.5 * at for at in range(6)])
    frets = [note.fret for note in score.notes if note.fret]
    assert max(frets) - min(frets) <= 7  # a hand can hold it
    assert (score.title, score.beat_map.tempo_bpm) == ("Melody", 120.0)


def test_of_several_tracks_one_is_chosen_and_that_is_said() -> None:
    file = opened(plain_melody())
    other = mido.MidiTrack([mido.MetaMessage("track_name", name="Bass"), mido.Message("note_on", note=40),
                            mido.Message("note_off", note=40, time=480)])  # fmt: skip
    file.tracks.append(other)
    stream = io.BytesIO()
    file.save(file=stream)
    data = stream.getvalue()
    assert "only the track 'Melody' is read of 2" in str(read_midi(data).unread[0])
    assert len(read_midi(data, part="Bass").score.notes) == 1
    with pytest.raises(FileError, match="There are Melody, Bass"):
        read_midi(data, part="Flute")


@pytest.mark.parametrize(
    "data", [b"", b"MThd", b"not midi at all", b"MThd\x00\x00\x00\x06\x00\x01\x00\x01\x01\xe0" + bytes(9)]
)
def test_damaged_midi_is_refused(data: bytes) -> None:
    with pytest.raises(FileError, match=r"MIDI"):
        read_midi(data)


# --- JAMS ---
@pytest.mark.outside(
    what="our JAMS is valid, in every namespace",
    source="jams 0.3 and the schemas that it ships",
    tolerance="valid",
    why="its own verdict",
    kind="library",
)
@pytest.mark.filterwarnings("ignore:Passing a schema:DeprecationWarning")
def test_jams_own_validator_takes_it(tmp_path: Path) -> None:
    """jams 0.3: the file's schema and each namespace's."""
    times = np.arange(0.0, 4.0, 0.01)
    track = PitchTrack(times, np.where(times < 2, 440.0, np.nan), np.ones(times.size), np.zeros(times.size))
    path = tmp_path / "solo.jams"
    path.write_bytes(jams_bytes(demo_score(), track))
    told = jams.load(str(path), validate=True, strict=True)
    notes = [row for part in told.search(namespace="note_midi") for row in part.data]
    assert len(notes) == len(demo_score().notes)
    assert {part.namespace for part in told.annotations} == {
        "note_midi", "pitch_contour", "beat", "chord", "key_mode", "segment_open",
    }  # fmt: skip
    voiced = [row.value["voiced"] for row in told.search(namespace="pitch_contour")[0].data]
    assert sum(voiced) == 200


@pytest.mark.outside(
    what="how a chord is written as root and degrees",
    source="C. Harte et al., ISMIR 2005",
    tolerance="exact",
    why="pitch classes",
    kind="standard",
)
@pytest.mark.parametrize("name", ["Em", "Cmaj7", "F#m7b5", "D/F#", "B7#9", "Asus4", "no chord"])
def test_chords_have_the_tones_that_their_degrees_say(name: str) -> None:
    """Harte et al. 2005: 1 is the root, b3 a minor third; the tones of the list are those of the symbol."""
    told = harte(name)
    if name == "no chord":
        assert told == "X"
        return
    steps = {"1": 0, "2": 2, "3": 4, "4": 5, "5": 7, "6": 9, "7": 11, "8": 12, "9": 14, "11": 17, "13": 21}
    degrees = told.split("(")[1].split(")")[0].split(",")
    semitones = {steps[d.lstrip("b#")] - d.count("b") + d.count("#") for d in degrees}
    assert semitones == set(chord_tones(name).intervals)


@settings(max_examples=15, deadline=None)
@given(SEEDS)
@example(115)  # a ninth partial sounds above every fret
def test_what_jams_holds_is_read_back(seed: int) -> None:
    score = any_score(seed, count=24)
    back = read_jams(jams_bytes(score)).score
    assert [(note.string, note.fret, note.attack, note.tone) for note in back.notes] == [
        (note.string, note.fret, note.attack, note.tone) for note in score.notes
    ]
    for mine, other in zip(score.notes, back.notes, strict=True):
        assert (other.onset_s, other.offset_s) == pytest.approx((mine.onset_s, mine.offset_s), abs=1e-4)
    assert [phrase.name for phrase in back.phrases] == [phrase.name for phrase in score.phrases]
    assert back.beat_map.meters == score.beat_map.meters


@pytest.mark.parametrize(
    "data", [b"", b"{}", b"[]", b'{"annotations": 3}', b'{"annotations": [{"namespace": "note_midi"}]}']
)
def test_damaged_jams_is_refused(data: bytes) -> None:
    with pytest.raises(FileError):
        read_jams(data)


# --- CSV, and the commands ---
def test_the_table_has_the_columns_that_scripts_rely_on() -> None:
    import csv

    rows = list(csv.reader(io.StringIO(note_table(demo_score()))))
    assert rows[0][:4] == ["onset_s", "offset_s", "string", "fret"]
    assert len(rows) == 1 + len(demo_score().notes)
    assert len({len(row) for row in rows}) == 1


@pytest.mark.slow
@pytest.mark.parametrize("ending", [".mid", ".jams", ".csv", ".musicxml", ".txt"])
def test_the_command_writes_each_format_and_reads_what_can_be_read(tmp_path: Path, ending: str) -> None:
    write_document(Document(demo_score()), tmp_path / "solo.notch")
    out = tmp_path / f"solo{ending}"
    assert main(["export", str(tmp_path / "solo.notch"), str(out)]) == 0
    if ending == ".csv":
        return
    assert main(["import", str(out), "-o", str(tmp_path / "back.notch")]) == 0
    back = read_document(tmp_path / "back.notch").score
    assert len(back.notes) >= 0.95 * len(demo_score().notes)


def test_curves_keep_what_they_are_called(tmp_path: Path) -> None:
    """A pre-bend let down, a bend, a dive: the same names after MIDI and JAMS."""
    curves = (
        PitchCurve(((0.0, 2.0), (0.4, 2.0), (0.7, 0.0))), PitchCurve(((0.0, 0.0), (0.3, 3.0))),
        PitchCurve(((0.0, 0.0), (0.8, -3.0))),
    )  # fmt: skip
    notes = tuple(Note(float(at), at + 0.9, 3, 12, curve=curve) for at, curve in enumerate(curves))
    score = Score(notes, beat_map=BeatMap.steady(60, 0.0))
    for back in (read_midi(midi_bytes(score)).score, read_jams(jams_bytes(score)).score):
        assert [note.reading.names for note in back.notes] == [note.reading.names for note in notes]
    (tmp_path / "solo.mid").write_bytes(midi_bytes(score))
    assert len(read_import(tmp_path / "solo.mid").score.notes) == 3


# --- MusicXML, there and back ---
MARKED = {Attack.TAP, Attack.REPICK, Attack.SWELL, End.CHOKED, End.RINGS, End.SLIDES_AWAY}
"""What stands beside one note alone; a hammer and a pull lead from one note to another, which may be missing."""


def placed_as(score: Score, said: Callable[[Note], object]) -> list[tuple[int, int, object]]:
    """What is said of each note, in the order of times, strings and frets."""
    times = [time.quarter for time in written_times(score)]
    rows = sorted(zip(times, score.notes, strict=True), key=lambda row: (round(row[0], 3), row[1].string))
    return [(note.string, note.fret, said(note)) for _, note in rows]


def bend_of(note: Note) -> object:
    """How a bend that goes up is called and how large it is; None for what is no such bend."""
    names = tuple(name for name in note.reading.names if name in ("bend", "prebend", "release"))
    return (names, round(note.curve.peak_semitones, 2)) if names else None


@pytest.mark.slow
@settings(max_examples=20, deadline=None)
@given(SEEDS)
def test_what_musicxml_holds_is_read_back(seed: int) -> None:
    """Strings, frets, tuning, capo, meters, written places, how notes are struck, chords, sections."""
    score = any_score(seed, count=24)
    back = read_musicxml(musicxml_text(score).encode()).score
    assert (back.tuning.open_midi, back.tuning.capo) == (score.tuning.open_midi, score.tuning.capo)
    times = written_times(score)
    mine = sorted((time.quarter, note.string, note.fret) for time, note in zip(times, score.notes, strict=True))
    other = sorted((note.starts_at, note.string, note.fret) for note in back.notes)
    assert [place[1:] for place in mine] == [place[1:] for place in other]
    assert [place[0] for place in mine] == pytest.approx([place[0] for place in other], abs=1e-3)
    assert back.beat_map.bar_meter(1) == score.beat_map.bar_meter(1)
    assert [section.name for section in back.sections] == [section.name for section in score.sections]
    assert back.key == score.key
    assert back.tuning.offset_cents == score.tuning.offset_cents
    assert [phrase.name for phrase in back.phrases] == [phrase.name for phrase in score.phrases]
    ends, others = (
        solo.beat_map.quarter_at(np.array([phrase.end_s for phrase in solo.phrases])) for solo in (score, back)
    )
    assert ends == pytest.approx(others, abs=1e-4)
    told = [(swing.start, swing.share) for swing in back.beat_map.swings]
    assert told == [(swing.start, pytest.approx(swing.share, abs=0.01)) for swing in score.beat_map.swings]
    for said in (lambda note: note.attack in MARKED and note.attack, lambda note: note.raked, lambda note: note.tone,
                 lambda note: note.end in MARKED and note.end, lambda note: (note.finger, note.stroke)):  # fmt: skip
        assert placed_as(score, said) == placed_as(back, said)
    for (*_, mine), (*_, other) in zip(placed_as(score, bend_of), placed_as(back, bend_of), strict=True):
        assert mine is None or other == mine


def test_grace_notes_of_another_writer_stand_before_their_note(tmp_path: Path) -> None:
    """As music21 writes them: of no length of their own, so that the beat is their main note's."""
    stream = music21.stream.Stream([music21.tempo.MetronomeMark(number=60), music21.note.Note("A4")])
    for name in ("B4", "C5"):
        stream.append(music21.note.Note(name).getGrace())
    stream.append(music21.note.Note("D5"))
    stream.write("musicxml", tmp_path / "theirs.musicxml")
    reading = read_import(tmp_path / "theirs.musicxml")
    score = reading.score
    assert not reading.unread
    assert [score.fretted_midi(note) for note in score.notes] == [69, 71, 72, 74]
    assert [note.garnish for note in score.notes] == [False, True, True, False]
    onsets = [note.onset_s - score.notes[0].onset_s for note in score.notes]
    assert onsets == pytest.approx([0.0, 0.75, 0.875, 1.0])


@pytest.mark.slow
@pytest.mark.outside(
    what="sounding keys, written places and tied values of our MusicXML",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="0.01 quarter for 95 %",
    why="values are rounded to the notated grid",
    kind="library",
)
@settings(max_examples=12, deadline=None)
@given(SEEDS)
@example(seed=53)  # a pickup in two voices, of which one rests
@example(seed=4341)  # two voices tied over one beat
def test_music21_finds_equal_pitches_onsets_and_durations(seed: int) -> None:
    """Its own reading of the notes' staff: every sounding key at its written place, what is tied once.

    Its `stripTies` mistakes ties of two voices of a flattened part for one another, so ties are read here.
    """
    score = any_score(seed, count=20)
    part = music21.converter.parseData(musicxml_text(score), format="musicxml").parts[0]
    heard = set()
    for note in part.flatten().notes:
        if not isinstance(note, music21.harmony.ChordSymbol):
            begun = [key for key in getattr(note, "notes", (note,)) if key.tie is None or key.tie.type == "start"]
            heard |= {(round(float(note.offset), 3), key.pitch.midi) for key in begun}
    bars = written_bars(score)
    first = bars[0].start / TICKS

    def written(note: Note) -> int:
        natural = note.tone is Tone.NATURAL_HARMONIC
        return round(score.sounding_midi(note) if natural else score.fretted_midi(note))

    mine = {
        (round(piece.start / TICKS - first, 3), written(score.notes[index]))
        for bar in bars for voice in bar.voices for piece in voice if not piece.tied_from for index in piece.indices
    }  # fmt: skip
    assert {midi for _, midi in mine} == {midi for _, midi in heard}
    # it counts from the first bar it fills up, we from the first that is written
    shift = min(at for at, _ in heard) - min(at for at, _ in mine)
    shared = sum(any(abs(at + shift - other) < 0.01 and midi == key for other, key in heard) for at, midi in mine)
    assert shared >= 0.95 * len(mine)


@pytest.mark.slow
@settings(max_examples=15, deadline=None)
@given(SEEDS)
def test_text_tab_keeps_every_string_and_fret(seed: int) -> None:
    """There and back through plain text: the places in their order; chords as they were struck."""
    score = any_score(seed, count=20, beat=seed % 3 > 0)
    score = score.with_notes(note for note in score.notes if note.tone is not Tone.DEAD)
    reading = read_text_tab(text_tab(score), title="back")
    mine = [(note.string, note.fret) for note in score.notes]
    other = [(note.string, note.fret) for note in reading.score.notes]
    assert sorted(other) == sorted(mine)


@pytest.mark.slow
@pytest.mark.outside(
    what="tied values add up to the same quarters",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="fractions of a quarter",
    kind="library",
)
@settings(max_examples=12, deadline=None)
@given(SEEDS)
def test_music21_counts_the_same_lengths(seed: int) -> None:
    """Where one voice sounds alone, tied values add up to the same quarters."""
    score = any_score(seed, count=20)
    bars = written_bars(score)
    part = music21.converter.parseData(musicxml_text(score), format="musicxml").parts[0]
    measures = list(part.getElementsByClass("Measure"))
    for bar, measure in zip(bars, measures, strict=True):
        if bar.second or bar.pieces[0].whole_bar or any(piece.value.name == "256th" for piece in bar.pieces):
            continue
        told = [e for e in measure.notesAndRests if not isinstance(e, music21.harmony.ChordSymbol)]
        if measure.voices:
            continue
        assert [float(e.quarterLength) for e in told] == pytest.approx([piece.length / TICKS for piece in bar.pieces])


# --- a capo ---
CAPO_2 = Score(
    (Note(0.5, 1.0, 1, 2), Note(1.0, 1.5, 2, 5)), Tuning(capo=2), BeatMap.steady(120, 0.5), title="Second watch"
)  # fmt: skip


# MusicXML 4.0, element capo: it "changes the open tuning of the strings specified by staff-tuning by the specified
# number of half-steps"; so an open string, which sounds the capo's fret, is fret 0
def test_musicxml_counts_frets_from_the_capo() -> None:
    text = musicxml_text(CAPO_2)
    assert "<capo>2</capo>" in text
    assert text.count("<fret>0</fret>") == 1
    assert text.count("<fret>3</fret>") == 1
    back = read_musicxml(text.encode()).score
    assert [(note.string, note.fret) for note in back.notes] == [(1, 2), (2, 5)]
    from_nut = text.replace("<fret>3</fret>", "<fret>5</fret>").replace("<fret>0</fret>", "<fret>2</fret>")
    assert [note.fret for note in read_musicxml(from_nut.encode()).score.notes] == [2, 5], "the written pitch decides"


def test_text_tab_says_from_where_frets_are_counted() -> None:
    text = text_tab(CAPO_2)
    assert "capo at fret 2, frets counted from the nut" in text
    assert [note.fret for note in read_text_tab(text).score.notes] == [2, 5]
    foreign = "\n".join(["Capo 2", "", "e|--0---3--|", *(f"{letter}|---------|" for letter in "BGDAE")])
    read = read_text_tab(foreign).score
    assert read.tuning.capo == 2
    assert [read.sounding_midi(note) for note in read.notes] == [66, 69], "F#4 and A4: as played with the capo"


def test_events_and_jams_keep_the_capo(tmp_path: Path) -> None:
    write_events(CAPO_2, tmp_path / "watch.events.json", Recording("watch.wav", 2.0, 44_100))
    assert read_events(tmp_path / "watch.events.json")[0].tuning == CAPO_2.tuning
    assert read_jams(jams_bytes(CAPO_2)).score.tuning.capo == 2
    write_events(replace(CAPO_2, tuning=Tuning()), tmp_path / "open.events.json", Recording("watch.wav", 2.0, 44_100))
    assert "capo" not in (tmp_path / "open.events.json").read_text(), "without one the file is as it always was"


# --- harmonics ---
HARMONICS = Score(
    (
        Note(0.5, 1.0, 3, 7, tone=Tone.NATURAL_HARMONIC, muted=True),
        Note(1.0, 1.5, 3, 3, tone=Tone.NATURAL_HARMONIC, partial=7),
        Note(1.5, 2.0, 2, 12, tone=Tone.TAPPED_HARMONIC),
    ),
    beat_map=BeatMap.steady(120, 0.5),
)


def test_harmonics_come_back_from_every_format_that_has_them(tmp_path: Path) -> None:
    def told(score: Score) -> list[tuple[Tone, bool, int]]:
        return [(note.tone, note.palm_muted, note.partial) for note in score.notes]

    path = tmp_path / "bells.notch"
    write_document(Document(HARMONICS), path)
    assert told(read_document(path).score) == told(HARMONICS)
    assert told(read_text_tab(text_tab(HARMONICS)).score) == told(HARMONICS)
    assert told(read_jams(jams_bytes(HARMONICS)).score) == told(HARMONICS)
    xml = read_musicxml(musicxml_text(HARMONICS).encode()).score
    assert [(note.tone, note.palm_muted) for note in xml.notes] == [told_of[:2] for told_of in told(HARMONICS)]
    write_events(HARMONICS, tmp_path / "bells.events.json", Recording())
    rows = json.loads((tmp_path / "bells.events.json").read_text())["notes"]
    assert rows[0]["techniques"] == ["natural_harmonic", "palm_mute"]
    assert rows[2]["techniques"] == ["natural_harmonic"], "the contract has no other word"
    assert read_events(tmp_path / "bells.events.json")[0].notes[0].palm_muted


def test_a_natural_harmonic_is_written_by_what_sounds() -> None:
    """Fret 7 of the third string is D5, as music21 and mido read it: 55 + 19 (the third partial)."""
    part = music21.converter.parseData(musicxml_text(HARMONICS)).parts[0]
    first = next(iter(part.recurse().notes))
    assert first.pitch.midi == 74
    played = mido.MidiFile(file=io.BytesIO(midi_bytes(HARMONICS)))
    assert next(message.note for message in played if message.type == "note_on") == 74
