"""A lick elsewhere: pitches against music21's transpositions, degrees against its chords, places by arithmetic."""

import music21
import pytest

from notcher.core.score import TUNINGS, BeatMap, Note, Phrase, Score, Tone, bent_curve
from notcher.core.teaching import TransposeSpec, Vary, moved_lick, over_chord, variation_words
from notcher.core.teaching.transposing import chord_from_words
from notcher.core.theory import ChordError
from notcher.demo import demo_score

PENTATONIC = [(1, 8), (1, 5), (2, 8), (2, 5), (3, 7), (3, 5), (4, 7)]


def lick(*places: tuple[int, int], bend: int = 0) -> tuple[Score, Phrase]:
    notes = []
    for at, (string, fret) in enumerate(places or PENTATONIC):
        curve = bent_curve(bend, 0.2) if bend and at == 2 else bent_curve(0, 0.2)
        notes.append(Note(0.25 * at, 0.25 * at + 0.2, string, fret, curve=curve))
    score = Score(tuple(notes), beat_map=BeatMap.steady(120, 0.0), phrases=(Phrase(0.0, 3.0, "Lick"),))
    return score, score.phrases[0]


def sounding(score: Score, notes: tuple[Note, ...]) -> list[int]:
    return [round(score.fretted_midi(note)) for note in notes]


# music21's transposition is the independent source (M. Cuthbert and C. Ariza, ISMIR 2010).
@pytest.mark.outside(
    what="pitches of a lick moved to another key",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): transposition",
    tolerance="exact",
    why="semitones",
    kind="library",
)
@pytest.mark.parametrize("name", ["M2", "m3", "P4", "M-2", "m-3", "M-3"])
def test_the_same_shape_in_another_key(name: str) -> None:
    score, phrase = lick()
    interval = music21.interval.Interval(name)
    made = moved_lick(score, phrase, TransposeSpec(interval.semitones))
    line = music21.stream.Stream([music21.note.Note(midi) for midi in sounding(score, score.notes)])
    assert sounding(score, made.notes) == [note.pitch.midi for note in line.transpose(interval).notes]
    assert [(n.string, n.fret - interval.semitones) for n in made.notes] == PENTATONIC
    assert [(change.kind, change.amount) for change in made.changes] == [(Vary.SHAPE, interval.semitones)]
    way = "up" if interval.semitones > 0 else "down"
    assert variation_words(made.changes[0], score, score.tuning).endswith(f"{way}")


def test_where_the_nut_is_in_the_way_the_shape_goes_an_octave_up() -> None:
    score, phrase = lick()
    made = moved_lick(score, phrase, TransposeSpec(-5))
    assert {n.fret - o.fret for n, o in zip(made.notes, score.notes, strict=True)} == {7}
    assert [a - b for a, b in zip(sounding(score, made.notes), sounding(score, score.notes), strict=True)] == [7] * 7


def test_open_strings_are_placed_anew_at_their_pitch() -> None:
    score, phrase = lick((1, 0), (2, 3), (2, 0), (3, 2), (3, 0))
    made = moved_lick(score, phrase, TransposeSpec(4))
    assert sounding(score, made.notes) == [midi + 4 for midi in sounding(score, score.notes)]
    assert {change.kind for change in made.changes} == {Vary.PLACED}


def test_a_wide_bend_is_not_laid_where_no_hand_bends_it() -> None:
    score, phrase = lick((1, 12), (1, 12), (2, 12), (2, 12), bend=4)
    made = moved_lick(score, phrase, TransposeSpec(-4))
    bent = made.notes[2]
    assert bent.reading.bend_semitones == pytest.approx(4, abs=0.3)
    assert sounding(score, made.notes) == [midi + step for midi, step in
                                           zip(sounding(score, score.notes), [8] * 4, strict=True)]  # fmt: skip
    assert bent.fret >= 10


def test_a_harmonic_becomes_a_plain_note_of_its_pitch() -> None:
    score, phrase = lick((1, 12), (2, 12))
    score = score.with_note(score.notes[0].id, tone=Tone.NATURAL_HARMONIC)
    made = moved_lick(score, score.phrases[0], TransposeSpec(2))
    assert made.notes[0].tone is Tone.NORMAL
    assert round(score.fretted_midi(made.notes[0])) == round(score.sounding_midi(score.notes[0])) + 2
    assert phrase.name


@pytest.mark.outside(
    what="a lick moved to another chord of the same kind",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): intervals",
    tolerance="exact",
    why="semitones",
    kind="library",
)
@pytest.mark.parametrize(("here", "there"), [("A7", "D7"), ("Am", "Dm"), ("C", "F"), ("E7", "B7")])
def test_from_over_the_first_to_over_the_fourth_or_fifth(here: str, there: str) -> None:
    """The same kind of chord: every note moves as its root does, music21's interval of the two."""
    score, phrase = lick()
    made = moved_lick(score, phrase, over_chord(here, there))
    roots = [music21.harmony.ChordSymbol(name).root().pitchClass for name in (here, there)]
    moved = {(b - a) % 12 for a, b in zip(sounding(score, score.notes), sounding(score, made.notes), strict=True)}
    assert moved == {(roots[1] - roots[0]) % 12}


@pytest.mark.outside(
    what="a lick moved to a chord of another kind",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010): chord members",
    tolerance="exact",
    why="pitch classes",
    kind="library",
)
def test_over_a_minor_chord_the_third_is_minor() -> None:
    """C E G over C becomes F Ab C over Fm: music21's members of both chords."""
    score, phrase = lick((2, 1), (1, 0), (1, 3))
    made = moved_lick(score, phrase, over_chord("C", "Fm"))
    members = {pitch.pitchClass for pitch in music21.harmony.ChordSymbol("Fm").pitches}
    assert {midi % 12 for midi in sounding(score, made.notes)} == members
    (fitted,) = [change for change in made.changes if change.kind is Vary.FITTED]
    said = variation_words(fitted, score, score.tuning)
    assert said == "string 1, fret 0 a half step lower, to stay the same degree of the chord"
    kept = moved_lick(score, phrase, over_chord("C", "Fm"), refused=frozenset({fitted.key}))
    assert 9 in {midi % 12 for midi in sounding(score, kept.notes)}, "refused, it stays a major third: A"


def test_another_tuning_keeps_the_sound_or_the_frets() -> None:
    score, phrase = lick()
    low = TUNINGS["whole-down"]
    sound = moved_lick(score, phrase, TransposeSpec(tuning=low))
    assert [round(low.midi(n.string, n.fret)) for n in sound.notes] == sounding(score, score.notes)
    frets = moved_lick(score, phrase, TransposeSpec(tuning=low, pitch_stays=False))
    assert [(n.string, n.fret) for n in frets.notes] == PENTATONIC
    assert frets.changes == ()


def test_what_the_neck_has_nowhere_goes_by_an_octave() -> None:
    score, phrase = lick((1, 22), (1, 24))
    made = moved_lick(score, phrase, TransposeSpec(5))
    assert all(0 <= note.fret <= 24 for note in made.notes)
    assert {midi % 12 for midi in sounding(score, made.notes)} == {(midi + 5) % 12 for midi in
                                                                    sounding(score, score.notes)}  # fmt: skip


@pytest.mark.parametrize("semitones", [-7, -3, 2, 5, 11])
def test_every_phrase_of_the_demo_moves(semitones: int) -> None:
    score = demo_score()
    for phrase in score.phrases:
        made = moved_lick(score, phrase, TransposeSpec(semitones))
        notes = {note.id: note for note in score.notes}
        for note in made.notes:
            before = notes[note.source]
            apart = round(score.sounding_midi(note) - score.sounding_midi(before)) - semitones
            assert apart % 12 == 0
            assert note.onset_s == before.onset_s


def test_a_chord_that_is_none_is_refused() -> None:
    with pytest.raises(ChordError, match="is no chord"):
        over_chord("A7", "H#x")
    score, phrase = lick()
    with pytest.raises(ValueError, match="no notes"):
        moved_lick(score.without([note.id for note in score.notes[:7]]), phrase, TransposeSpec(2))


# the fifth degree lies seven semitones up (equal temperament; ISO 16:1975 fixes A4 alone)
@pytest.mark.parametrize(
    ("said", "over", "chord"),
    [("the fifth", "F#m7", "C#m7"), ("over the fourth", "Bbmaj7", "Ebmaj7"), ("v", "A7/C#", "E7"), ("D9", "G", "D9")],
)
def test_a_degree_is_a_chord_of_the_same_kind(said: str, over: str, chord: str) -> None:
    assert chord_from_words(said, over) == chord
