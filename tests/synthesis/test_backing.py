"""The band plays what the chord and beat lanes say, judged by librosa."""

import librosa
import numpy as np
import pytest

from notcher.core.score import TUNINGS, BeatMap, Chord, Score
from notcher.core.synthesis import PARTS, backing
from notcher.core.synthesis.backing import _damped

RATE = 44_100
SCORE = Score(
    beat_map=BeatMap.steady(120, 0.25),
    chords=(Chord(0.25, "Am"), Chord(2.25, "F"), Chord(4.25, "E7"), Chord(6.25, "so so")),
)


def chroma(score: Score, start_s: float, end_s: float, *, part: str = "strum") -> np.ndarray:
    sound = backing(score, duration_s=8.0, parts=(part,)).samples.mean(axis=1)
    piece = sound[round(start_s * RATE) : round(end_s * RATE)]
    return np.asarray(librosa.feature.chroma_stft(y=piece, sr=RATE, n_fft=16384, tuning=0.0).mean(axis=1))


# pitch classes of the chords by any harmony book: Am = A C E, F = F A C, E7 = E G# B D
@pytest.mark.slow
@pytest.mark.parametrize(("start_s", "tones"), [(0.3, {9, 0, 4}), (2.3, {5, 9, 0}), (4.3, {4, 8, 11, 2})])
def test_the_strummed_tones_are_the_chord_s(start_s: float, tones: set[int]) -> None:
    strong = np.argsort(chroma(SCORE, start_s, start_s + 1.8))[-len(tones) :]
    assert set(strong.tolist()) == tones


def test_the_bass_plays_the_root_and_a_retuned_neck_sounds_lower() -> None:
    assert int(np.argmax(chroma(SCORE, 2.3, 3.2, part="bass"))) == 5
    down = Score(beat_map=SCORE.beat_map, chords=SCORE.chords, tuning=TUNINGS["half-down"])
    assert int(np.argmax(chroma(down, 2.3, 3.2, part="bass"))) == 4


@pytest.mark.slow
@pytest.mark.outside(
    what="when drums and clicks sound",
    source="librosa (B. McFee et al., SciPy 2015): onset detection",
    tolerance="30 ms",
    why="its hop and smoothing",
    kind="library",
)
def test_drums_and_clicks_fall_on_the_beat() -> None:
    for part in ("drums", "click"):
        sound = backing(SCORE, duration_s=8.0, parts=(part,)).samples.mean(axis=1)
        onsets = librosa.onset.onset_detect(y=sound, sr=RATE, units="time", hop_length=128, backtrack=True)
        beats = SCORE.beat_map.time_at(np.arange(15.0))
        found = [float(np.min(np.abs(onsets - beat))) for beat in beats]
        assert max(found) < 0.03


@pytest.mark.slow
def test_the_middle_is_left_to_the_lead_and_silence_where_nothing_is_known() -> None:
    sound = backing(SCORE, duration_s=8.0, parts=("strum",)).samples.astype(np.float64)
    both = np.corrcoef(sound[:, 0], sound[:, 1])[0, 1]
    assert abs(both) < 0.75, "two guitars, not one in the middle"
    quiet = backing(SCORE, duration_s=8.0, parts=PARTS[:2]).samples[round(6.6 * RATE) :]
    assert np.abs(quiet).max() == 0, "no chord is made of a name that is none"
    assert np.abs(backing(Score(), duration_s=1.0, parts=PARTS).samples).max() == 0
    free = backing(Score(chords=SCORE.chords), duration_s=3.0)
    assert np.abs(free.samples).max() > 0.05, "chords without beats are struck once each"
    with pytest.raises(ValueError, match="strum"):
        backing(SCORE, parts=("horns",))


def test_a_short_stroke_is_left_as_it_is_and_a_long_one_is_damped() -> None:
    part = np.ones(1000, dtype=np.float32)
    assert _damped(part, 1.0, 8000) is part
    cut = _damped(part, 0.05, 8000)
    assert cut.size < 1000
    assert cut[-1] == 0.0
