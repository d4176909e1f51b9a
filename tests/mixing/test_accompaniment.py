"""What is played along with: clicks on the beat, the slowed recording at its pitch, and where the stretch begins."""

import librosa
import numpy as np
import pytest

from conftest import RATE, sine
from notcher.core.errors import Cancelled
from notcher.core.mixing import ALONG, accompaniment
from notcher.core.mixing.loop import LoopPassage, click, counted_in
from notcher.core.score import BeatMap, Chord, Note, Score
from notcher.core.sound import Clip

SCORE = Score((Note(1.0, 1.4, 3, 12),), beat_map=BeatMap.steady(120, 0.0), chords=(Chord(0.0, "Am"),))


@pytest.mark.slow
@pytest.mark.parametrize("pace", [0.5, 0.75, 1.0])
def test_a_bar_is_counted_in_and_the_clicks_go_on_with_the_beat(pace: float) -> None:
    made = accompaniment(SCORE, None, 2.0, 4.0, along="click", pace=pace)
    # four beats at 120 a minute are two seconds
    assert made.begin_s == pytest.approx(2.0 / pace, abs=1e-3)
    assert made.end_s - made.begin_s == pytest.approx(2.0 / pace)
    onsets = librosa.onset.onset_detect(
        y=made.clip.samples[:, 0], sr=RATE, units="time", hop_length=128, backtrack=True
    )
    for beat in range(1, 8):  # nothing comes before the first one for it to stand out from
        assert np.min(np.abs(onsets - 0.5 * beat / pace)) < 0.02


@pytest.mark.outside(
    what="the pitch of a slowed recording",
    source="librosa (B. McFee et al., SciPy 2015): yin",
    tolerance="0.3 %",
    why="5 cents",
    kind="library",
)
def test_the_recording_comes_slow_at_its_pitch_on_both_sides() -> None:
    recording = Clip(sine(330.0, 4.0)[:, None], RATE)
    made = accompaniment(SCORE, recording, 2.0, 4.0, along="recording", pace=0.5)
    body = made.clip.samples[round((made.begin_s + 0.5) * RATE) : round((made.end_s - 0.5) * RATE)]
    heard = librosa.yin(body[:, 0].copy(), fmin=200, fmax=500, sr=RATE)
    assert float(np.median(heard)) == pytest.approx(330, rel=0.003)
    assert np.array_equal(body[:, 0], body[:, 1])
    other_rate = accompaniment(SCORE, Clip(sine(330.0, 4.0, rate=32_000)[:, None], 32_000), 2.0, 4.0, along="recording")
    assert other_rate.clip.sample_rate == 32_000


def test_nothing_is_a_count_in_and_silence_and_the_band_is_neither() -> None:
    quiet = accompaniment(SCORE, None, 2.0, 4.0, along="nothing")
    assert np.abs(quiet.clip.samples[: round(1.9 * RATE)]).max() > 0.1
    assert np.abs(quiet.clip.samples[round(quiet.begin_s * RATE) + 1 :]).max() == 0
    band = accompaniment(SCORE, None, 2.0, 4.0, along="band")
    assert np.abs(band.clip.samples[round(band.begin_s * RATE) : round(band.end_s * RATE)]).max() > 0.1
    for made in (quiet, band):
        assert np.abs(np.diff(made.clip.samples[round((made.end_s - 0.03) * RATE) :], axis=0)).max() < 0.2, (
            "no click out"
        )


def test_what_cannot_be_played_along_with_is_refused() -> None:
    assert ALONG == ("click", "band", "recording", "nothing")
    with pytest.raises(ValueError, match="no recording"):
        accompaniment(SCORE, None, 2.0, 4.0, along="recording")
    with pytest.raises(ValueError, match="click, band"):
        accompaniment(SCORE, None, 2.0, 4.0, along="choir")
    recording = Clip(sine(330.0, 4.0)[:, None], RATE)
    with pytest.raises(Cancelled):
        accompaniment(SCORE, recording, 2.0, 4.0, along="recording", pace=0.5, cancelled=lambda: True)


def test_past_its_end_a_passage_is_silent() -> None:
    sound = np.linspace(0.1, 0.9, 1000, dtype=np.float32)[:, None]
    passage = LoopPassage(Clip(sound, 8000, "ramp"), 0.0, 1.0)
    passage.prepare()
    end = passage.parts(900, 300)
    assert end.shape == (300, 1)
    assert end[:100] == pytest.approx(passage.parts(0, 1000)[900:])
    assert not end[100:].any()


def test_without_beats_the_count_begins_at_once() -> None:
    first = click(8000, high=True)
    assert counted_in(BeatMap(), 3.0, 1.0, 8000)[: len(first)] == pytest.approx(first)
