"""Sound without a note: where it is, and what note it would be."""

import numpy as np
import pytest

from notcher.core.hearing import HOP_S, Measured, PitchTrack, UnclaimedSounds, with_claim
from notcher.core.score import Excluded, Note, Score, bent_curve, midi_to_hz


def track(*notes: tuple[float, float, float], length_s: float = 4.0) -> PitchTrack:
    """A pitch track of plain notes: from, to, MIDI number."""
    times_s = np.arange(0.0, length_s, HOP_S)
    midi = np.full(times_s.size, np.nan)
    for start_s, end_s, pitch in notes:
        midi[(times_s >= start_s) & (times_s < end_s)] = pitch
    hertz = midi_to_hz(69.0) * 2 ** ((midi - 69) / 12)
    return PitchTrack(times_s, hertz, np.where(np.isnan(midi), 0.0, 0.95), np.full(times_s.size, -12.0))


LEAD = track((0.5, 1.0, 64.0), (1.0, 1.5, 67.0), (2.0, 2.6, 71.0))
STRUCK_S = np.array([0.5, 1.0, 2.0])


def test_every_sound_of_an_empty_page_is_a_note_to_be() -> None:
    sounds = UnclaimedSounds(Score(), Measured((LEAD,)), STRUCK_S)
    assert len(sounds) == 3
    assert [sound.fretted_midi for sound in sounds] == [64, 67, 71]
    assert [sound.start_s for sound in sounds] == pytest.approx([0.5, 1.0, 2.0], abs=0.02)
    assert [sound.end_s for sound in sounds] == pytest.approx([1.0, 1.5, 2.6], abs=0.02)
    assert [sound.fretted_midi for sound in sounds.between(1.1, 2.1)] == [67, 71]
    assert sounds.after(1.2) == pytest.approx(2.0, abs=0.02)
    assert sounds.after(3.0) == pytest.approx(0.5, abs=0.02), "round again"
    assert sounds.spans_s(0.0, 0.9)[0] == pytest.approx((0.5, 1.0), abs=0.03)


def test_what_is_written_or_not_the_solos_is_no_gap() -> None:
    score = Score((Note(0.5, 1.0, 1, 0), Note(1.0, 1.5, 1, 3)))
    sounds = UnclaimedSounds(score, Measured((LEAD,)), STRUCK_S)
    assert [sound.fretted_midi for sound in sounds] == [71]
    aside = Note(2.0, 2.6, 1, 7)
    excluded = Score(score.notes, excluded=(Excluded(2.0, 71.0, note=aside),))
    assert len(UnclaimedSounds(excluded, Measured((LEAD,)), STRUCK_S)) == 0


def test_of_two_strings_the_one_that_is_not_written_is_found() -> None:
    other = track((2.0, 2.6, 66.0))
    score = Score((Note(0.5, 1.0, 1, 0), Note(1.0, 1.5, 1, 3), Note(2.0, 2.6, 1, 7)))
    (sound,) = UnclaimedSounds(score, Measured((LEAD, other)), STRUCK_S)
    assert (sound.track, sound.fretted_midi) == (1, 66)


def test_a_note_that_rings_on_unstruck_is_not_another() -> None:
    score = Score((Note(0.5, 1.0, 1, 0), Note(1.0, 1.5, 1, 3), Note(2.0, 2.3, 1, 7)))
    assert len(UnclaimedSounds(score, Measured((LEAD,)), STRUCK_S)) == 0
    again = np.array([0.5, 1.0, 2.0, 2.31])
    assert len(UnclaimedSounds(score, Measured((LEAD,)), again)) == 1, "struck again it is one"


def test_what_is_written_for_it_is_what_was_measured() -> None:
    times_s = np.arange(0.0, 2.0, HOP_S)
    curve = bent_curve(2, 1.0, rise_s=0.2)
    midi = np.where((times_s >= 0.5) & (times_s < 1.5), 69 + curve.at(np.maximum(times_s - 0.5, 0)), np.nan)
    hertz = midi_to_hz(69.0) * 2 ** ((midi - 69) / 12)
    bent = PitchTrack(times_s, hertz, np.full(times_s.size, 0.95), np.full(times_s.size, -12.0))
    measured = Measured((bent,))
    (sound,) = UnclaimedSounds(Score(), measured, np.array([0.5]))
    score, note_id = with_claim(Score(), sound, measured)
    note = score.note(note_id)
    assert score.fretted_midi(note) == 69
    assert note.reading.names == ("bend",)
    assert note.reading.bend_semitones == pytest.approx(2.0, abs=0.05)
    assert (note.onset_s, note.offset_s) == pytest.approx((0.5, 1.5), abs=0.02)
    assert len(UnclaimedSounds(score, measured, np.array([0.5]))) == 0


@pytest.mark.parametrize("fret", [0, 3])
def test_after_an_edit_the_same_is_found_as_from_nothing(fret: int) -> None:
    measured = Measured((LEAD,))
    before = UnclaimedSounds(Score(), measured, STRUCK_S)
    assert len(tuple(before)) == 3  # all of them read
    score = Score((Note(0.6, 0.98, 1, fret),))
    after = UnclaimedSounds(score, Measured(measured.tracks), STRUCK_S, before=before)
    assert tuple(after) == tuple(UnclaimedSounds(score, measured, STRUCK_S))


def test_a_note_moved_by_a_hair_leaves_what_is_found_as_from_nothing() -> None:
    """What was measured under the tab before is kept only where nothing near it was edited."""
    measured = Measured((track((0.5, 1.0, 64.0)),))
    before = UnclaimedSounds(Score((Note(0.9, 1.2, 1, 3),)), measured, np.array([0.5]))
    for hair_s in np.arange(0.0, 0.012, 0.001):
        score = Score((Note(0.9 + float(hair_s), 1.2, 1, 3),))
        assert len(tuple(before)) == 1
        after = UnclaimedSounds(score, Measured(measured.tracks), np.array([0.5]), before=before)
        assert tuple(after) == tuple(UnclaimedSounds(score, measured, np.array([0.5])))
