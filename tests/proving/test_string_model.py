"""The string model plays what is written: judged by librosa and by plain spectra."""

import librosa
import numpy as np
import pytest

from notcher.core.errors import Cancelled
from notcher.core.proving import driven, render
from notcher.core.proving.string_model import SAMPLE_RATE, STIFFNESS
from notcher.core.score import STANDARD, End, Note, Score, Strike, Tone, Tuning, Vibrato, bent_curve, midi_to_hz
from notcher.core.sound import Clip


def sound_of(*notes: Note, tuning: Tuning = STANDARD) -> np.ndarray:
    return render(Score(tuning=tuning).with_notes(notes)).samples[:, 0]


def yin_cents(sound: np.ndarray, start_s: float, end_s: float, hertz: float) -> float:
    part = sound[round(start_s * SAMPLE_RATE) : round(end_s * SAMPLE_RATE)]
    heard = librosa.yin(part, fmin=0.7 * hertz, fmax=1.5 * hertz, sr=SAMPLE_RATE, frame_length=8192)
    return float(1200 * np.log2(np.median(heard) / hertz))


@pytest.mark.parametrize(("string", "fret"), [(1, 12), (3, 9), (6, 3)])
def test_a_plucked_note_has_its_pitch(string: int, fret: int) -> None:
    sound = sound_of(Note(0.1, 1.1, string, fret), tuning=Tuning(offset_cents=12))
    true = midi_to_hz(STANDARD.midi(string, fret), offset_cents=12)
    # YIN fits all partials at once, and a wound string's are the most stretched
    assert abs(yin_cents(sound, 0.3, 1.0, true)) < (3 if string < 4 else 8)


def test_a_bend_arrives_where_it_is_written() -> None:
    sound = sound_of(Note(0.1, 1.3, 3, 12, curve=bent_curve(3, 1.2, rise_s=0.15)))
    # fret 12 bent a step and a half must sound like 15 (common practice, no source)
    assert abs(yin_cents(sound, 0.5, 1.2, midi_to_hz(STANDARD.midi(3, 15)))) < 3


def test_partials_are_stretched_as_published() -> None:
    """H. Fletcher, JASA 36, 1964: f_k = k f1 sqrt((1 + B k^2) / (1 + B)) relative to the first partial."""
    sound = sound_of(Note(0.0, 3.0, 6, 0, end=End.RINGS))[: 2 * SAMPLE_RATE]
    size = 1 << 19
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(sound.size), size))
    f1 = midi_to_hz(40)
    for k in (2, 5, 7):
        expected = k * f1 * np.sqrt((1 + STIFFNESS[6] * k**2) / (1 + STIFFNESS[6]))
        near = slice(round((expected - 20) * size / SAMPLE_RATE), round((expected + 20) * size / SAMPLE_RATE))
        peak = (near.start + int(np.argmax(spectrum[near]))) * SAMPLE_RATE / size
        assert peak == pytest.approx(expected, abs=0.3)


# Touched at fret 12, 7, 5 a string sounds its 2nd, 3rd, 4th partial: +12, +19.02, +24 semitones
# (Fletcher and Rossing, "The Physics of Musical Instruments", ch. 9; sizes by Ellis, 1885).
@pytest.mark.parametrize(("fret", "partial"), [(12, 2), (7, 3), (5, 4)])
def test_natural_harmonics_sound_their_partial(fret: int, partial: int) -> None:
    sound = sound_of(Note(0.1, 1.1, 3, fret, tone=Tone.NATURAL_HARMONIC))
    assert abs(yin_cents(sound, 0.3, 1.0, partial * midi_to_hz(55))) < 3


def test_mutes_die_quickly_and_swells_rise() -> None:
    def level(sound: np.ndarray, at_s: float) -> float:
        part = sound[round(at_s * SAMPLE_RATE) : round((at_s + 0.03) * SAMPLE_RATE)]
        return float(np.sqrt(np.mean(part**2)))

    ring = sound_of(Note(0.1, 1.1, 3, 9))
    mute = sound_of(Note(0.1, 1.1, 3, 9, tone=Tone.PALM_MUTE))
    swell = sound_of(Note(0.1, 1.1, 3, 9, Strike.SWELL))
    assert level(mute, 0.4) < 0.1 * level(mute, 0.11)
    assert level(ring, 0.4) > 0.3 * level(ring, 0.11)
    assert level(swell, 0.11) < 0.1 * level(swell, 0.5)


def test_legato_goes_on_without_a_click() -> None:
    joined = sound_of(Note(0.1, 0.5, 3, 9, end=End.RUNS_ON), Note(0.5, 1.0, 3, 12, Strike.HAMMER))
    steps = np.abs(np.diff(joined))
    join = steps[round(0.49 * SAMPLE_RATE) : round(0.51 * SAMPLE_RATE)].max()
    assert join <= 1.2 * steps[round(0.3 * SAMPLE_RATE) : round(0.48 * SAMPLE_RATE)].max()


def test_a_slide_steps_from_fret_to_fret() -> None:
    sound = sound_of(Note(0.1, 0.6, 3, 5, end=End.RUNS_ON), Note(0.6, 1.2, 3, 9, Strike.SLIDE))
    assert abs(yin_cents(sound, 0.2, 0.45, midi_to_hz(60))) < 5
    assert abs(yin_cents(sound, 0.75, 1.1, midi_to_hz(64))) < 5


def test_everything_is_finite_seeded_and_stoppable() -> None:
    score = Score((Note(0.2, 0.6, 1, 12, raked=True, end=End.SLIDES_AWAY, vibrato=Vibrato(0, 6, 20)),))
    first, second = render(score), render(score)
    assert np.isfinite(first.samples).all()
    assert np.array_equal(first.samples, second.samples)
    assert np.abs(first.samples).max() == pytest.approx(0.8, abs=1e-6)
    with pytest.raises(Cancelled):
        render(score, cancelled=lambda: True)
    assert isinstance(render(Score()), Clip)
    assert np.abs(driven(first.samples[:, 0])).max() <= 0.81
