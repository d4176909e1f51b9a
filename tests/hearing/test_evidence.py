"""Evidence under a note is one answer: what the tab draws, what snapping writes and what proving measures agree."""

import numpy as np
import pytest

from notcher.core.hearing import EMPTY_TRACK, Measured, PitchTrack, draft, evidence, snapped_to_evidence
from notcher.core.hearing.patches import _levels
from notcher.core.hearing.pitch import HOP
from notcher.core.proving import Status, corrected, prove
from notcher.core.score import Note, Score, Tuning, bent_curve, midi_to_hz
from notcher.core.sound import Clip


def track_of(midi: np.ndarray, hop_s: float = 0.01) -> PitchTrack:
    hertz = np.array([midi_to_hz(value) if np.isfinite(value) else np.nan for value in midi])
    return PitchTrack(np.arange(midi.size) * hop_s, hertz, np.ones(midi.size), np.zeros(midi.size))


def test_evidence_is_from_the_notes_own_fret_and_the_recordings_pitch() -> None:
    score = Score((Note(0.2, 0.6, 1, 5),), Tuning(offset_cents=10))
    under = evidence(score, score.notes[0], Measured((track_of(np.full(101, 71.1)),), 10.0))
    assert under.semitones == pytest.approx(2.0)
    assert under.times_s[0] == pytest.approx(0.0, abs=0.011)


def test_of_two_strings_the_one_nearest_to_the_claim_is_taken() -> None:
    low, high = track_of(np.full(101, 60.0)), track_of(np.full(101, 69.0))
    score = Score((Note(0.1, 0.9, 1, 5),))
    for tracks in ((low, high), (high, low)):
        assert evidence(score, score.notes[0], Measured(tracks)).semitones == pytest.approx(0.0)


def test_nothing_measured_is_nothing_known() -> None:
    score = Score((Note(0.1, 0.9, 1, 5),))
    under = evidence(score, score.notes[0], Measured((EMPTY_TRACK,)))
    assert not under.known
    with pytest.raises(ValueError, match="no pitch was heard"):
        snapped_to_evidence(score, score.notes[0].id, Measured((EMPTY_TRACK,)))


@pytest.mark.slow
@pytest.mark.parametrize("claimed", [1.0, 3.0])
def test_what_is_written_is_what_the_verdict_measured(lick: Score, lick_clip: Clip, claimed: float) -> None:
    heard = draft(lick_clip, tuning=lick.tuning)
    wrong = lick.with_note(lick.notes[1].id, curve=bent_curve(claimed, 0.9, released=True))
    finding = next(found for found in prove(wrong, heard).notes if found.index == 1)
    assert finding.status is Status.BEND
    written = corrected(wrong, finding, heard).notes[1].reading.bend_semitones
    assert 100 * written == pytest.approx(finding.measured_cents, abs=0.1)
    assert snapped_to_evidence(wrong, wrong.notes[1].id, heard.measured).notes[1].reading.bend_semitones == written
    # the string model bends by a whole step: 200 cents, which the hearing follows within 15
    assert finding.measured_cents == pytest.approx(200, abs=15)


def test_what_comes_a_frame_later_is_seen_a_frame_later() -> None:
    sound = np.random.default_rng(2).normal(0, 0.1, 20_000).astype(np.float32)
    later = np.concatenate([np.zeros(HOP, np.float32), sound])
    for window in (2048, 1024):
        here, there = (_levels(part, start, 12, window, 1.0) for part, start in ((sound, 0), (later, 1)))
        whole = window // 2 // HOP  # before it the silence in front is seen too
        assert there[whole:] == pytest.approx(here[whole:])
