"""Two versions laid over each other, and a tab laid over its recording.

The pairing is held against every possible one on small cases, keys against music21's intervals, the rising rows against
brute force; that a note is changed is known because it was changed here.
"""

from dataclasses import replace
from itertools import combinations, pairwise

import music21
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from notcher.core.errors import Cancelled
from notcher.core.hearing import HOP_S, Draft, Measured, PitchTrack, draft
from notcher.core.proving import Differs, NothingInCommonError, Version, compared, laid_over
from notcher.core.proving.aligning import ALONE, TimeMap, Tones, _costs, _rising, aligned, likely_shifts, tones_of
from notcher.core.proving.overlaying import _paired, laid_over_again
from notcher.core.score import (
    FLAT,
    NO_BEAT_MAP,
    BeatMap,
    DoubtKind,
    Note,
    Score,
    Tuning,
    bent_curve,
    midi_to_hz,
    retimed,
    with_times,
)
from notcher.core.synthesis import render

MELODY = [(2, 8), (2, 10), (1, 8), (1, 10), (1, 12), (1, 10), (2, 10), (2, 8), (3, 9), (3, 7), (4, 10), (3, 7), (3, 9),
          (2, 8), (1, 8), (2, 10), (1, 11), (1, 8), (2, 8), (3, 9)]  # fmt: skip


def solo(bent: bool = True) -> Score:
    """Twenty notes, quarters and eighths, one of them bent a whole step."""
    notes, at_s = [], 0.5
    for number, (string, fret) in enumerate(MELODY):
        length_s = 0.5 if number % 3 == 0 else 0.25
        curve = bent_curve(2, length_s * 0.92) if bent and number == 6 else FLAT
        notes.append(Note(at_s, at_s + 0.92 * length_s, string, fret, curve=curve))
        at_s += length_s
    return Score(tuple(notes), beat_map=BeatMap.steady(120, 0.5), title="Tune")


def played(score: Score, *, key: int = 0, rate: float = 1.0) -> Score:
    """The same by another player: in another key, at a tempo that grows by a tenth."""
    opens = tuple(midi + key for midi in score.tuning.open_midi)
    tuned = replace(score, notes=(), tuning=Tuning(opens)).with_notes(score.notes)
    return replace(with_times(tuned, lambda t: 0.3 + rate * (t + 0.008 * t**2)), beat_map=NO_BEAT_MAP)


# --- pairing ---
def cheapest(cost: np.ndarray) -> float:
    """The least cost of all pairings in order, each tried."""
    rows, columns = cost.shape
    best = ALONE * (rows + columns)
    for size in range(1, min(rows, columns) + 1):
        for mine in combinations(range(rows), size):
            for theirs in combinations(range(columns), size):
                here = sum(cost[a, b] for a, b in zip(mine, theirs, strict=True))
                best = min(best, here + ALONE * (rows + columns - 2 * size))
    return best


def tones(midi: list[int], onsets_s: list[float] | None = None) -> Tones:
    pitches = np.array(midi, dtype=float)
    times_s = np.arange(len(midi)) * 0.3 if onsets_s is None else np.array(onsets_s)
    return Tones(times_s, pitches, pitches, pitches, np.full(pitches.size, ALONE))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(60, 66), min_size=1, max_size=5), st.lists(st.integers(60, 66), min_size=1, max_size=5))
def test_no_pairing_is_cheaper(mine: list[int], theirs: list[int]) -> None:
    first, second = tones(mine), tones(theirs)
    for near_s in (None, first.onset_s):
        pairs, cost = aligned(first, second, near_s=near_s)
        table = np.array([_costs(first, row, second, 0.0, near_s, 0.5) for row in range(len(mine))])
        assert cost == pytest.approx(cheapest(table), abs=1e-4)
        spent = sum(table[a, b] for a, b in pairs) + ALONE * (len(mine) + len(theirs) - 2 * len(pairs))
        assert spent == pytest.approx(cost, abs=1e-4), "the pairs are those that cost so much"


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=1, max_size=8))
def test_the_longest_rising_row_is_kept(moments: list[tuple[int, int]]) -> None:
    first, second = (np.array(side, dtype=float) for side in zip(*moments, strict=True))
    kept = _rising(first, second)
    assert (np.diff(first[kept]) > 0).all()
    assert (np.diff(second[kept]) > 0).all()
    distinct = {at: moments[at] for at in reversed(range(len(moments)))}
    longest = 0
    for size in range(1, len(moments) + 1):
        for chosen in combinations(range(len(moments)), size):
            row = sorted(distinct[at] for at in chosen)
            if all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(row)):
                longest = size
    # of several that begin together in the first only the earliest of the second is looked at
    assert kept.size <= longest
    if len({a for a, _ in moments}) == len(moments):
        assert kept.size == longest


def test_a_time_map_leads_there_and_back() -> None:
    there = TimeMap(np.array([0.0, 1.0, 3.0]), np.array([1.0, 3.0, 4.0]))
    assert there(0.5) == 2.0
    assert there(2.0) == 3.5
    assert there.back(there(2.7)) == pytest.approx(2.7)
    assert there(-1.0) < there(0.0) < there(3.0) < there(4.0)
    with pytest.raises(ValueError, match="nothing is paired"):
        TimeMap(np.zeros(0), np.zeros(0))


# music21's intervals are the independent source (M. Cuthbert and C. Ariza, ISMIR 2010).
@pytest.mark.outside(
    what="the interval between two keys",
    source="music21 (M. Cuthbert, C. Ariza, ISMIR 2010)",
    tolerance="exact",
    why="semitones",
    kind="library",
)
@pytest.mark.parametrize("name", ["P1", "m2", "M2", "m3", "M-2", "m-3", "P4"])
def test_the_key_is_found(name: str) -> None:
    interval = music21.interval.Interval(name)
    line = music21.stream.Stream([music21.note.Note(midi) for midi in tones_of(solo(bent=False)).start.astype(int)])
    moved = tones([note.pitch.midi for note in line.transpose(interval).notes])
    assert likely_shifts(tones_of(solo(bent=False)), moved)[0] == interval.semitones
    found = compared(Version(solo()), Version(played(solo(), key=interval.semitones)))
    assert found.shift == interval.semitones
    assert found.differences == ()


# --- what differs ---
def test_what_was_changed_is_told_and_nothing_else() -> None:
    first = solo()
    notes = list(played(first, key=2, rate=0.9).notes)
    notes[3] = replace(notes[3], fret=notes[3].fret + 1)
    notes[6] = replace(notes[6], curve=FLAT)
    gone = notes.pop(11)
    second = replace(played(first, key=2), notes=()).with_notes(notes)
    found = compared(Version(first), Version(second))
    assert gone not in second.notes
    told = [(d.kind, d.first, d.second, d.amount) for d in found.differences]
    assert told == [
        (Differs.PITCH, 3, 3, 1.0),
        (Differs.BEND, 6, 6, -2.0),
        (Differs.LEFT_OUT, 11, None, 0.0),
    ]
    over = found.second_over_first()
    apart = [abs(over.notes[b].onset_s - first.notes[a].onset_s) for a, b in found.pairs]
    assert max(apart) < 0.03, "both are read over one axis"


def test_a_note_that_came_in_and_one_that_came_late() -> None:
    first = solo()
    second = played(first)
    more = Note(second.notes[9].offset_s + 0.005, second.notes[10].onset_s - 0.001, 1, 15)
    late = retimed(second.notes[15], second.notes[15].onset_s + 0.16, second.notes[15].offset_s + 0.17)
    second = second.with_notes([*second.notes[:15], late, *second.notes[16:], more])
    found = compared(Version(first), Version(second))
    kinds = [(d.kind, d.first) for d in found.differences]
    assert kinds == [(Differs.ADDED, None), (Differs.TIME, 15)]
    assert found.differences[1].amount == pytest.approx(0.16, abs=0.04)


def test_the_same_pitch_elsewhere_is_another_place() -> None:
    first = solo()
    notes = list(first.notes)
    notes[2] = replace(notes[2], string=2, fret=13)
    found = compared(Version(first), Version(first.with_notes(notes)))
    assert [(d.kind, d.first) for d in found.differences] == [(Differs.PLACE, 2)]


def test_other_music_is_refused() -> None:
    dice = np.random.default_rng(5)
    other = tuple(Note(0.3 * at, 0.3 * at + 0.2, 6, int(dice.integers(0, 12))) for at in range(20))
    with pytest.raises(NothingInCommonError, match="next to nothing in common"):
        compared(Version(solo()), Version(Score(other)))
    with pytest.raises(NothingInCommonError):
        compared(Version(solo()), Version(Score()))
    with pytest.raises(Cancelled):
        compared(Version(solo()), Version(solo()), cancelled=lambda: True)


# --- recordings ---
@pytest.fixture(scope="module")
def heard() -> Draft:
    return draft(render(played(solo(), rate=1.1)))


@pytest.mark.slow
def test_what_the_ear_wrote_otherwise_is_no_difference(heard: Draft) -> None:
    """A wrong note in one draft: its own recording holds what the other's tab claims, so nobody played otherwise."""
    own = draft(render(solo()))
    version = Version(heard.score, heard.measured, heard.attacks_s)
    wrong = own.score.with_note(own.score.notes[4].id, fret=own.score.notes[4].fret + 2)
    found = compared(Version(wrong, own.measured, own.attacks_s), version)
    assert [d for d in found.differences if d.sure] == []


@pytest.mark.outside(
    what="onsets of a tab laid over its recording",
    source="mir_eval's bound for a right onset",
    tolerance="50 ms for 95 %",
    why="its own definition",
    kind="derivation",
)
@pytest.mark.parametrize("rhythm", [True, False])
def test_a_tab_without_times_finds_its_recording(heard: Draft, rhythm: bool) -> None:
    true = played(solo(), rate=1.1)
    written = solo()
    if not rhythm:
        notes = [retimed(note, 0.25 * at, 0.25 * at + 0.2) for at, note in enumerate(written.notes)]
        written = replace(written, notes=tuple(notes), beat_map=NO_BEAT_MAP)
    found = laid_over(written, heard)
    assert [note.id for note in found.score.notes] == [note.id for note in written.notes]
    assert [(n.string, n.fret) for n in found.score.notes] == [(n.string, n.fret) for n in written.notes]
    apart = [abs(a.onset_s - b.onset_s) for a, b in zip(found.score.notes, true.notes, strict=True)]
    # 50 ms as in note transcription (C. Raffel et al., "mir_eval", ISMIR 2014)
    assert np.mean(np.array(apart) <= 0.05) >= 0.95
    assert found.not_found == ()
    assert found.score.beat_map.known


def test_what_is_not_in_the_recording_is_named(heard: Draft) -> None:
    written = solo()
    more = Note(20.0, 20.4, 6, 1)
    found = laid_over(written.with_notes([*written.notes, more]), heard)
    assert found.not_found == (more.id,) or len(found.not_found) == 1
    doubted = [note for note in found.score.notes if note.doubt is not None]
    assert [note.doubt.kind for note in doubted if note.doubt is not None] == [DoubtKind.NOT_FOUND]
    fewer = laid_over(written.without([written.notes[7].id]), heard)
    assert len(fewer.unwritten) >= 1, "what was heard and is not written is named too"


def test_a_neck_tuned_lower_is_told_by_the_sound(heard: Draft) -> None:
    """The tab says standard, the recording lies a half step above it: the neck is retuned, the frets stay."""
    low = Tuning(tuple(midi - 1 for midi in solo().tuning.open_midi))
    found = laid_over(replace(solo(), tuning=low), heard)
    assert found.shift == 1
    assert found.score.tuning.open_midi == solo().tuning.open_midi


def test_a_tab_of_other_music_is_refused(heard: Draft) -> None:
    dice = np.random.default_rng(9)
    other = tuple(Note(0.3 * at, 0.3 * at + 0.2, 6, int(dice.integers(0, 5))) for at in range(20))
    with pytest.raises(NothingInCommonError):
        laid_over(Score(other), heard)


@pytest.mark.slow
def test_a_tab_that_begins_earlier_is_moved_as_a_whole(heard: Draft) -> None:
    """The same take cut three seconds later: every note moves alike, and none is measured anew."""
    true = heard.score
    early = with_times(true, lambda time_s: max(0.0, time_s - 0.25))
    again = laid_over_again(early, heard).score
    apart = [new.onset_s - old.onset_s for new, old in zip(again.notes, true.notes, strict=True)]
    assert apart == pytest.approx([0.0] * len(apart), abs=0.03)


def recorded(score: Score, *stretches: tuple[float, float, float], struck_s: list[float] | None = None) -> Version:
    """A version with what its recording does: each note's pitch, or (from, to, MIDI) where that is otherwise."""
    times_s = np.arange(0.0, 12.0, HOP_S)
    midi = np.full(times_s.size, np.nan)
    for start_s, end_s, pitch in [*((n.onset_s, n.offset_s, score.sounding_midi(n)) for n in score.notes), *stretches]:
        midi[(times_s >= start_s) & (times_s < end_s)] = pitch
    hertz = midi_to_hz(69.0) * 2 ** ((midi - 69) / 12)
    track = PitchTrack(times_s, hertz, np.where(np.isnan(midi), 0.0, 0.95), np.full(times_s.size, -12.0))
    attacks_s = np.array([note.onset_s for note in score.notes] if struck_s is None else struck_s)
    return Version(score, Measured((track,)), attacks_s)


@pytest.mark.parametrize("struck", [False, True])
def test_a_note_that_only_rings_on_in_the_other_was_not_played_there(struck: bool) -> None:
    """The first strikes a pitch twice; the other's tab has one long note, and its recording tells which it was."""
    other = solo(bent=False)
    long = other.notes[3]
    middle_s = (long.onset_s + long.offset_s) / 2
    halves = [retimed(long, long.onset_s, middle_s - 0.01), replace(retimed(long, middle_s, long.offset_s), id="again")]
    first = replace(other, notes=()).with_notes([*other.notes[:3], *halves, *other.notes[4:]])
    struck_s = [note.onset_s for note in other.notes] + ([middle_s] if struck else [])
    found = compared(recorded(first), recorded(other, struck_s=sorted(struck_s)))
    assert [difference.kind for difference in found.differences] == ([] if struck else [Differs.LEFT_OUT])


def test_two_tabs_that_part_are_held_to_all_that_their_notes_last() -> None:
    first = solo(bent=False)
    short = retimed(first.notes[3], first.notes[3].onset_s, first.notes[3].onset_s + 0.2)
    one = replace(first, notes=()).with_notes([*first.notes[:3], short, *first.notes[4:]])
    long = replace(first.notes[3], fret=first.notes[3].fret + 2)
    two = replace(first, notes=()).with_notes([*first.notes[:3], long, *first.notes[4:]])
    same = (long.onset_s, long.onset_s + 0.2, first.sounding_midi(first.notes[3]))
    found = compared(recorded(one), recorded(two, same))
    assert [(difference.kind, difference.first) for difference in found.differences] == [(Differs.PITCH, 3)]


def test_notes_without_times_are_paired_over_any_rest() -> None:
    """A tab that gives only the order is not held to a steady flow: the same line with a rest of four seconds pairs."""
    midi = [60, 61, 61, 61, 64, 65, 63, 60, 60, 61, 62, 63, 62, 61, 60, 64, 64, 60, 60, 62]
    written = tones(midi, [0.25 * at for at in range(len(midi))])
    dice = np.random.default_rng(3)
    onsets_s = np.cumsum(dice.uniform(0.1, 1.2, len(midi)))
    onsets_s[10:] += 4.0
    pairs = _paired(written, tones(midi, onsets_s.tolist()), 0, rhythm=False)
    assert [(pair[0], pair[1]) for pair in pairs] == [(at, at) for at in range(len(midi))]
