"""Two strings at once: common periods, pushes to unison, tracks that swap."""

import numpy as np
import pytest

from notcher.core.arrays import FloatArray
from notcher.core.hearing import draft
from notcher.core.hearing.analysis import analyse
from notcher.core.hearing.draft import RESTRUCK_DB
from notcher.core.hearing.partials import rise_db
from notcher.core.hearing.pitch import HOP_S, RATE, PitchTrack
from notcher.core.hearing.pitch_paths import Likeness
from notcher.core.hearing.salience import CANDIDATES, SALIENCE_HOP_S
from notcher.core.hearing.unison import unison_pushes
from notcher.core.hearing.voices import beside, settled_voices
from notcher.core.score import Note, PitchCurve, Score, midi_to_hz, techniques
from notcher.core.sound import Clip
from notcher.core.synthesis import render


def string(midi: FloatArray, *, at_s: float = 0.3, partials: int = 9, fade: float = 1.0) -> FloatArray:
    """A string that is plucked and fades, by some 12 dB a second and more; midi: its pitch at each sample."""
    rest = np.zeros(round(at_s * RATE))
    times_s = np.arange(midi.size) / RATE
    phase = 2 * np.pi * np.cumsum(440.0 * 2.0 ** ((midi - 69) / 12)) / RATE
    tone = sum(np.sin(k * phase) / k * np.exp(-fade * (1 + 0.4 * k) * times_s) for k in range(1, partials))
    return np.concatenate([rest, tone, np.zeros(RATE // 2)]).astype(np.float32)


def held(midi: float, seconds: float = 1.2) -> FloatArray:
    return np.full(round(seconds * RATE), float(midi))


# Pure fifth, fourth and thirds as whole numbers of periods (Helmholtz, "On the Sensations of Tone", 1885, ch. X).
@pytest.mark.outside(
    what="common periods of pure intervals",
    source="H. Helmholtz, On the Sensations of Tone, 1885, ch. X: 2:3, 3:4, 4:5, 5:6",
    tolerance="by chance < 0.5",
    why="a likelihood",
    kind="derivation",
)
@pytest.mark.parametrize("above", [3, 4, 5, 7, 9])
def test_a_common_period_is_no_note(above: int) -> None:
    sound = 0.3 * (string(held(64)) + string(held(64 + above)))
    tracks = analyse(sound).tracks
    span = slice(round(0.45 / HOP_S), round(1.1 / HOP_S))
    for midi in (64, 64 + above):
        followed = np.any([np.abs(track.midi[span] - midi) < 0.5 for track in tracks], axis=0)
        assert followed.mean() > 0.9, f"{midi} was followed in {followed.mean():.0%} of the time"
    lead = tracks[0].midi[span]
    assert np.nanmin(lead) > 63, "nothing sounds below the lower string"


@pytest.mark.parametrize("rise_s", [0.08, 0.15, 0.3])
def test_a_unison_bend_is_two_notes_of_which_one_is_bent(rise_s: float) -> None:
    """One string bent to the pitch of the next (common practice, no source)."""
    bent = Note(0.5, 1.7, 2, 15, curve=PitchCurve(((0.0, 0.0), (0.04, 0.0), (0.04 + rise_s, 2.0))))
    score = Score((bent,)).with_notes([bent, Note(0.5, 1.7, 1, 12)])
    heard = draft(render(score, seed=5), tuning=score.tuning).score
    found = {round(heard.fretted_midi(note)): note for note in heard.notes if abs(note.onset_s - 0.5) < 0.06}
    assert set(found) == {74, 76}
    assert found[74].reading.bend_semitones == pytest.approx(2.0, abs=0.25)
    assert all("unison_bend" in techniques(heard, index) for index in range(2))


@pytest.mark.parametrize("struck_again", [False, True])
def test_a_string_that_rings_on_is_no_new_note(struck_again: bool) -> None:
    """E on the second string sounds on under a B on the first that is struck a second later, or is struck with it."""
    again = round(1.0 * RATE)
    ringing = string(held(64, 2.2), at_s=0.3, fade=2.0)
    under = np.zeros_like(ringing)
    struck = string(held(71, 1.2), at_s=0.0)
    under[round(0.3 * RATE) + again :][: struck.size] = struck[: under.size - round(0.3 * RATE) - again]
    sound = ringing + under
    if struck_again:
        anew = string(held(64, 1.2), at_s=0.0)
        sound[round(0.3 * RATE) + again :][: anew.size] += anew[: sound.size - round(0.3 * RATE) - again]
    rise = rise_db(sound, 1.3, 440 * 2 ** ((64 - 69) / 12))
    assert (rise > RESTRUCK_DB) == struck_again, f"the partials grow by {rise:.1f} dB"
    heard = draft(Clip((0.3 * sound)[:, None], RATE, "two.wav")).score
    low = [note.onset_s for note in heard.notes if abs(heard.fretted_midi(note) - 64) < 0.5]
    assert len(low) == (2 if struck_again else 1)


def climbing(frames: int, *, seen: int, chance: float) -> tuple[Likeness, np.ndarray]:
    """Peaks of a pitch that holds at 69 and of one that climbs to it from 67, as far as it is seen."""
    midi, likely = np.full((frames, CANDIDATES), np.nan), np.zeros((frames, CANDIDATES))
    midi[5:, 0], likely[5:, 0] = 69.0, 0.99
    midi[6 : 6 + seen, 1] = np.linspace(67.0, 68.5, seen)
    likely[6 : 6 + seen, 1] = chance
    return Likeness(midi, likely), np.array([5])


def test_a_climb_is_found_as_a_whole_where_no_moment_of_it_is_sure() -> None:
    given, strokes = climbing(80, seen=14, chance=0.35)
    pushes, theirs = unison_pushes(given, strokes)
    assert len(pushes) == 1
    assert pushes[0].size == pytest.approx(2.0, abs=0.25)
    assert pushes[0].end_s == pytest.approx(19 * SALIENCE_HOP_S)
    assert theirs[:, 1].sum() == 14
    assert not theirs[:, 0].any()


@pytest.mark.parametrize(("seen", "chance"), [(5, 0.9), (14, 0.05)])
def test_too_little_of_a_climb_is_none(seen: int, chance: float) -> None:
    pushes, theirs = unison_pushes(*climbing(80, seen=seen, chance=chance))
    assert not pushes
    assert not theirs.any()


def test_a_second_string_that_holds_still_is_no_push() -> None:
    given, strokes = climbing(80, seen=14, chance=0.9)
    given.midi[6:60, 1], given.chance[6:60, 1] = 67.0, 0.9
    assert not unison_pushes(given, strokes)[0]


def track(*pitches: float) -> PitchTrack:
    """Ten frames of each pitch."""
    midi = np.repeat(np.array(pitches), 10)
    hertz = np.array([midi_to_hz(value) if value == value else np.nan for value in midi])
    return PitchTrack(np.arange(midi.size) * HOP_S, hertz, np.where(np.isnan(midi), 0, 0.9), np.zeros(midi.size))


NOTHING = np.nan


def levels(found: PitchTrack) -> list[float]:
    return [round(value, 1) if value == value else NOTHING for value in found.midi[5::10].tolist()]


def test_tracks_that_swap_are_put_right() -> None:
    high, low = settled_voices([track(72, 72, 67, 67), track(67, 67, 72, 72)])
    assert (levels(high), levels(low)) == ([72, 72, 72, 72], [67, 67, 67, 67])


def test_what_outlasts_the_lead_stays_on_its_string() -> None:
    high, low = settled_voices([track(72, 72, 67, NOTHING), track(67, 67, NOTHING, NOTHING)])
    np.testing.assert_equal(levels(high), [72, 72, NOTHING, NOTHING])
    np.testing.assert_equal(levels(low), [67, 67, 67, NOTHING])


@pytest.mark.parametrize("line", [(67, 72, 60, 79), (67, 69, 67, 69)])
def test_a_single_line_stays_the_lead(line: tuple[float, ...]) -> None:
    rest = track(*[NOTHING] * 4)
    assert levels(settled_voices([track(*line), rest])[0]) == list(line)
    assert len(settled_voices([track(*line), rest])) == 1, "a track on which nothing sounds is none"


def test_new_notes_on_both_strings_stay_where_they_are() -> None:
    high, low = settled_voices([track(72, 76, 79), track(67, 60, 64)])
    assert (levels(high), levels(low)) == ([72, 76, 79], [67, 60, 64])


# A bend under a held string: the held one keeps its pitch, nothing is struck again (common practice, no source).
@pytest.mark.parametrize("fret", [9, 12])
def test_a_quick_bend_under_a_held_string_is_a_bend(fret: int) -> None:
    held_note = Note(0.5, 1.7, 1, 12)
    bent = Note(0.5, 1.7, 2, fret, curve=PitchCurve(((0.0, 0.0), (0.1, 0.0), (0.17, 2.0))))
    score = Score((held_note, bent))
    heard = draft(render(score, seed=2), tuning=score.tuning).score
    assert len(heard.notes) == 2
    assert "oblique_bend" in techniques(heard, 0)
    assert {"bend", "oblique_bend"} <= set(techniques(heard, 1))


def test_two_strings_that_end_together_slide_nowhere() -> None:
    pairs = [Note(0.5 + 0.6 * at, 1.05 + 0.6 * at, string, 7 + at) for at in range(4) for string in (1, 2)]
    score = Score(tuple(pairs))
    heard = draft(render(score, seed=2), tuning=score.tuning).score
    assert not any(
        "slide_out" in techniques(heard, at) or "slide_in" in techniques(heard, at) for at in range(len(heard.notes))
    )


def test_what_a_string_has_beside_it() -> None:
    lead = np.where(np.arange(200) < 100, 60.0, 62.0)
    other = np.where((np.arange(200) > 60) & (np.arange(200) < 140), 67.0, np.nan)

    def track(midi: FloatArray) -> PitchTrack:
        return PitchTrack(np.arange(200) * HOP_S, 440 * 2 ** ((midi - 69) / 12), np.full(200, 0.9), np.full(200, -10.0))

    one, two = track(lead), track(other)
    found = beside(one, (one, two))
    assert (found.sounds[100], found.held[100]) == (True, True)
    assert (found.sounds[20], found.held[20]) == (False, False)
    assert not found.held[62], "it has only just begun"
    assert not beside(one, (one,)).sounds.any()
