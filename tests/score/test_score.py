"""The model: pitches, curves and their names, beat map, written time."""

from dataclasses import replace

import numpy as np
import pytest

from notcher.core.score import (
    STANDARD,
    TUNINGS,
    USUAL_TUNINGS,
    Attack,
    BeatMap,
    Chord,
    End,
    Note,
    Phrase,
    PitchCurve,
    Score,
    Tone,
    Tuning,
    TuningError,
    Vibrato,
    bent_curve,
    midi_to_hz,
    read_curve,
    snapped_bend,
    techniques,
    tuning_from_text,
)
from notcher.core.score.rhythm import TICKS, written_times
from notcher.core.words import bend_name, count_word, note_name, open_strings


# ISO 16:1975 for A4; the others from the equal-tempered table in the CRC Handbook of Chemistry and Physics,
# "Musical scales", quoted from memory to 0.01 Hz.
@pytest.mark.outside(
    what="frequencies of the tempered scale",
    source="ISO 16:1975; CRC Handbook of Chemistry and Physics, Musical scales",
    tolerance="0.006 Hz",
    why="the table is printed to 0.01 Hz",
    kind="derivation",
)
@pytest.mark.parametrize(("midi", "hertz"), [(69, 440.0), (60, 261.63), (64, 329.63), (40, 82.41), (88, 1318.51)])
def test_pitches_have_their_published_frequency(midi: int, hertz: float) -> None:
    assert midi_to_hz(midi) == pytest.approx(hertz, abs=0.006)


@pytest.mark.outside(
    what="the size of a cent",
    source="A. Ellis in Helmholtz, 1885, App. XX: 1200 to the octave",
    tolerance="1e-9",
    why="floating point",
    kind="derivation",
)
def test_the_offset_moves_every_pitch_by_cents() -> None:
    # 1200 cents to the octave: Ellis in Helmholtz, "On the Sensations of Tone", 1885, App. XX
    assert midi_to_hz(69, offset_cents=1200) == pytest.approx(880.0)


# Open strings of a guitar: common practice, no source.
def test_standard_tuning_is_e_b_g_d_a_e() -> None:
    assert [note_name(midi) for midi in STANDARD.open_midi] == ["E4", "B3", "G3", "D3", "A2", "E2"]
    assert open_strings(TUNINGS["half-down"]) == "Eb4 Bb3 Gb3 Db3 Ab2 Eb2"
    assert tuning_from_text("E4 B3 G3 D3 A2 D2") == TUNINGS["drop-d"]
    assert tuning_from_text("Eb4 Bb3 Gb3 C#3 G#2 Eb2") == TUNINGS["half-down"]
    assert tuning_from_text("E2 A2 D3 G3 B3 E4") == TUNINGS["standard"], "from whichever end"


# the open strings of each, from the lowest; common practice, no source
@pytest.mark.parametrize(
    ("name", "letters"),
    [("standard", "E A D G B E"), ("drop-d", "D A D G B E"), ("dadgad", "DADGAD"), ("open-g", "D G D G B D"),
     ("open-d", "D A D F# A D"), ("open-e", "E B E G# B E"), ("open-a", "E A E A C# E"), ("open-c", "C G C G C E"),
     ("double-drop-d", "D A D G B D"), ("drop-c", "C G C F A D"), ("fourths", "E A D G C F"),
     ("two-whole-down", "C F Bb Eb G C"), ("seven-standard", "B E A D G B E"), ("eight-standard", "F# B E A D G B E"),
     ("standard", "e B G D A E"), ("half-down", "Eb Ab Db Gb Bb Eb")],
)  # fmt: skip
def test_tunings_are_read_as_players_say_them(name: str, letters: str) -> None:
    assert tuning_from_text(letters) == USUAL_TUNINGS[name] == tuning_from_text(name)


# what an open tuning is called by is the chord of its open strings, by their pitch classes from the root
@pytest.mark.parametrize("name", [name for name in USUAL_TUNINGS if name.startswith("open-")])
def test_an_open_tuning_is_the_chord_that_it_is_called_by(name: str) -> None:
    root = {"c": 0, "d": 2, "e": 4, "g": 7, "a": 9}[name.split("-")[1]]
    third = 3 if name.endswith("minor") else 4
    assert {round(midi - root) % 12 for midi in USUAL_TUNINGS[name].open_midi} == {0, third, 7}


def test_the_parts_of_a_tuning_that_is_none() -> None:
    for wrong in ("", "H", "E A", "E4 B3 G3", "C C C C C C C C C"):
        with pytest.raises(TuningError, match="is no tuning"):
            tuning_from_text(wrong)


@pytest.mark.parametrize("text", ["", "standart", "E4 B3 G3", "E4 B3 G3 D3 A2 H2", "E4 B3 G3 D3 A2 E99"])
def test_a_tuning_no_one_can_read_is_refused(text: str) -> None:
    with pytest.raises(TuningError, match="is no tuning"):
        tuning_from_text(text)


# Sizes in steps: a quarter bend is 50 cents, a half step 100, three quarters 150, a whole 200 (common practice, no
# source); what lies farther than 15 cents from all of them is written in cents.
@pytest.mark.parametrize(
    ("semitones", "name"),
    [
        (0.5, "¼"),
        (0.62, "¼"),
        (0.85, "½"),
        (1.5, "¾"),
        (1.7, "170¢"),
        (1.9, "1"),
        (2.5, "1¼"),
        (2.7, "270¢"),
        (3.9, "2"),
        (-2.0, "−1"),
    ],
)
def test_bend_sizes_are_written_in_steps(semitones: float, name: str) -> None:
    assert bend_name(semitones) == name
    assert np.sign(snapped_bend(semitones)) == np.sign(semitones)


LATE = PitchCurve(((0, 0.0), (0.7, 0.0), (0.95, 0.5)))
EARLY = PitchCurve(((0, 0.0), (0.1, 0.5), (1.0, 0.5)))


# What each word means in the pitch curve: common practice, no source.
@pytest.mark.parametrize(
    ("curve", "names"),
    [
        (PitchCurve(), ()),
        (bent_curve(2, 1.0), ("bend",)),
        (bent_curve(2, 1.0, released=True), ("bend", "release")),
        (bent_curve(2, 1.0, prebent=True), ("prebend",)),
        (bent_curve(2, 1.0, prebent=True, released=True), ("prebend", "release")),
        (LATE, ("curl",)),
        (EARLY, ("bend",)),
        (PitchCurve(((0, 0), (0.5, 0.2))), ()),
        (PitchCurve(((0, 0), (0.3, 0), (0.5, -2), (0.8, 0))), ("dip",)),
        (PitchCurve(((0, 0), (0.3, 0), (1.0, -7))), ("dive",)),
        (PitchCurve(((0, -1.5), (0.2, 0))), ("dip",)),
        (PitchCurve(((0, 2), (0.2, 2), (0.4, 0), (0.6, 0), (0.8, 2))), ("prebend", "release", "bend")),
    ],
)
def test_a_curve_has_one_reading(curve: PitchCurve, names: tuple[str, ...]) -> None:
    assert read_curve(curve, None, 1.0).names == names


def test_the_size_is_what_is_held_not_what_is_passed_through() -> None:
    spike = PitchCurve(((0, 0), (0.3, 2.0), (0.7, 2.0), (0.705, 4.0), (0.71, 2.0), (1.0, 2.0)))
    assert read_curve(spike, None, 1.0).bend_semitones == pytest.approx(2.0, abs=0.01)


def test_vibrato_is_named_only_when_it_begins_in_time() -> None:
    assert read_curve(PitchCurve(), Vibrato(0.3, 5, 20), 1.0).names == ("vibrato",)
    assert read_curve(PitchCurve(), Vibrato(1.3, 5, 20), 1.0).names == ()


# "A string only stretches up": common practice, no source.
def test_vibrato_stands_on_the_fret() -> None:
    wave = Vibrato(0.1, 5, 30).at(np.linspace(0, 2, 2001))
    assert wave.min() == pytest.approx(0.0, abs=1e-9)
    assert wave.max() == pytest.approx(0.6, abs=0.01)
    assert np.all(wave[:100] == 0)


@pytest.mark.parametrize(
    "points", [((0.5, 1), (0.2, 1)), ((0, 1), (0, 2)), ((-0.1, 0),), ((0, float("nan")),), ((0, 99.0),)]
)
def test_impossible_curves_are_refused(points: tuple[tuple[float, float], ...]) -> None:
    with pytest.raises(ValueError):
        PitchCurve(points)


@pytest.mark.parametrize(
    "change", [{"offset_s": 0.5}, {"string": 0}, {"fret": 25}, {"certainty": 1.5}, {"onset_s": -1.0}]
)
def test_impossible_notes_are_refused(change: dict[str, float]) -> None:
    with pytest.raises(ValueError):
        replace(Note(1.0, 2.0, 1, 5), **change)


def test_scores_keep_order_and_strings() -> None:
    with pytest.raises(ValueError, match="time order"):
        Score((Note(2, 3, 1, 1), Note(1, 2, 1, 1)))
    with pytest.raises(ValueError, match="does not have"):
        Score((Note(0, 1, 6, 1),), Tuning((64, 59, 55, 50)))
    score = Score().with_inserted(Note(2, 3, 1, 1)).with_inserted(Note(1, 2, 1, 1))
    assert [note.onset_s for note in score.notes] == [1, 2]
    assert score.first_after(1.5) == 1
    assert score.without([score.notes[0].id]).notes == (Note(2, 3, 1, 1),)


def test_phrases_and_chords_are_found_by_time() -> None:
    phrases = (Phrase(0, 4, "a"), Phrase(4, 10, "b"))
    score = Score(phrases=phrases, chords=(Chord(1, "Em"), Chord(5, "C")))
    assert score.phrase_at(4.0).name == "b"  # type: ignore[union-attr]
    assert score.phrase_at(11.0) is None
    assert [score.chord_at(time_s) for time_s in (0.5, 1.0, 6.0)] == ["", "Em", "C"]


def test_the_beat_map_maps_time_to_beats_and_back() -> None:
    # 120 beats a minute: half a second each
    beat_map = BeatMap.steady(120, 0.5)
    assert beat_map.tempo_bpm == pytest.approx(120)
    times_s = np.array([0.0, 0.5, 1.75, 99.0])
    assert beat_map.quarter_at(times_s) == pytest.approx([-1, 0, 2.5, 197])
    assert beat_map.time_at(beat_map.quarter_at(times_s)) == pytest.approx(times_s)
    assert [(beat.bar, beat.beat) for beat in beat_map.beats_between(0.5, 2.6)] == [
        (1, 1),
        (1, 2),
        (1, 3),
        (1, 4),
        (2, 1),
    ]
    with pytest.raises(ValueError, match="no beats yet"):
        BeatMap().quarter_at(times_s)
    with pytest.raises(ValueError, match="run forwards"):
        BeatMap(((0.0, 0.0), (1.0, 0.0)))


def drifting() -> BeatMap:
    return BeatMap(((0.0, 0.0), (1.0, 2.0), (3.0, 4.0)))


def test_a_drifting_beat_map_is_straight_between_anchors() -> None:
    assert drifting().quarter_at(np.array([0.5, 2.0, 5.0])) == pytest.approx([1.0, 3.0, 6.0])


# How beats are counted aloud: common practice, no source.
@pytest.mark.parametrize(
    ("beats", "words"),
    [
        ((0, 0.5, 1, 1.5), ["1", "&", "2", "&"]),
        ((0, 0.25, 0.5, 0.75), ["1", "e", "&", "a"]),
        ((0, 1 / 3, 2 / 3, 1), ["1", "trip", "let", "2"]),
        ((0, 0.2, 0.4, 0.6, 0.8), ["1", "·2", "·3", "·4", "·5"]),
        ((0, 1 / 6, 2 / 6, 3 / 6, 4 / 6, 5 / 6), ["1", "ta", "trip", "ta", "let", "ta"]),
        ((0, 0.66, 1, 1.66, 2, 2.67), ["1", "&", "2", "&", "3", "&"]),
    ],
)
def test_counting(beats: tuple[float, ...], words: list[str]) -> None:
    beat_map = BeatMap.steady(90, 0.4)
    # played a little off the grid, as hands do
    onsets = beat_map.time_at(np.array(beats)) + np.resize([0.004, -0.006, 0.008, -0.003], len(beats))
    notes = tuple(Note(float(t), float(t) + 0.1, 1, 5) for t in onsets)
    times = written_times(Score(notes, beat_map=beat_map))
    assert [count_word(time) for time in times] == words
    assert times[0].onset == 0


def test_written_lengths_never_overlap_and_leave_rests() -> None:
    beat_map = BeatMap.steady(60, 0.0)
    notes = (Note(0, 0.98, 1, 5), Note(1, 1.3, 1, 5), Note(2, 4, 1, 5))
    times = written_times(Score(notes, beat_map=beat_map))
    assert [(time.onset, time.length) for time in times] == [(0, TICKS), (TICKS, TICKS // 4), (2 * TICKS, 2 * TICKS)]


def names(*notes: Note) -> list[tuple[str, ...]]:
    score = Score().with_notes(notes)
    return [techniques(score, index) for index in range(len(score.notes))]


def test_names_read_off_the_neighbours() -> None:
    slid = names(Note(0, 0.5, 3, 5), Note(0.5, 1, 3, 7, Attack.SLIDE))
    assert slid[1] == ("slide",)
    assert names(Note(0, 0.5, 2, 5), Note(0.5, 1, 3, 7, Attack.SLIDE))[1] == ("slide_in",)
    trill = [
        Note(
            i * 0.1,
            (i + 1) * 0.1,
            2,
            12 if i % 2 else 10,
            (Attack.HAMMER, Attack.PULL)[i % 2 - 1] if i else Attack.PICK,
        )
        for i in range(6)
    ]
    assert all("trill" in found for found in names(*trill))
    assert not any("trill" in found for found in names(*trill[:3]))


# A unison bend is one string bent to the pitch of the next; an oblique bend moves under a held note (common practice).
def test_two_strings_at_once() -> None:
    bent = Note(0, 1, 3, 14, curve=bent_curve(2, 1.0))
    assert names(Note(0, 1, 2, 12), bent)[0] == ("unison_bend",), "called after the bend, no longer a double stop"
    assert "oblique_bend" in names(bent, Note(0, 1, 2, 15))[0]
    assert names(Note(0, 1, 3, 12), Note(0, 1, 2, 12)) == [("double_stop",)] * 2


def test_ends_and_tones_have_names() -> None:
    assert names(Note(0, 1, 1, 5, end=End.CHOKED)) == [("choked",)]
    assert names(Note(0, 1, 1, 5, tone=Tone.PALM_MUTE, raked=True)) == [("palm_mute", "rake")]
    assert names(Note(0, 0.1, 1, 5), Note(0.5, 1, 1, 7))[0] == ("staccato",)


# A dot shortens a note by about half; a rest is written where a whole value is silent (common practice, no source).
def test_a_note_before_a_rest_is_no_staccato() -> None:
    short = [Note(0.25 * at, 0.25 * at + 0.12, 1, 5 + at) for at in range(4)]
    held = [Note(0.25 * at, 0.25 * at + 0.24, 1, 5 + at) for at in range(4)]
    after = Note(1.5, 2.0, 1, 5)
    assert names(*short, Note(1.0, 1.25, 1, 5))[:4] == [("staccato",)] * 4
    assert not any("staccato" in some for some in names(*held, after)), "the last one is followed by a rest"
