"""What is played along with: each part as loud and where it shall be, a softer lead, another pitch, rests.

Pitch is measured by librosa's pYIN, attacks by its spectral flux.
"""

import librosa
import numpy as np
import pytest

from conftest import RATE, sine
from notcher.core.mixing import Channel, Levels, Loop, Pan, counted_in, make_loop, matrix, mixed, of_recording
from notcher.core.score import BeatMap, Chord, Note, Score
from notcher.core.sound import Clip, LaidClip, stretched
from notcher.ui.playback.levelled import RECORDING, Levelled

RIGHT, LEFT = 1, 0


def loudness(sound: np.ndarray, hertz: float) -> float:
    """How strong one frequency is in a channel, by its Fourier coefficient."""
    times = np.arange(sound.size) / RATE
    return float(2 * np.abs(np.mean(sound * np.exp(-2j * np.pi * hertz * times))))


def score() -> Score:
    notes = tuple(Note(at, at + 0.9, 2, 5) for at in range(4))
    return Score(notes, beat_map=BeatMap.steady(60, 0.0), chords=(Chord(0.0, "Am"),))


# --- pitch ---
@pytest.mark.slow
@pytest.mark.outside(
    what="pitch of a sound that is moved and slowed",
    source="equal temperament: 2^(n/12); librosa (B. McFee et al., SciPy 2015): pyin",
    tolerance="5 cents",
    why="its bins of 2 cents and a vocoder's scatter",
    kind="library",
)
@pytest.mark.parametrize(("semitones", "pace"), [(1.0, 1.0), (-1.0, 0.5), (0.3, 0.7), (0.0, 0.5), (-0.05, 1.2)])
def test_the_pitch_is_moved_as_far_as_was_asked_whatever_the_pace(semitones: float, pace: float) -> None:
    tones = sum(sine(hertz, 1.5, level=0.2) for hertz in (220.0, 440.0, 660.0))
    moved = stretched(Clip(tones[:, None], RATE), pace, semitones=semitones)
    assert moved.samples.shape[0] == round(1.5 * RATE / pace)
    heard, voiced, _ = librosa.pyin(
        moved.samples[:, 0], fmin=180, fmax=270, sr=RATE, frame_length=2048, resolution=0.02, max_transition_rate=5
    )
    middle = np.nanmedian(heard[voiced][10:-10])
    assert 1200 * np.log2(middle / 220.0) == pytest.approx(100 * semitones, abs=5)


@pytest.mark.slow
@pytest.mark.outside(
    what="attacks of a slowed sound",
    source="librosa (B. McFee et al., SciPy 2015): spectral flux",
    tolerance="20 ms",
    why="its hop and smoothing",
    kind="library",
)
def test_attacks_come_when_the_slowed_time_says() -> None:
    """Six strokes; librosa's spectral flux finds each within 20 ms of where the pace puts it."""
    times = np.array([0.3, 0.7, 1.2, 1.6, 2.2, 2.9])
    sound = np.zeros(round(3.6 * RATE), np.float32)
    for at in times:
        first, ring = round(at * RATE), np.arange(round(0.3 * RATE)) / RATE
        sound[first : first + ring.size] += (0.5 * np.sin(2 * np.pi * 440 * ring) * np.exp(-9 * ring)).astype(
            np.float32
        )
    loop = make_loop(Clip(sound[:, None], RATE), 0.0, 3.6, pace=0.5, count_in=False)
    found = librosa.onset.onset_detect(y=loop.read(0, loop.length).mean(axis=1), sr=RATE, hop_length=256, units="time")
    for due in times / 0.5:
        assert np.abs(found - due).min() < 0.02


# --- rests ---
def test_rounds_with_a_rest_between_begin_and_end_softly() -> None:
    clip = Clip(sine(440, 2.0)[:, None], RATE)
    lead_in = counted_in(BeatMap.steady(120, 0.0), 0.5, 1.0, RATE)
    gapped = loop = Loop(clip, 0.5, 1.5, count_in=lead_in, rest_s=0.5)
    loop.prepare()
    lead, length = loop.count_in.shape[0], RATE
    whole = gapped.read(0, lead + 4 * length)
    assert np.array_equal(whole[:lead], loop.count_in)
    for turn in range(2):
        begin = lead + turn * (length + RATE // 2)
        assert np.abs(whole[begin + 1000 : begin + length - 1000]).max() > 0.4
        assert np.abs(whole[begin + length : begin + length + RATE // 2]).max() == 0.0
    assert np.abs(np.diff(whole[lead:], axis=0)).max() < 0.07, "no click at any border"
    assert [gapped.pass_at(lead + at) for at in (-1, 0, length + 5, length + RATE // 2)] == [0, 1, 1, 2]
    assert gapped.time_at(lead + length + 100) == pytest.approx(1.5)
    pieces = np.concatenate([gapped.read(first, 777) for first in range(0, 777 * 100, 777)])
    assert np.array_equal(pieces, whole[: pieces.shape[0]]), "however it is read"


def test_a_loop_that_is_entered_in_its_middle_rests_at_its_end() -> None:
    clip = Clip(sine(440, 2.0)[:, None], RATE)
    loop = Loop(clip, 0.0, 1.0, pace=1.0, at_s=0.75, rest_s=0.25)
    loop.prepare()
    sound = loop.read(0, RATE)
    assert np.abs(sound[: RATE // 4 - 600]).max() > 0.4
    assert np.abs(sound[RATE // 4 : RATE // 2]).max() == 0.0
    assert np.abs(sound[RATE // 2 + 600 :]).max() > 0.4


# --- the mix ---
def test_the_lead_is_softer_where_the_stereo_picture_allows() -> None:
    lead, left, right = sine(440, 2.0, level=0.3), sine(262, 2.0, level=0.2), sine(330, 2.0, level=0.2)
    picture = Clip(np.column_stack([lead + left, lead + right]), RATE)
    parts = dict(of_recording(picture, apart=True))
    assert loudness(parts["lead"][:, 0], 440) == pytest.approx(0.3, rel=0.1)
    clip, channels = mixed(picture, score(), 0.0, 2.0, levels=Levels(tab=0, band=0, click=0, lead=0.0))
    sound = clip.samples @ matrix(channels, Levels(tab=0, band=0, click=0, lead=0.0))
    assert loudness(sound[:, LEFT], 440) < 0.3 * 0.1, "20 dB softer"
    assert loudness(sound[:, LEFT], 262) == pytest.approx(0.2, rel=0.15)
    assert loudness(sound[:, RIGHT], 330) == pytest.approx(0.2, rel=0.15)
    whole = clip.samples @ matrix(channels, Levels())
    assert np.abs(whole - picture.samples).max() < 1e-5, "nothing is lost: all parts together are the recording"
    flat = Clip(np.column_stack([lead, lead]), RATE)
    assert [part for part, _ in of_recording(flat, apart=True)] == ["recording"], (
        "without a picture nothing is taken out"
    )


def test_only_what_is_heard_is_made_and_each_part_stands_where_it_shall() -> None:
    recording = Clip(sine(500, 4.0)[:, None], RATE)
    clip, channels = mixed(recording, score(), 1.0, 3.0, levels=Levels(tab=0.0))
    assert [channel.part for channel in channels] == ["recording", "band", "band", "click"]
    assert isinstance(clip, LaidClip)
    assert (clip.begin_s, clip.duration_s, clip.groups) == (1.0, 3.0, (1, 2, 1))
    piece = clip.cut(1.5, 2.0)
    assert piece.samples.shape == (RATE // 2, 4)
    assert np.array_equal(piece.samples[:, 0], recording.cut(1.5, 2.0).samples[:, 0]), "at its place in the recording"
    assert mixed(None, Score(), 0.0, 1.0, levels=Levels())[0].samples.max() == 0.0


def test_where_a_part_stands() -> None:
    channels = (Channel("recording", -1), Channel("recording", 1), Channel("tab"), Channel("lead"))
    levels = Levels(recording=0.5, tab=1.0, lead=2.0, places=Pan(tab=-1.0, recording=0.5))
    assert matrix(channels, levels).tolist() == [[0.25, 0.0], [0.0, 0.5], [1.0, 0.0], [1.0, 1.0]]


def test_what_is_heard_follows_the_levels_while_it_plays() -> None:
    levels = [Levels(click=0.5)]
    clip = Clip(np.column_stack([sine(440, 2.0), sine(440, 2.0)]), RATE)
    loop = make_loop(clip, 0.0, 1.0, beat_map=BeatMap.steady(120, 0.0))
    played = Levelled(loop, RECORDING, lambda: levels[0], lambda count, _rate: np.full(count, 0.2, np.float32))
    lead = loop.count_in.shape[0]
    assert np.allclose(played.read(0, lead), 0.5 * loop.count_in, atol=1e-6)
    levels[0] = Levels(recording=0.0, guitar=1.0, places=Pan(guitar=1.0))
    heard = played.read(lead + 1000, 500)
    assert np.allclose(heard[:, LEFT], 0.0)
    assert np.allclose(heard[:, RIGHT], 0.2), "the student's own input, on the right alone"


# The metronome: seconds a beat are 60 over beats a minute; over ten minutes it may not drift by a sample's rounding.
@pytest.mark.slow
@pytest.mark.parametrize("bpm", [63.0, 92.0, 137.0])
def test_the_click_keeps_the_sample_clock_over_ten_minutes(bpm: float) -> None:
    still = Score((Note(0.0, 600.0, 2, 5),), beat_map=BeatMap.steady(bpm, 0.0))
    clip, _ = mixed(None, still, 0.0, 600.0, levels=Levels(tab=0.0, band=0.0))
    loud = np.flatnonzero(np.abs(clip.samples[:, 0]) > 0.02)
    begins = loud[np.concatenate([[True], np.diff(loud) > 0.1 * RATE])]
    due = np.arange(begins.size) * 60.0 / bpm * RATE
    assert begins.size == int(600 * bpm / 60) + (600 * bpm % 60 > 0)
    off = (begins - due) - np.median(begins - due)
    assert np.abs(off).max() < 0.001 * RATE, "within a millisecond everywhere"
