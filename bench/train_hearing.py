"""Teach the small decisions of the hearing: `./dev train [pitch] [attack] [note]`; writes the weights that ship.

Rendered cases of many seeds, guitars, effects and bands; seeds from 1000 on, so neither part of the benchmark is among
them. One case in ten is kept back and its score printed. scikit-learn fits the networks; NumPy runs them.
"""

from __future__ import annotations

import argparse
import functools
import multiprocessing
import warnings
from collections.abc import Callable
from pathlib import Path

import numpy as np
from sklearn.metrics import average_precision_score, log_loss
from sklearn.neural_network import MLPClassifier
from tqdm import tqdm

from band import with_band
from effects import distorted, reverberant
from lead_cases import (
    CLEAN,
    DISTORTED,
    JAZZ,
    ONE_STRING,
    OTHER_SOUNDFONT,
    OVERDRIVEN,
    SOUNDFONT,
    TWO_STRINGS,
    VOCABULARY,
    Case,
    make_case,
    render_case,
    sounding_midi,
)
from notcher.core.hearing.analysis import analyse
from notcher.core.hearing.attacks import attack_features, attack_moments
from notcher.core.hearing.draft import hearing_sound
from notcher.core.hearing.notes import segmented_tracks
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.salience import SALIENCE_HOP_S, salience
from notcher.core.hearing.segments import turns
from notcher.core.proving import render
from notcher.core.score import LEGATO_ATTACKS, Attack, Tone
from notcher.core.sound import Clip

WEIGHTS = Path(__file__).parents[1] / "src" / "notcher" / "core" / "hearing" / "weights"
LENGTH_S = 30.0
SOUNDFONTS = [font for font in (SOUNDFONT, OTHER_SOUNDFONT) if font.exists()]
EVERYTHING = {
    name: max(0.5 * TWO_STRINGS.get(name, 0), VOCABULARY.get(name, 0), ONE_STRING.get(name, 0))
    for name in {**ONE_STRING, **TWO_STRINGS, **VOCABULARY}
}
LICKS, LICK_SHARES = (ONE_STRING, EVERYTHING, TWO_STRINGS, VOCABULARY), (0.35, 0.2, 0.2, 0.25)
NOTE_ANSWERS = ("right", "mute", "harmonic", "squeal", "dead", "slid")
TONES = (Tone.PALM_MUTE, Tone.NATURAL_HARMONIC, Tone.SQUEAL_HARMONIC, Tone.DEAD)
HIT, CLOSE = 0.35, 0.8  # semitones: a pitch is a string's below the first; between the two it says nothing
ATTACK_S = 0.04
SHAPES = {
    "pitch": (48, 24),
    "attack": (32, 16),
    "right": (24, 12),
    "mute": (16,),
    "harmonic": (16,),
    "squeal": (16,),
    "dead": (16,),
    "slid": (24,),
}
CASES = {"pitch": 300, "attack": 240} | dict.fromkeys(NOTE_ANSWERS, 280)
FIRST_SEEDS = {"pitch": 1_000, "attack": 5_000} | dict.fromkeys(NOTE_ANSWERS, 9_000)


def training_case(seed: int) -> tuple[Case, Clip]:
    """Return a solo and its sound: guitar, effect, band and its level all by the seed."""
    dice = np.random.default_rng(seed + 5)
    case = make_case(seed, length_s=LENGTH_S, licks=LICKS[int(dice.choice(len(LICKS), p=LICK_SHARES))])
    font = SOUNDFONTS[int(dice.integers(len(SOUNDFONTS)))]
    program = int(dice.choice([JAZZ, CLEAN, CLEAN, OVERDRIVEN, DISTORTED]))
    if dice.random() < 0.35:  # our own string model has other harmonics, mutes and clicks than the samples
        clip = render(case.score, seed=seed)
    else:
        clip = render_case(case, program=program, soundfont=font)
    effect = str(dice.choice(["dry", "driven", "room", "driven"]))
    if effect == "driven" and program in (JAZZ, CLEAN):
        clip = distorted(clip)
    elif effect == "room":
        clip = reverberant(clip)
    if dice.random() < 0.65:
        clip = with_band(case, clip, lead_db=float(dice.uniform(-1, 8)), soundfont=font)
    return case, clip


def true_midi(case: Case, times_s: np.ndarray) -> np.ndarray:
    """Pitch of every string at each time, NaN where it rests. Returns: shape (n_times, n_strings)."""
    pitch = np.full((times_s.size, 6), np.nan)
    for note in case.score.notes:
        if note.tone is Tone.DEAD:
            continue
        end_s = min(note.offset_s, note.onset_s + 0.12) if note.tone is Tone.PALM_MUTE else note.offset_s
        inside = (times_s >= note.onset_s) & (times_s < end_s)
        since = times_s[inside] - note.onset_s
        wave = note.vibrato.at(since) if note.vibrato is not None else 0.0
        pitch[inside, note.string - 1] = sounding_midi(case.score, note) + note.curve.at(since) + wave
    return pitch


def pitch_rows(seed: int) -> tuple[np.ndarray, np.ndarray]:
    case, clip = training_case(seed)
    found = salience(hearing_sound(clip, "auto")[0])
    true = true_midi(case, np.arange(found.midi.shape[0]) * SALIENCE_HOP_S)
    distance = np.nan_to_num(np.abs(found.midi[:, :, None] - true[:, None, :]), nan=99.0).min(axis=2)
    told = ~np.isnan(found.midi) & ((distance < HIT) | (distance >= CLOSE))
    told[np.arange(told.shape[0]) % 3 != seed % 3] = False  # neighbouring frames say the same
    return found.features(0, len(found.midi))[told].astype(np.float16), distance[told] < HIT


def attack_rows(seed: int) -> tuple[np.ndarray, np.ndarray]:
    case, clip = training_case(seed)
    sound, whole = hearing_sound(clip, "auto")
    struck = [note for note in case.score.notes if note.attack not in LEGATO_ATTACKS]
    times_s = np.array([note.onset_s for note in struck])
    starts = np.array([sounding_midi(case.score, note) + float(note.curve.at(np.zeros(1))[0]) for note in struck])
    rows, answers = [], []
    found = analyse(sound, whole)
    onsets = found.onsets
    for track in found.tracks:
        moments = attack_moments(onsets, turns(track))
        if moments.size == 0:
            continue
        distance = np.abs(moments[:, None] * HOP_S - times_s)
        near = distance < ATTACK_S
        ahead = track.midi[np.clip(moments + 5, 0, track.times_s.size - 1)]
        own = near & ((np.abs(ahead[:, None] - starts) < 1.5) | np.isnan(ahead)[:, None])
        first = own & (distance == np.where(own, distance, 9).min(axis=0))  # an attack has one moment
        yes = first.any(axis=1)
        told = yes | ~near.any(axis=1)
        rows.append(attack_features(moments, track, onsets, sound)[told].astype(np.float16))
        answers.append(yes[told])
    return np.concatenate(rows), np.concatenate(answers)


def note_rows(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Each note heard, and the answers of `NOTE_ANSWERS`: 1 yes, 0 no, -1 says nothing."""
    case, clip = training_case(seed)
    sound, whole = hearing_sound(clip, "auto")
    found, _ = segmented_tracks(analyse(sound, whole))
    true = case.score.notes
    times_s = np.array([note.onset_s for note in true])
    fretted = np.array([case.score.fretted_midi(note) for note in true])
    heard_as = np.array([sounding_midi(case.score, note) for note in true])
    rows, answers = [], []
    for segmented in found:
        onsets_s = np.array([cut.first * HOP_S for cut in segmented.cuts])
        pitch = np.array([shape.fretted_midi for shape in segmented.shapes])
        distance_s = np.abs(onsets_s[:, None] - times_s)
        fits = (np.abs(pitch[:, None] - fretted) < 0.5) | (np.abs(pitch[:, None] - heard_as) < 0.5)
        near = fits & (distance_s < 0.05)
        # a note heard twice was right once
        right = near & (distance_s == np.where(near, distance_s, 9).min(axis=0))
        late = fits & (distance_s < 0.12) & (heard_as != fretted)  # sampled harmonics speak slowly
        for row, same, features in zip(right, near | late, segmented.features, strict=True):
            notes = [true[i] for i in np.flatnonzero(same)]
            tones = {note.tone for note in notes}
            told = [tone in tones if tones else -1 for tone in TONES]
            slid = any(note.attack is Attack.SLIDE for note in notes) if notes else -1
            rows.append(features)
            answers.append([bool(row.any()), *told, slid])
    return np.array(rows, dtype=np.float16), np.array(answers, dtype=np.int8)


ROWS = {"pitch": pitch_rows, "attack": attack_rows}


@functools.cache
def gathered(rows_of: Callable[[int], tuple[np.ndarray, np.ndarray]], first: int, cases: int) -> list[np.ndarray]:
    """Rows, answers and the case of each row, from as many cases."""
    with multiprocessing.Pool(2) as pool:
        found = list(tqdm(pool.imap(rows_of, range(first, first + cases)), total=cases, mininterval=20))
    owner = np.concatenate([np.full(len(answers), number) for number, (_, answers) in enumerate(found)])
    return [np.concatenate([rows for rows, _ in found]), np.concatenate([answers for _, answers in found]), owner]


def collected(name: str, cases: int) -> list[np.ndarray]:
    """What one network learns from."""
    rows, answers, owner = gathered(ROWS.get(name, note_rows), FIRST_SEEDS[name], cases)
    if name in NOTE_ANSWERS:
        told = answers[:, NOTE_ANSWERS.index(name)]
        return [rows[told >= 0], told[told >= 0] > 0, owner[told >= 0]]
    return [rows, answers, owner]


def train(name: str, cases: int) -> None:
    rows, answers, owner = collected(name, cases)
    values = rows.astype(np.float32)
    mean, spread = values.mean(axis=0), values.std(axis=0) + 1e-6
    values = (values - mean) / spread
    kept_back = owner % 10 == 9
    small = name != "pitch"
    network = MLPClassifier(
        SHAPES[name],
        batch_size=128 if small else 1024,
        alpha=0.3 if small else 1e-4,
        learning_rate_init=1e-3 if small else 2e-3,
        max_iter=30 if small else 10,
        n_iter_no_change=4,
        early_stopping=small,
        random_state=0,
    )
    warnings.simplefilter("ignore")  # it has not converged, and need not
    network.fit(values[~kept_back], answers[~kept_back])
    chance = network.predict_proba(values[kept_back])[:, 1]
    true = answers[kept_back]
    print(f"{name}: {len(rows)} rows, log loss {log_loss(true, chance):.4f}, "
          f"average precision {average_precision_score(true, chance):.4f}")  # fmt: skip
    layers = {f"weights{i}": w.astype(np.float16) for i, w in enumerate(network.coefs_)}
    layers |= {f"bias{i}": b.astype(np.float32) for i, b in enumerate(network.intercepts_)}
    WEIGHTS.mkdir(exist_ok=True)
    np.savez(WEIGHTS / f"{name}.npz", mean=mean.astype(np.float32), spread=spread.astype(np.float32), **layers)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*", default=list(SHAPES))
    parser.add_argument("--cases", type=int, help="how many cases to learn from")
    options = parser.parse_args()
    for name in options.names or list(SHAPES):
        train(name, options.cases or CASES[name])


if __name__ == "__main__":
    main()
