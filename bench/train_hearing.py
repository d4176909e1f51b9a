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

from lead_cases import EVERYTHING, ONE_STRING, TWO_STRINGS, VOCABULARY, Case, make_case, sounding_midi
from makers import MAKERS, recorded, with_drums
from notcher.core.hearing.analysis import analyse
from notcher.core.hearing.attacks import attack_moments
from notcher.core.hearing.draft import hearing_sound
from notcher.core.hearing.moments import OCTAVES, TONES
from notcher.core.hearing.network import LEVEL_OFFSET
from notcher.core.hearing.notes import segmented_tracks
from notcher.core.hearing.patches import SHAPE, described
from notcher.core.hearing.pitch import HOP_S
from notcher.core.hearing.pitch_paths import peak_features
from notcher.core.hearing.salience import SALIENCE_HOP_S, salience
from notcher.core.hearing.segments import turns
from notcher.core.score import LEGATO_ATTACKS, Attack, End, Tone, techniques
from notcher.core.sound import Clip
from second_composer import second_case

WEIGHTS = Path(__file__).parents[1] / "src" / "notcher" / "core" / "hearing" / "weights"
LENGTH_S = 30.0
MAKER_SHARES = (0.4, 0.2, 0.4)
LICKS, LICK_SHARES = (ONE_STRING, EVERYTHING, TWO_STRINGS, VOCABULARY), (0.35, 0.2, 0.2, 0.25)
NOTE_ANSWERS = ("right",)
MOMENT_ANSWERS = {"attack": 1, "tone": len(TONES), "slid": 1, "slid_in": 1, "octave": len(OCTAVES)}
ANSWER_WEIGHTS = (1.0, 0.7, 0.4, 0.4, 0.3)
MOST_OTHERS = 150  # moments of a case at which nothing happens
HIT, CLOSE = 0.35, 0.8  # semitones: a pitch is a string's below the first; between the two it says nothing
ATTACK_S = 0.04
MOVE_S, WAY_S = 0.05, 0.08  # a bend's move on both sides; how long a slide lasts at least, most of the time
FURTHEST_IN = 6.5  # semitones: from so far a hand slides into a note
SHAPES = {"pitch": (64, 32), "moment": (), "right": (24, 12)}
CASES = {"pitch": 300, "moment": 400, "right": 280}
FIRST_SEEDS = {"pitch": 1_000, "moment": 5_000, "right": 9_000}
DRILLED = range(5_400, 5_480)
HELD = {"long_note": 3.0, "bend": 1.0, "legato": 1.0, "run": 0.5}
RARE_TONES = {"dead": 3.0, "harmonics": 2.0, "squeal": 1.0, "chug": 1.0, "run": 1.0, "long_note": 0.5}
KERNELS, HIDDEN, ROUNDS, BATCH = ((16, 5), (24, 3), (32, 3), (48, 3)), 48, 10, 256


def origin(seed: int) -> tuple[str, str]:
    """Return who composes a seed's solo, and what plays it."""
    dice = np.random.default_rng(seed + 5)
    maker = str(dice.choice(list(MAKERS), p=MAKER_SHARES))
    return ("walk" if dice.random() < 0.55 else "licks"), maker


def drilled_case(seed: int) -> tuple[Case, Clip]:
    """Return what solos hold too little of: dead notes, harmonics, mutes, or held notes under drums out of time."""
    dice = np.random.default_rng(seed + 7)
    maker = MAKERS[str(dice.choice(list(MAKERS), p=MAKER_SHARES))]
    if seed % 2:
        case = make_case(seed, length_s=LENGTH_S, licks=RARE_TONES)
        return case, recorded(case, maker(case, seed), seed)
    case = make_case(seed, length_s=LENGTH_S, licks=HELD)
    return case, with_drums(maker(case, seed), level_db=float(dice.uniform(-6, 9)), seed=seed)


def training_case(seed: int) -> tuple[Case, Clip]:
    """Return a solo and its sound: composer, maker, effect, band and its level all by the seed."""
    if seed in DRILLED:
        return drilled_case(seed)
    composer, maker = origin(seed)
    dice = np.random.default_rng(seed + 6)
    if composer == "walk":
        case = second_case(seed, length_s=LENGTH_S)
    else:
        case = make_case(seed, length_s=LENGTH_S, licks=LICKS[int(dice.choice(len(LICKS), p=LICK_SHARES))])
    return case, recorded(case, MAKERS[maker](case, seed), seed)


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


def moved_by_frets(case: Case, times_s: np.ndarray) -> np.ndarray:
    """Whether the pitch moves at each time because the hand slides (1), or because it bends (0); -1 where it rests."""
    moved = np.full(times_s.size, -1)
    for index, note in enumerate(case.score.notes):
        since = times_s - note.onset_s
        inside = (since >= 0) & (times_s < note.offset_s)
        change = note.curve.at(since + MOVE_S) - note.curve.at(np.maximum(since - MOVE_S, 0.0))
        moved[inside & (np.abs(change) > 0.4)] = 0
        if "slide_in" in techniques(case.score, index):
            moved[inside & (since < WAY_S)] = 1
        if note.end is End.SLIDES_AWAY:
            moved[inside & (note.offset_s - times_s < WAY_S)] = 1
        if note.attack is Attack.SLIDE:
            moved[(since < 0) & (since > -WAY_S)] = 1
    return moved


def pitch_rows(seed: int) -> tuple[np.ndarray, np.ndarray]:
    case, clip = training_case(seed)
    found = salience(hearing_sound(clip, "auto")[0])
    true = true_midi(case, np.arange(found.midi.shape[0]) * SALIENCE_HOP_S)
    distance = np.nan_to_num(np.abs(found.midi[:, :, None] - true[:, None, :]), nan=99.0).min(axis=2)
    told = ~np.isnan(found.midi) & ((distance < HIT) | (distance >= CLOSE))
    told[np.arange(told.shape[0]) % 3 != seed % 3] = False  # neighbouring frames say the same
    features = peak_features(found, 0, len(found.midi), alone=clip.channels == 1)
    return features[told].astype(np.float16), distance[told] < HIT


def moment_rows(seed: int) -> tuple[np.ndarray, ...]:
    """Patches of moments, what else is known of them, and the answers: see `MOMENT_ANSWERS`; -1 says nothing."""
    case, clip = training_case(seed)
    dice = np.random.default_rng(seed)
    sound, whole = hearing_sound(clip, "auto")
    notes = case.score.notes
    times_s = np.array([note.onset_s for note in notes])
    starts = np.array([sounding_midi(case.score, note) + float(note.curve.at(np.zeros(1))[0]) for note in notes])
    slid_in = np.array(["slide_in" in techniques(case.score, index) for index in range(len(notes))])
    struck = np.array([note.attack not in LEGATO_ATTACKS for note in notes]) | slid_in
    tones = np.array([TONES.index(note.tone) for note in notes])
    dead = tones == TONES.index(Tone.DEAD)
    slid = np.array([note.attack is Attack.SLIDE for note in notes])
    found = analyse(sound, whole)
    kept: list[tuple[np.ndarray, ...]] = []
    for track in found.tracks:
        moments = attack_moments(found.onsets, turns(track))
        if moments.size == 0:
            continue
        off_s = np.abs(moments[:, None] * HOP_S - times_s)
        near = off_s < ATTACK_S
        ahead = track.midi[np.clip(moments + 5, 0, track.times_s.size - 1)]
        away = np.abs(ahead[:, None] - starts)
        fits = (away < np.where(slid_in, FURTHEST_IN, 1.5)) | np.isnan(away)
        octave_fits = (np.abs((away + 6) % 12 - 6) < 1.0) | np.isnan(away) | slid_in | dead
        own = near & fits & struck
        first = own & (off_s == np.where(own, off_s, 9).min(axis=0))  # an attack has one moment
        yes = first.any(axis=1)
        attack = np.where(yes, 1, np.where((near & struck).any(axis=1), -1, 0))
        nearest = np.where(near & octave_fits & struck, off_s, 9).argmin(axis=1)
        tone = np.where((near & octave_fits & struck).any(axis=1), tones[nearest], -1)
        reached = near & fits & ~struck
        slide = np.where(near.any(axis=1), -1, moved_by_frets(case, moments * HOP_S))
        slide[reached.any(axis=1)] = slid[np.where(reached, off_s, 9).argmin(axis=1)][reached.any(axis=1)]
        slide_in = np.where(yes, slid_in[np.where(first, off_s, 9).argmin(axis=1)], -1)
        true = true_midi(case, (moments + 5) * HOP_S)
        distance = ahead[:, None] - true
        closest = np.take_along_axis(distance, np.nan_to_num(np.abs(distance), nan=99).argmin(axis=1)[:, None], 1)[:, 0]
        octave = np.full(moments.size, -1)
        octave[np.abs(closest) < 0.6] = 0
        for semitones in (12, 19, 24):
            octave[np.abs(closest + semitones) < 0.6] = 1
            octave[np.abs(closest - semitones) < 0.6] = 2
        answers = np.stack([attack, tone, slide, slide_in, octave], axis=1)
        told = (answers >= 0).any(axis=1)
        rare = (attack == 1) | (tone > 0) | (slide >= 0) | (octave > 0)
        told &= rare | (dice.random(moments.size) < min(1.0, MOST_OTHERS / max(1, int((told & ~rare).sum()))))
        at = moments[told]
        parts = list(described([(at, track)], found.onsets, sound))
        if parts:
            _, patches, known = (np.concatenate(some) for some in zip(*parts, strict=True))
            kept.append((patches.astype(np.float16), known, answers[told].astype(np.int8)))
    return tuple(np.concatenate(some) for some in zip(*kept, strict=True))


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
        for row, features in zip(right, segmented.features, strict=True):
            rows.append(features)
            answers.append([bool(row.any())])
    return np.array(rows, dtype=np.float16), np.array(answers, dtype=np.int8)


ROWS = {"pitch": pitch_rows}


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


def gathered_moments(cases: int, keep: Path | None) -> tuple[np.ndarray, ...]:
    """Patches, what else is known, answers and seed of each moment; read from `keep` where they were kept there."""
    seeds = [*range(FIRST_SEEDS["moment"], FIRST_SEEDS["moment"] + cases), *DRILLED]
    if keep is not None and keep.exists():
        with np.load(keep) as stored:
            return tuple(stored[name] for name in ("patches", "known", "answers", "owner"))
    with multiprocessing.Pool(2) as pool:
        found = list(tqdm(pool.imap(moment_rows, seeds), total=len(seeds), mininterval=20))
    owner = np.concatenate([np.full(len(some[2]), seed) for seed, some in zip(seeds, found, strict=True)])
    patches, known, answers = (np.concatenate(some) for some in zip(*found, strict=True))
    if keep is not None:
        np.savez(keep, patches=patches, known=known, answers=answers, owner=owner)
    return patches, known, answers, owner


def train_moments(cases: int, *, keep: Path | None = None, without: str = "", into: Path = WEIGHTS) -> None:
    """Teach the network over patches (PyTorch; what it has learned runs in NumPy).

    keep: a file for what it learns from. without: a composer or a maker of sound that is left out.
    """
    import torch
    from torch import nn
    from torch.nn import functional

    patches, known, answers, owner = gathered_moments(cases, keep)
    if without:
        inside = np.isin(owner, [seed for seed in np.unique(owner).tolist() if without not in origin(seed)])
        patches, known, answers, owner = patches[inside], known[inside], answers[inside], owner[inside]
    mean, spread = known.mean(axis=0), known.std(axis=0) + 1e-6
    torch.manual_seed(0)
    torch.set_num_threads(2)

    class Judge(nn.Module):
        def __init__(self) -> None:
            super().__init__()
            widths = [SHAPE[0], *(width for width, _ in KERNELS)]
            self.kernels = nn.ModuleList(
                nn.Conv2d(a, b, size, stride=2, padding=size // 2)
                for a, (b, size) in zip(widths, KERNELS, strict=False)
            )
            rows, columns = SHAPE[1:]
            for _ in KERNELS:
                rows, columns = (rows + 1) // 2, (columns + 1) // 2
            inside = widths[-1] * rows * columns + known.shape[1]
            self.layers = nn.ModuleList([nn.Linear(inside, HIDDEN), nn.Linear(HIDDEN, sum(MOMENT_ANSWERS.values()))])

        def forward(self, patch: torch.Tensor, values: torch.Tensor) -> torch.Tensor:
            for kernel in self.kernels:
                patch = functional.relu(kernel(patch))
            flat = torch.cat([patch.flatten(1), values], 1)
            flat = functional.relu(self.layers[0](functional.dropout(flat, 0.2, self.training)))
            return self.layers[1](functional.dropout(flat, 0.2, self.training))

    def loss_of(found: torch.Tensor, true: torch.Tensor) -> list[torch.Tensor]:
        losses, begun = [], 0
        for number, width in enumerate(MOMENT_ANSWERS.values()):
            told, part = true[:, number] >= 0, found[:, begun : begun + width]
            begun += width
            if not told.any():
                losses.append(part.sum() * 0)
            elif width == 1:
                losses.append(functional.binary_cross_entropy_with_logits(part[told, 0], true[told, number].float()))
            else:
                losses.append(functional.cross_entropy(part[told], true[told, number]))
        return losses

    def recoloured(patch: torch.Tensor) -> torch.Tensor:
        """Another level and another tone control: what no guitar should be told by."""
        rows = torch.linspace(0, np.pi, SHAPE[1])
        waves = torch.stack([torch.cos(k * rows) for k in range(5)])
        curve = torch.randn(len(patch), 5) * torch.tensor([0.15, 0.25, 0.12, 0.08, 0.06])
        return torch.clamp_min(patch + (curve @ waves)[:, None, :, None], -4.0 + LEVEL_OFFSET)

    judge = Judge()
    optimiser = torch.optim.AdamW(judge.parameters(), 2e-3, weight_decay=1e-2)
    values = torch.from_numpy(((known - mean) / spread).astype(np.float32))
    true = torch.from_numpy(answers.astype(np.int64))
    back = owner % 10 == 9
    own, others = np.flatnonzero(~back), np.flatnonzero(back)
    steps = ROUNDS * (own.size // BATCH)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimiser, 3e-3, total_steps=steps)
    dice = np.random.default_rng(0)

    def batch(rows: np.ndarray) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor]:
        return torch.from_numpy(patches[rows].astype(np.float32)) + LEVEL_OFFSET, values[rows], true[rows]

    for turn in range(ROUNDS):
        judge.train()
        order = dice.permutation(own)
        for begun in range(0, own.size // BATCH * BATCH, BATCH):
            patch, value, answer = batch(np.sort(order[begun : begun + BATCH]))
            losses = loss_of(judge(recoloured(patch), value), answer)
            optimiser.zero_grad()
            sum(weight * loss for weight, loss in zip(ANSWER_WEIGHTS, losses, strict=True)).backward()
            optimiser.step()
            schedule.step()
        judge.eval()
        with torch.no_grad():
            parts = [(loss_of(judge(*some[:2]), some[2]), len(some[2])) for some in
                     (batch(others[k : k + 2048]) for k in range(0, others.size, 2048))]  # fmt: skip
        mean_loss = [float(np.average([float(losses[k]) for losses, _ in parts])) for k in range(len(MOMENT_ANSWERS))]
        print(
            f"round {turn}: " + ", ".join(f"{n} {v:.4f}" for n, v in zip(MOMENT_ANSWERS, mean_loss, strict=True)),
            flush=True,
        )
    arrays = {"mean": mean.astype(np.float32), "spread": spread.astype(np.float32)}
    arrays["answers"] = np.array(list(MOMENT_ANSWERS.values()), dtype=np.int32)
    for number, kernel in enumerate(judge.kernels):
        arrays[f"kernel{number}"] = kernel.weight.detach().numpy().astype(np.float16)
        arrays[f"shift{number}"] = kernel.bias.detach().numpy()
    for number, layer in enumerate(judge.layers):
        arrays[f"weights{number}"] = layer.weight.detach().numpy().T.astype(np.float16)
        arrays[f"bias{number}"] = layer.bias.detach().numpy()
    np.savez(into / "moment.npz", **arrays)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*", default=list(SHAPES))
    parser.add_argument("--cases", type=int, help="how many cases to learn from")
    parser.add_argument("--keep", type=Path, help="a file for what the moments are learned from")
    parser.add_argument("--without", default="", help="a composer or maker to leave out")
    parser.add_argument("--into", type=Path, default=WEIGHTS, help="the folder for the weights of the moments")
    options = parser.parse_args()
    for name in options.names or list(SHAPES):
        cases = options.cases or CASES[name]
        if name == "moment":
            train_moments(cases, keep=options.keep, without=options.without, into=options.into)
        else:
            train(name, cases)


if __name__ == "__main__":
    main()
