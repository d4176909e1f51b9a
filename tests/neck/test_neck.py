"""Places, the placing solver, and edits that need the neck."""

import numpy as np
import pytest

from notcher.core.neck import (
    Place,
    PlaceError,
    Sounding,
    alternatives,
    fret_position_mm,
    inserted_at,
    measured_deviation,
    moved,
    neighbour_place,
    nudged,
    place,
    place_score,
    places,
    retuned,
    typed_fret,
)
from notcher.core.score import STANDARD, TUNINGS, Note, Score, Strike, Tuning


# Luthiers divide what is left of the string by 17.817 at each fret (handbook constant, from memory).
def test_frets_follow_the_luthiers_constant() -> None:
    left = 648.0
    for fret in range(1, 25):
        left -= left / 17.817
        assert fret_position_mm(fret) == pytest.approx(648.0 - left, abs=0.03)
    assert fret_position_mm(12) == pytest.approx(324.0)


# "Fret 14 on the third string is the same note as fret 10 on the second": common practice, no source.
def test_a_pitch_lives_in_several_places() -> None:
    assert places(69, STANDARD)[:3] == (Place(1, 5), Place(2, 10), Place(3, 14))
    assert {Place(3, 14), Place(2, 10)} <= set(places(STANDARD.midi(3, 14), STANDARD))
    assert places(39, STANDARD) == ()
    capo = Tuning(capo=3)
    assert all(where.fret >= 3 for where in places(60, capo))


def walk(*midi: float, step_s: float = 0.25, **more: object) -> list[Sounding]:
    return [Sounding(i * step_s, (i + 0.9) * step_s, pitch, **more) for i, pitch in enumerate(midi)]  # type: ignore[arg-type]


def agreement(true: list[tuple[int, int]], *, lock: int = 0) -> float:
    """Share of places that the solver finds again, given one of them."""
    soundings = walk(*(STANDARD.midi(*where) for where in true))
    first = soundings[lock]
    soundings[lock] = Sounding(first.onset_s, first.offset_s, first.fretted_midi, lock=Place(*true[lock]))
    found = [tuple(placed.place) for placed in place(soundings, STANDARD)]
    return sum(a == b for a, b in zip(true, found, strict=True)) / len(true)


# Shapes of common method-book practice (no source), the first note locked.
PENTATONIC_5 = [(6, 5), (6, 8), (5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8), (1, 5), (1, 8)]


@pytest.mark.parametrize("shape", [PENTATONIC_5, PENTATONIC_5[::-1]])
def test_scales_are_placed_as_method_books_do(shape: list[tuple[int, int]]) -> None:
    assert agreement(shape) >= 0.9


def test_a_pentatonic_box_moves_up_the_neck_with_its_first_note() -> None:
    for up in (0, 3, 7):
        assert agreement([(string, fret + up) for string, fret in PENTATONIC_5]) == 1.0


def test_a_legato_chain_stays_on_one_string() -> None:
    soundings = walk(64, 67, 69, 67, 64)
    soundings = [soundings[0]] + [
        Sounding(s.onset_s, s.offset_s, s.fretted_midi, Strike.HAMMER if up else Strike.PULL)
        for s, up in zip(soundings[1:], (True, True, False, False), strict=True)
    ]
    touching = [Sounding(s.onset_s, s.onset_s + 0.25, s.fretted_midi, s.strike) for s in soundings]
    assert len({placed.place.string for placed in place(touching, STANDARD)}) == 1


def test_a_bend_is_not_put_on_an_open_or_a_wound_string() -> None:
    # E4 sounds on the open first string and on five fretted places
    bent = place([Sounding(0, 1, 64, bend_semitones=2.0)], STANDARD)[0]
    assert bent.place.fret > 0
    assert bent.place.string <= 3
    assert bent.finger == 3, "the third finger, backed by two (common practice, no source)"


def test_two_notes_at_once_lie_on_two_strings() -> None:
    placed = place([Sounding(0, 1, 67), Sounding(0, 1, 71)], STANDARD)
    assert placed[0].place.string != placed[1].place.string
    assert abs(placed[0].place.fret - placed[1].place.fret) <= 4


def test_locks_are_obeyed_and_alternatives_cost_more() -> None:
    notes = walk(69, 72, 69)
    notes[1] = Sounding(0.25, 0.4, 72, lock=Place(3, 17))
    placed = place(notes, STANDARD)
    assert placed[1].place == Place(3, 17)
    for one in placed:
        costs = [cost for _, cost in one.alternatives]
        assert costs == sorted(costs)
        assert costs[0] == pytest.approx(0.0, abs=1e-9)
        assert one.alternatives[0][0] == one.place or costs[1] == pytest.approx(0.0, abs=1e-9)


def test_schools_differ() -> None:
    line = walk(64, 66, 68, 69, 71, 73, step_s=0.5)
    strings = {
        school: [p.place.string for p in place(line, STANDARD, school=school)] for school in ("position", "string")
    }
    assert len(set(strings["string"])) <= len(set(strings["position"]))
    with pytest.raises(ValueError, match="school must be"):
        place(line, STANDARD, school="none")


def test_a_pitch_off_the_neck_is_refused_with_its_time() -> None:
    with pytest.raises(PlaceError, match=r"1\.00 s"):
        place([Sounding(1.0, 2.0, 30)], STANDARD)


def two_notes() -> Score:
    return Score((Note(0.0, 0.5, 2, 10), Note(0.5, 1.0, 2, 13)))


def test_edits_keep_the_sound_or_the_string() -> None:
    score = two_notes()
    where = neighbour_place(score, 0, 1)
    assert where == Place(3, 14)
    changed = moved(score, 0, Place(3, 14))
    assert changed.fretted_midi(changed.notes[0]) == score.fretted_midi(score.notes[0])
    assert changed.notes[0].locked
    assert typed_fret(score, 1, 15).notes[1].string == 2
    with pytest.raises(ValueError, match="frets 0 to 24"):
        typed_fret(score, 1, 25)
    assert neighbour_place(Score((Note(0, 1, 1, 0),)), 0, -1) is None


def test_nudging_and_inserting_keep_time_order() -> None:
    score, index = nudged(two_notes(), 1, -0.02)
    assert (index, score.notes[1].onset_s) == (1, pytest.approx(0.48))
    with pytest.raises(ValueError, match="cannot pass"):
        nudged(two_notes(), 0, 0.49)
    score, index = inserted_at(two_notes(), 0.3, like=two_notes().notes[0])
    assert index == 1
    assert score.notes[1].offset_s <= 0.5
    assert (score.notes[1].string, score.notes[1].fret) == (2, 10)


def test_retuning_keeps_what_sounds() -> None:
    score = two_notes()
    lower = retuned(score, TUNINGS["half-down"])
    assert [lower.fretted_midi(note) for note in lower.notes] == [score.fretted_midi(note) for note in score.notes]
    with pytest.raises(PlaceError):
        retuned(Score((Note(0, 1, 6, 0),), TUNINGS["drop-d"]), STANDARD)


def test_placing_a_score_leaves_locked_notes() -> None:
    score = Score((Note(0, 0.5, 5, 24, locked=True), Note(0.5, 1, 5, 24)))
    placed = place_score(score)
    assert (placed.notes[0].string, placed.notes[0].fret) == (5, 24)
    assert placed.fretted_midi(placed.notes[1]) == 69
    assert alternatives(placed, 1).alternatives[0][1] <= 0


def test_the_measured_deviation_is_from_the_notes_own_fret() -> None:
    times_s = np.linspace(0, 1, 101)
    score = Score((Note(0.2, 0.6, 1, 5),), Tuning(offset_cents=10))
    since, deviation = measured_deviation(score, score.notes[0], times_s, np.full(101, 71.1))
    assert deviation == pytest.approx(2.0)
    assert since[0] == pytest.approx(0.0, abs=0.011)
