"""From sound to the pitch curves of the strings that sound: one lead, and up to two more struck with it."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from notcher.core.arrays import BoolArray, FloatArray
from notcher.core.errors import CancelCheck, Progress, never_cancelled, no_progress
from notcher.core.hearing.attacks import PEAK_THRESHOLD
from notcher.core.hearing.harmony import chroma
from notcher.core.hearing.onsets import OnsetCurve, onset_curve, pick_peaks
from notcher.core.hearing.partials import refined
from notcher.core.hearing.pitch import HOP_S as TRACK_HOP_S
from notcher.core.hearing.pitch import RATE, PitchTrack, track_pitch
from notcher.core.hearing.pitch_paths import (
    SILENCE_COST,
    Hint,
    Likeness,
    level_db,
    likeness,
    path_track,
    pitch_path,
    steered,
)
from notcher.core.hearing.salience import LOW_MIDI, SALIENCE_HOP_S, Salience, salience
from notcher.core.hearing.salience import PER_SEMITONE as SALIENCE_PER_SEMITONE
from notcher.core.hearing.unison import LOST_BELOW, UnisonBend, unison_pushes
from notcher.core.hearing.voices import settled_voices
from notcher.core.score import midi_to_hz
from notcher.core.sound.spectrogram import HIGHEST_MIDI, HOP_S, LOWEST_MIDI, PER_SEMITONE, Spectrogram

MOST_TRACKS = 3  # three strings at once are followed; chords are read by partials
ALONE_STRIDE = 3  # of a guitar alone only the second string is looked for here: 35 ms are fine enough
PROBE_S, PROBES = 4.0, (0.2, 0.5, 0.8)  # three places, so that an intro or an end does not decide
PERIODIC = 0.9  # a single string is more periodic than any mixture
ALONE_MONO, ALONE_WIDE = 0.45, 0.7
"""Share of the loud frames that one period explains, from which on the guitar plays alone: a stereo file needs more."""
SECOND_SILENCE_COST = -0.3  # a second string needs better evidence than the lead
SHORTEST_PAIR_S = 0.06  # as an oblique bend's push
SAME_PITCH, UNPLAYED, PLAYED, COMMON_S = 0.6, 0.1, 0.5, 0.04  # semitones, chances, seconds
COMMON_GAP = 4  # frames
PARTNER_CHANCE, PUSHED_CHANCE = 0.7, 0.95  # how sure a second string has to be; a pushed one, whose partials cross
MULTIPLES = 12 * np.log2(np.arange(2, 10))  # semitones of a pitch's whole multiples over it


@dataclass(frozen=True, slots=True, eq=False)
class Analysis:
    """What sounds: tracks (the lead first), and all they were read from, so that hints can steer them at once.

    pushes: unison bends, in time order. sound: shape (n_samples,), what was listened to. beat_flux: new energy of all
    that plays. harmony: the pitch classes of a band, see `chroma`; None for a guitar alone. single: the one pitch of a
    guitar that plays alone, else None. hints: what the instructor has said.
    strength: shape (n_frames, n_pitches), see `Salience`.
    """

    tracks: tuple[PitchTrack, ...]
    pushes: tuple[UnisonBend, ...]
    sound: FloatArray
    onsets: OnsetCurve
    beat_flux: FloatArray
    harmony: FloatArray | None
    single: PitchTrack | None
    strength: FloatArray
    likeness: Likeness
    hints: tuple[Hint, ...] = ()

    @property
    def alone(self) -> bool:
        """Whether the guitar plays without a band around it."""
        return self.single is not None

    def picture(self) -> Spectrogram:
        """Return the strength of each pitch on the grid of a spectrogram, for drawing."""
        midi = np.arange(LOWEST_MIDI, HIGHEST_MIDI, 1 / PER_SEMITONE)
        rows = np.rint((midi - LOW_MIDI) * SALIENCE_PER_SEMITONE).astype(np.int64)
        inside = (rows >= 0) & (rows < self.strength.shape[1])
        count = max(1, round(self.strength.shape[0] * SALIENCE_HOP_S / HOP_S))
        frames = np.minimum(np.rint(np.arange(count) * HOP_S / SALIENCE_HOP_S).astype(np.int64), len(self.strength) - 1)
        shade = np.zeros((midi.size, count), dtype=np.float32)
        shade[inside] = self.strength[frames][:, rows[inside]].T
        top = float(np.percentile(shade[inside], 99.7)) if count else 1.0
        return Spectrogram(np.clip(shade / max(top, 1e-6), 0, 1) ** 2)

    def steered(self, hints: Sequence[Hint]) -> "Analysis":
        """Return what is heard when the instructor says where the lead is."""
        tracks, pushes = followed(
            self.likeness, self.strength, self.sound, self.onsets, single=self.single, hints=hints
        )
        return replace(self, tracks=tracks, pushes=pushes, hints=tuple(hints))


def analyse(
    sound: FloatArray,
    whole: FloatArray | None = None,
    *,
    hints: Sequence[Hint] = (),
    progress: Progress = no_progress,
    cancelled: CancelCheck = never_cancelled,
) -> Analysis:
    """Follow the strings that sound.

    sound: shape (n_samples,), at the hearing rate. whole: the same with all that plays, where the sound was taken out
    of a stereo picture: the band keeps the beat better than the lead. hints: where the instructor knows the lead to be.
    Raises: Cancelled.
    """
    wide = whole is not None

    def measured(stride: int) -> Salience:
        return salience(sound, stride=stride, progress=lambda done: progress(0.8 * done), cancelled=cancelled)

    with ThreadPoolExecutor(1) as beside:  # both halves of the work leave the interpreter for most of their time
        follow = beside.submit(_single_pitch, sound, wide=wide, cancelled=cancelled)
        spectra = measured(1 if wide else ALONE_STRIDE)
        onsets = onset_curve(sound)
        beat_flux = onsets.flux if whole is None else onset_curve(whole).flux
        single = follow.result()
    harmony = None if single is not None else chroma(sound if whole is None else whole)
    if single is None and not wide:  # a band in mono after all
        spectra = measured(1)
    likelihood = likeness(spectra, alone=single is not None)
    tracks, pushes = followed(likelihood, spectra.strength, sound, onsets, single=single, hints=hints)
    progress(1.0)
    return Analysis(tracks, pushes, sound, onsets, beat_flux, harmony, single, spectra.strength, likelihood)


def followed(
    likelihood: Likeness,
    strength: FloatArray,
    sound: FloatArray,
    onsets: OnsetCurve,
    *,
    single: PitchTrack | None = None,
    hints: Sequence[Hint] = (),
) -> tuple[tuple[PitchTrack, ...], tuple[UnisonBend, ...]]:
    """Return the tracks, the lead first, and the unison bends among them.

    strength: shape (n_frames, n_bins), as in `Salience`. sound: shape (n_samples,), mono at `RATE`. single: the one
    pitch of a guitar alone, finer wherever one string sounds.
    """
    loudness = level_db(sound)
    likelihood = steered(likelihood, strength, hints)
    strokes = pick_peaks(onsets.flux, threshold=PEAK_THRESHOLD).astype(np.int64) // 2
    pushes, pushed = unison_pushes(likelihood, strokes)
    tracks: list[PitchTrack] = []
    common = np.zeros(0, dtype=bool)
    likelihood = Likeness(
        likelihood.midi, np.where(pushed, 0.0, likelihood.chance)
    )  # the lead is the string that is held
    for number in range(MOST_TRACKS):
        path = pitch_path(likelihood, silence_cost=SILENCE_COST if number == 0 else SECOND_SILENCE_COST)
        if number > 0 and not np.any(path >= 0):  # the first track is the lead's, also where there is none
            break
        tracks.append(path_track(likelihood, path, loudness))
        if number == 0:
            likelihood = Likeness(likelihood.midi, np.where(pushed, PUSHED_CHANCE, likelihood.chance))
        if number == 0 and single is not None:
            common = _common_period(single, tracks[0], likelihood)
            likelihood = _with_partner(likelihood, tracks[0], single, common)
        likelihood = likelihood.without(np.where(path >= 0, likelihood.midi[np.arange(path.size), path], np.nan))
    if single is None:
        joined = tuple(refined(track, sound) for track in tracks)
    else:
        hinted = np.zeros(single.times_s.size, dtype=bool)
        for hint in hints:
            hinted[single.span(hint.start_s, hint.end_s)] = True
        both = hinted | common | np.repeat(pushed.any(axis=1), 2)[: common.size]
        joined = _with_single(tracks, single, sound, both)
    return settled_voices((_held(joined[0], pushes), *joined[1:])), tuple(pushes)


def _held(lead: PitchTrack, pushes: Sequence[UnisonBend]) -> PitchTrack:
    """Keep the lead on its pitch while another string is pushed up to it: so close together neither can be refined."""
    hertz = lead.pitch_hz.copy()
    for push in pushes:
        span = lead.span(push.begin_s, push.end_s)
        near = (lead.midi[span] > push.from_midi - SAME_PITCH) & (lead.midi[span] < push.held_midi + LOST_BELOW)
        hertz[span] = np.where(near, midi_to_hz(push.held_midi), hertz[span])
    return replace(lead, pitch_hz=hertz)


def _with_single(
    tracks: list[PitchTrack], single: PitchTrack, sound: FloatArray, hinted: BoolArray
) -> tuple[PitchTrack, ...]:
    """Take the one pitch wherever not two strings sound at once; where they do, its value for whichever it fits.

    hinted: shape (n_frames,), where something else is known to go before the one pitch.
    """
    both = ~np.isnan(tracks[0].pitch_hz)
    both &= ~np.isnan(tracks[1].pitch_hz) if len(tracks) > 1 else False
    pair = round(SHORTEST_PAIR_S / TRACK_HOP_S)
    both = _steady(both, gap=pair, least=pair) | hinted
    fine = single.midi
    joined = []
    for number, track in enumerate(refined(track, sound, both) for track in tracks):
        fits = np.abs(fine - track.midi) < 0.4
        hertz = np.where(fits, single.pitch_hz, track.pitch_hz)
        other = (
            single
            if number == 0
            else replace(track, pitch_hz=np.full_like(hertz, np.nan), voicing=np.zeros_like(hertz))
        )
        joined.append(
            PitchTrack(
                single.times_s,
                np.where(both, hertz, other.pitch_hz),
                np.where(both, track.voicing, other.voicing),
                single.level_db,
            )
        )
    return (joined[0], *(track for track in joined[1:] if not np.isnan(track.pitch_hz).all()))


def _common_period(single: PitchTrack, lead: PitchTrack, likelihood: Likeness) -> BoolArray:
    """Find where two strings sound although one period explains both; shape (n_frames,).

    Two pitches in a simple ratio repeat together after a whole number of periods of each: what follows one period then
    hears a pitch far below, that no string plays. lead: the likeliest pitch. likelihood: how likely each is a string's.
    """
    midi = single.midi
    frame = np.minimum(np.arange(midi.size) // 2, likelihood.midi.shape[0] - 1)
    own = np.abs(likelihood.midi[frame] - midi[:, None]) < SAME_PITCH
    unplayed = np.where(own, likelihood.chance[frame], 0.0).max(axis=1) < UNPLAYED
    above = np.nan_to_num(lead.midi - midi)[:, None] - MULTIPLES
    common = unplayed & (np.abs(above).min(axis=1) < SAME_PITCH) & (lead.voicing > PLAYED)
    return _steady(common, gap=COMMON_GAP, least=round(COMMON_S / TRACK_HOP_S))


def _with_partner(likelihood: Likeness, lead: PitchTrack, single: PitchTrack, common: BoolArray) -> Likeness:
    """Return the pitches as their common period leaves them: with the lead's it must have another's multiple.

    common: shape (n_frames,), see `_common_period`.
    """
    at = np.minimum(2 * np.arange(likelihood.midi.shape[0]), common.size - 1)
    base, lead_midi = single.midi[at], np.nan_to_num(lead.midi[at])
    off = np.abs(likelihood.midi[:, :, None] - base[:, None, None] - MULTIPLES)
    number = 2 + np.abs(lead_midi[:, None] - base[:, None] - MULTIPLES).argmin(axis=1)
    coprime = np.gcd(number[:, None], np.arange(2, 2 + MULTIPLES.size)[None, :]) == 1
    fits = (np.where(coprime[:, None, :], np.nan_to_num(off, nan=9.0), 9.0).min(axis=2) < SAME_PITCH) & common[at, None]
    fits &= np.abs(likelihood.midi - lead_midi[:, None]) > SAME_PITCH
    best = np.where(fits, likelihood.chance, -1.0).argmax(axis=1)
    chance = likelihood.chance.copy()
    rows = np.flatnonzero(fits.any(axis=1))
    chance[rows, best[rows]] = np.maximum(chance[rows, best[rows]], PARTNER_CHANCE)
    return Likeness(likelihood.midi, chance)


def _steady(mask: BoolArray, *, gap: int, least: int) -> BoolArray:
    """Without gaps of fewer frames than `gap`, then without islands of fewer than `least`."""
    closed = ndimage.binary_closing(mask, np.ones(gap, dtype=bool))
    return np.asarray(ndimage.binary_opening(closed, np.ones(least, dtype=bool)))


def _single_pitch(sound: FloatArray, *, wide: bool, cancelled: CancelCheck) -> PitchTrack | None:
    """Return the one pitch of a guitar that plays alone, None for a band; a stereo picture is probed before."""
    span = round(PROBE_S * RATE)
    if wide and sound.shape[0] > 2 * len(PROBES) * span:
        starts = [round(share * (sound.shape[0] - span)) for share in PROBES]
        probe = np.concatenate([sound[start : start + span] for start in starts])
        if not plays_alone(track_pitch(probe, cancelled=cancelled), wide=wide):
            return None
    track = track_pitch(sound, cancelled=cancelled)
    return track if plays_alone(track, wide=wide) else None


def plays_alone(track: PitchTrack, *, wide: bool) -> bool:
    """Whether one pitch explains most of a sound: a guitar with no band around it. wide: taken out of a stereo file."""
    loud = track.level_db > np.percentile(track.level_db, 90) - 20
    return float(np.mean(track.voicing[loud] > PERIODIC)) > (ALONE_WIDE if wide else ALONE_MONO)
