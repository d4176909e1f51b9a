"""Places, the placing solver, and edits that need the neck."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from method_shapes import shapes
from notcher.core.neck import (
    PICKING_STYLES,
    Keeps,
    Place,
    PlaceError,
    PlacingObstacle,
    Sounding,
    alternatives,
    appended,
    copied,
    fret_position_mm,
    harmonic_places,
    inserted,
    inserted_at,
    moved,
    moved_with_phrase,
    nearest_place,
    neighbour_place,
    pasted,
    place,
    place_on,
    place_score,
    places,
    placing,
    retuned,
    strokes,
    typed_fret,
)
from notcher.core.neck.boxes import boxes
from notcher.core.neck.hand import grips, reach_cost
from notcher.core.neck.placing import _bend_cost
from notcher.core.neck.voicing import _cost, voicing
from notcher.core.patterns.repeats import moved_cells, repeats
from notcher.core.score import STANDARD, TUNINGS, Attack, BeatMap, Note, Phrase, Score, Tone, Tuning, Variant
from notcher.core.theory import LikelyScale, chord_tones
from placing_bench import agreed, lowest_fret


# Luthiers divide what is left of the string by 17.817 at each fret (handbook constant, from memory).
@pytest.mark.outside(
    what="what is left of a string at each fret",
    source="a luthiers' handbook constant, 17.817",
    tolerance="0.03 mm",
    why="the constant's own rounding",
    kind="memory",
)
def test_frets_follow_the_luthiers_constant() -> None:
    left = 648.0
    for fret in range(1, 25):
        left -= left / 17.817
        assert fret_position_mm(fret) == pytest.approx(648.0 - left, abs=0.03)
    assert fret_position_mm(12) == pytest.approx(324.0)


# "Fret 14 on the third string is the same note as fret 10 on the second": common practice, no source.
@pytest.mark.outside(
    what="one pitch on several strings", source="every method book", tolerance="exact", why="frets", kind="practice"
)
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
@pytest.mark.slow
def test_shapes_are_placed_as_method_books_teach_them() -> None:
    counts = [agreed(shape) for shape in shapes()]
    assert sum(right for right, _ in counts) / sum(notes for _, notes in counts) >= 0.9
    # and far better than the naive answers
    assert sum(lowest_fret(shape) for shape in shapes()) < 0.5 * sum(right for right, _ in counts)


PENTATONIC_5 = [(6, 5), (6, 8), (5, 5), (5, 7), (4, 5), (4, 7), (3, 5), (3, 7), (2, 5), (2, 8), (1, 5), (1, 8)]


def test_a_pentatonic_box_moves_up_the_neck_with_its_first_note() -> None:
    for up in (0, 3, 7):
        assert agreement([(string, fret + up) for string, fret in PENTATONIC_5]) == 1.0


@pytest.mark.parametrize("capo", [0, 2])
def test_a_hand_reaches_as_far_as_its_fingers(capo: int) -> None:
    # one finger a fret over four frets, in order (common practice, no source)
    assert (5, (1, 2, 3, 4)) in grips((5, 6, 7, 8), capo=capo)
    assert grips((5, 10), capo=capo) == [], "six frets apart is out of reach"
    assert all(fingers[1] == 0 for _, fingers in grips((5, capo), capo=capo)), "an open string needs no finger"
    assert all(hand > capo for hand, _ in grips((capo + 1, capo + 3), capo=capo))
    # frets are narrower up the neck: the same five frets cost less there (Mersenne's law, see fret_position_mm)
    low, high = (float(reach_cost(np.array([h]), np.array([h + 4]), np.array([4]))[0]) for h in (1, 12))
    assert low > high == 0


def test_three_strings_at_once_are_three_strings() -> None:
    placed = place([Sounding(0, 1, midi) for midi in (64, 60, 55)], STANDARD)
    assert len({placed_note.place.string for placed_note in placed}) == 3
    frets = [placed_note.place.fret for placed_note in placed if placed_note.place.fret]
    assert not frets or max(frets) - min(frets) <= 4
    # two notes that no hand holds at once still lie on two strings
    wide = place([Sounding(0, 1, 41), Sounding(0, 1, 87)], STANDARD)
    assert wide[0].place.string != wide[1].place.string
    seven = Tuning((64, 59, 55, 50, 45, 40, 35))
    assert place([Sounding(0, 1, 36)], seven)[0].place == Place(7, 1)


def test_a_wish_for_a_position_moves_the_phrase_there() -> None:
    line = [Note(i * 0.2, i * 0.2 + 0.19, *where) for i, where in enumerate(PENTATONIC_5[4:])]
    score = Score(tuple(line), phrases=(Phrase(0, 5, "a", near_fret=12),))
    frets = [note.fret for note in place_score(score).notes]
    assert 10 <= np.median(frets) <= 14
    assert np.median([note.fret for note in place_score(replace(score, phrases=())).notes]) < 10


def test_a_lick_that_comes_again_lies_where_it_lay(monkeypatch: pytest.MonkeyPatch) -> None:
    """Low notes between lead the hand away; only the wish for the same strings leads it back."""
    pitches = [72, 75, 75, 72, 77]
    soundings = [Sounding(0.3 * at, 0.3 * at + 0.29, midi) for at, midi in enumerate([*pitches, 50, 48, 82, *pitches])]

    def places() -> list[Place]:
        return [placed.place for placed in place(soundings, STANDARD)]

    assert places()[:5] == places()[-5:]
    monkeypatch.setattr(placing, "COSTS", replace(placing.COSTS, other_string=0.0))
    assert places()[:5] != places()[-5:], "without the wish it lies elsewhere"


def test_what_comes_again_is_found_in_its_pitches() -> None:
    assert repeats([60, 62, 64, 65, 67] * 2, list(range(10)), ["pick"] * 10) == {5 + i: i for i in range(5)}
    assert repeats([60, 62, 64, 65, 67, 61, 63, 65, 66, 68], list(range(10)), ["pick"] * 10) == {}
    assert moved_cells([60, 63, 66, 62, 65, 68, 64, 67, 70]) == {3: 0, 4: 1, 5: 2, 6: 0, 7: 1, 8: 2}


def test_every_alternative_has_its_reason() -> None:
    score = Score(tuple(Note(i * 0.2, i * 0.2 + 0.19, *where) for i, where in enumerate(PENTATONIC_5)))
    found = alternatives(score, score.notes[8].id).alternatives
    assert found[0].reason is None
    assert found[0].place == Place(2, 5)
    assert all(other.reason for other in found[1:])
    assert any(other.reason.kind is PlacingObstacle.SHIFT for other in found[1:])


@pytest.mark.outside(
    what="where a string is touched for a partial",
    source="N. Fletcher, T. Rossing, ch. 9",
    tolerance="exact",
    why="frets",
    kind="derivation",
)
def test_a_natural_harmonic_is_touched_where_its_partial_is() -> None:
    # Fletcher and Rossing, ch. 9: fret 12 halves the string, fret 7 leaves a third, fret 5 a quarter
    assert harmonic_places(64 + 19, STANDARD) == (Place(1, 7), Place(2, 5), Place(3, 4), Place(3, 9))
    assert Place(2, 12) in harmonic_places(59 + 12, STANDARD)
    placed = place([Sounding(0, 1, 74, tone=Tone.NATURAL_HARMONIC, harmonic_midi=74)], STANDARD)[0]
    assert placed.place in {Place(3, 7), Place(4, 5)}


# Down goes from low strings to high; three styles teach differently (common practice, no source).
def test_the_pick_moves_as_the_style_says() -> None:
    line = [Note(i * 0.1, i * 0.1 + 0.09, string, 5) for i, string in enumerate((4, 3, 2, 1, 1, 2))]
    told = {style: "".join(str(s)[0] for s in strokes(line, style=style)) for style in PICKING_STYLES}
    assert told == {"alternate": "dududu", "economy": "dddduu", "sweep": "ddddud"}
    slurred = [*line[:1], replace(line[1], attack=Attack.HAMMER), *line[2:]]
    assert strokes(slurred)[1] is None
    rested = [line[0], Note(3, 4, 1, 5)]
    assert [str(stroke) for stroke in strokes(rested)] == ["down", "down"]
    with pytest.raises(ValueError, match="picking style"):
        strokes(line, style="none")


@pytest.mark.parametrize("pitches", [(60, 64, 66, 67, 61), (54, 60, 61, 56, 57), (67, 70, 69, 73, 69)])
def test_a_legato_chain_stays_on_one_string(pitches: tuple[int, ...]) -> None:
    """Picked, the same pitches lie on two."""
    kinds = [Attack.HAMMER if b > a else Attack.PULL for a, b in pairwise(pitches)]
    struck = [Sounding(0.25 * at, 0.25 * at + 0.25, midi) for at, midi in enumerate(pitches)]
    chain = [replace(sounding, attack=kind) for sounding, kind in zip(struck, [Attack.PICK, *kinds], strict=True)]
    assert len({placed.place.string for placed in place(chain, STANDARD)}) == 1
    assert len({placed.place.string for placed in place(struck, STANDARD)}) == 2


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
    for placed_note in placed:
        costs = [other.cost for other in placed_note.alternatives]
        assert costs == sorted(costs)
        assert costs[0] == pytest.approx(0.0, abs=1e-9)
        assert placed_note.alternatives[0].place == placed_note.place


def test_styles_differ() -> None:
    line = walk(64, 66, 68, 69, 71, 73, step_s=0.5)
    strings = {style: [p.place.string for p in place(line, STANDARD, style=style)] for style in ("position", "string")}
    assert len(set(strings["string"])) <= len(set(strings["position"]))
    with pytest.raises(ValueError, match="style must be"):
        place(line, STANDARD, style="none")


def test_a_pitch_off_the_neck_is_refused_with_its_time() -> None:
    with pytest.raises(PlaceError, match=r"1\.00 s"):
        place([Sounding(1.0, 2.0, 30)], STANDARD)


def two_notes() -> Score:
    return Score((Note(0.0, 0.5, 2, 10), Note(0.5, 1.0, 2, 13)))


def test_edits_keep_the_sound_or_the_string() -> None:
    score = two_notes()
    where = neighbour_place(score, score.notes[0].id, 1)
    assert where == Place(3, 14)
    changed = moved(score, score.notes[0].id, Place(3, 14))
    assert changed.fretted_midi(changed.notes[0]) == score.fretted_midi(score.notes[0])
    assert changed.notes[0].locked
    assert typed_fret(score, score.notes[1].id, 15).notes[1].string == 2
    with pytest.raises(ValueError, match="frets 0 to 24"):
        typed_fret(score, score.notes[1].id, 25)
    assert neighbour_place(Score((Note(0, 1, 1, 0, id="a"),)), "a", -1) is None


def test_inserting_keeps_time_order() -> None:
    score, note_id = inserted_at(two_notes(), 0.3, like=two_notes().notes[0])
    assert score.position(note_id) == 1
    assert score.notes[1].offset_s <= 0.5
    assert (score.notes[1].string, score.notes[1].fret) == (2, 10)


def test_notes_are_written_on_after_the_beat_and_pasted_elsewhere() -> None:
    score, note_id = appended(Score(beat_map=BeatMap.steady(120, 1.0)), "", beats=0.5)
    assert score.note(note_id).onset_s == pytest.approx(1.0)
    score, note_id = appended(score, note_id, beats=0.5, place=Place(2, 8))
    assert (score.note(note_id).onset_s, score.note(note_id).fret) == (pytest.approx(1.25), 8)
    kept = copied(score.notes[:2])
    assert [note.onset_s for note in kept] == pytest.approx([0, 0.25])
    octave, first_id = pasted(score, kept, 5.0, semitones=12)
    first = octave.position(first_id)
    pitches = [octave.fretted_midi(note) for note in octave.notes]
    assert pitches[first:] == [midi + 12 for midi in pitches[:first]]
    lower, first_id = pasted(score, kept, 5.0, strings=1)
    first = lower.position(first_id)
    assert [(n.string, n.fret) for n in lower.notes[first:]] == [(n.string + 1, n.fret) for n in score.notes]
    with pytest.raises(ValueError, match="leave the neck"):
        pasted(score, kept, 5.0, strings=5)


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
    assert alternatives(placed, placed.notes[1].id).alternatives[0].cost <= 0


def test_a_heard_note_is_put_where_the_hand_is() -> None:
    """Between notes around fret 12 the same pitch goes to the fret in reach, not to the lowest one."""
    run = [
        Note(0.3 * at, 0.3 * at + 0.28, string, fret)
        for at, (string, fret) in enumerate([(3, 12), (3, 14), (2, 12), (2, 15)])
    ]
    score = Score(tuple(note for at, note in enumerate(run) if at != 2))
    written, note_id = inserted(score, run[2], score.tuning.midi(2, 12))
    assert (written.position(note_id), written.notes[2].string, written.notes[2].fret) == (2, 2, 12)
    assert written.without([written.notes[2].id]) == score
    with pytest.raises(PlaceError):
        inserted(score, run[2], 30.0)


def test_the_nearest_place_keeps_the_string_while_it_can() -> None:
    score = Score()
    assert nearest_place(score.tuning.midi(2, 14), score.tuning, Place(2, 15)) == Place(2, 14)
    assert nearest_place(score.tuning.midi(1, 22), score.tuning, Place(3, 20)) == Place(1, 22)
    assert nearest_place(45.0, score.tuning, Place(2, 5)).string in (5, 6)
    with pytest.raises(ValueError, match="nowhere on this neck"):
        nearest_place(20.0, score.tuning, Place(1, 1))


# A hand stays where it is; after a rest it may have moved on (common practice, no source).
# The five positions of the minor pentatonic scale, frets over the root's on the lowest string, as every method book
# draws them (common practice, no source); lowest string first.
FIVE_POSITIONS = (
    ((0, 3), (0, 2), (0, 2), (0, 2), (0, 3), (0, 3)),
    ((3, 5), (2, 5), (2, 5), (2, 4), (3, 5), (3, 5)),
    ((5, 7), (5, 7), (5, 7), (4, 7), (5, 8), (5, 7)),
    ((7, 10), (7, 10), (7, 9), (7, 9), (8, 10), (7, 10)),
    ((10, 12), (10, 12), (9, 12), (9, 12), (10, 12), (10, 12)),
)


def test_boxes_are_the_five_positions_of_the_method_books() -> None:
    root = 5  # A on the sixth string
    laid = boxes(LikelyScale(9, "minor pentatonic", 1.0), STANDARD)
    for position in FIVE_POSITIONS:
        frets = tuple((root + low, root + high) for low, high in reversed(position))
        assert frets in [box.frets for box in laid]
    with_blue_notes = boxes(LikelyScale(9, "blues", 1.0), STANDARD)
    assert [box.frets for box in with_blue_notes] == [box.frets for box in laid], "the blue note lies inside the boxes"


def test_seven_notes_lie_three_to_a_string_and_follow_a_retuned_neck() -> None:
    half_down = TUNINGS["half-down"]
    laid = boxes(LikelyScale(9, "major", 1.0), STANDARD)
    lower = boxes(LikelyScale(8, "major", 1.0), half_down)
    assert [box.frets for box in laid] == [box.frets for box in lower], "shapes stay where all strings are let down"
    assert ((10, 14), (10, 14), (9, 13), (9, 12), (7, 11), (7, 10)) not in [box.frets for box in laid]
    # A major from the root on the sixth string: 5-7-9, 5-7-9, 6-7-9, 6-7-9, 7-9-10, 7-9-10 (common practice, no source)
    assert ((7, 10), (7, 10), (6, 9), (6, 9), (5, 9), (5, 9)) in [box.frets for box in laid]


@pytest.mark.parametrize("position", range(5))
def test_a_position_is_kept_once_its_first_note_is_told(position: int) -> None:
    """Up and down each of the five positions from its lowest note: at least nine notes in ten on the taught place."""
    line = [
        Place(string, 2 + fret)
        for string, pair in zip(range(6, 0, -1), FIVE_POSITIONS[position], strict=True)
        for fret in pair
    ]
    line += line[-2::-1]
    heard = [
        Sounding(0.3 * at, 0.3 * at + 0.29, STANDARD.midi(*where), lock=where if at == 0 else None)
        for at, where in enumerate(line)
    ]
    agreed = [found.place == where for found, where in zip(place(heard, STANDARD), line, strict=True)]
    assert np.mean(agreed) >= 0.9


def test_told_places_of_a_position_pull_together() -> None:
    """Frets 8 and 5 told of one position: a hand that reaches both sits at fret 5, and what follows lies there too."""
    told = [Place(2, 8), Place(3, 5)]
    pitches = [
        *(STANDARD.midi(*where) for where in told),
        STANDARD.midi(2, 5),
        STANDARD.midi(1, 8),
        STANDARD.midi(1, 5),
    ]
    heard = [
        Sounding(0.3 * at, 0.3 * at + 0.29, midi, lock=told[at] if at < 2 else None) for at, midi in enumerate(pitches)
    ]
    assert [found.place for found in place(heard, STANDARD)][2:] == [Place(2, 5), Place(1, 8), Place(1, 5)]


def test_a_lick_that_comes_again_follows_a_told_place() -> None:
    lick = [76.0, 74.0, 72.0, 69.0, 67.0, 69.0]
    times_s = [*(0.2 * at for at in range(6)), *(6 + 0.2 * at for at in range(6))]
    notes = [
        Note(time_s, time_s + 0.19, where.string, where.fret)
        for time_s, midi in zip(times_s, lick * 2, strict=True)
        for where in [nearest_place(midi, STANDARD, Place(2, 5))]
    ]
    phrases = (Phrase(0.0, 1.3), Phrase(5.9, 7.5))
    score = place_score(replace(Score(), phrases=phrases).with_notes(notes))
    before = [(note.string, note.fret) for note in score.notes]
    assert before[:6] == before[6:]
    told = Place(3, 21) if before[0] != (3, 21) else Place(1, 12)
    after = moved_with_phrase(score, score.notes[6].id, told).notes
    assert [(note.string, note.fret) for note in after[:6]] == [(note.string, note.fret) for note in after[6:]]
    assert (after[0].string, after[0].fret) == told
    assert before[0] != told


def test_what_is_tapped_may_sound_with_other_strings() -> None:
    heard = [
        Sounding(0.0, 1.0, 76.0, Attack.TAP),
        Sounding(0.01, 1.0, 71.0),
        Sounding(0.01, 1.0, 64.0),
        Sounding(1.2, 1.5, 64.0),
    ]
    found = place(heard, STANDARD)
    assert [STANDARD.midi(*one.place) for one in found] == [76, 71, 64, 64]
    assert len({one.place.string for one in found[:3]}) == 3


def test_a_pitch_is_looked_up_on_one_string() -> None:
    score = Score().with_notes([Note(0.0, 0.5, 2, 10)])
    assert place_on(score, score.notes[0].id, 3) == Place(3, 14), "fret 14 on the third string is fret 10 on the second"
    assert place_on(score, score.notes[0].id, 6) is None


def test_a_told_place_pulls_what_follows_it() -> None:
    notes = walk(*(STANDARD.midi(2, fret) for fret in (5, 8, 5, 8, 10, 8, 5, 7, 8, 5)), step_s=0.3)
    free = [found.place for found in place(notes, STANDARD)]
    pulled = [found.place for found in place([replace(notes[0], lock=Place(3, 9)), *notes[1:]], STANDARD)]
    assert np.median([where.fret for where in free]) >= 12
    assert all(8 <= where.fret <= 12 for where in pulled)
    tapped = replace(notes[0], lock=Place(3, 9), attack=Attack.TAP)  # by the other hand
    assert np.median([found.place.fret for found in place([tapped, *notes[1:]], STANDARD)]) >= 12


# The major shape from the fifth string: one tone a string, as method books print it (common practice, no source).
@pytest.mark.parametrize("apart_s", [0.08, 0.15])
def test_a_quick_broken_chord_has_a_string_for_each_tone(apart_s: float) -> None:
    tones = [55, 59, 62, 67, 71]
    line = [*tones, *tones[-2::-1]]
    placed = place([Sounding(apart_s * at, apart_s * (at + 0.9), midi) for at, midi in enumerate(line)], STANDARD)
    strings = [found.place.string for found in placed]
    assert all(first != second for first, second in pairwise(strings))
    assert strings[:5] == sorted(strings[:5], reverse=True)


# The open chords of every method book's first pages, highest string first (common practice, no source).
@pytest.mark.parametrize(
    ("name", "grip"),
    [("E", (0, 0, 1, 2, 2, 0)), ("Em", (0, 0, 0, 2, 2, 0)), ("Am", (0, 1, 2, 2, 0, None)),
     ("D", (2, 3, 2, 0, None, None)), ("C", (0, 1, 0, 2, 3, None)), ("G", (3, 0, 0, 0, 2, 3))],
)  # fmt: skip
def test_open_chords_are_gripped_as_method_books_show_them(name: str, grip: tuple[int | None, ...]) -> None:
    assert voicing(chord_tones(name), STANDARD) == grip


def test_the_same_grip_stretches_a_hand_less_up_the_neck() -> None:
    """Frets lie closer there (equal temperament: a fret is 2 ** (-1 / 12) of the one before)."""
    low, high = (1, 1, 2, 3, 3, 1), (8, 8, 9, 10, 10, 8)
    per_fret = 0.4  # what each fret away from the nut costs by itself
    apart = _cost(high, chord_tones("C"), STANDARD) - _cost(low, chord_tones("F"), STANDARD)
    assert apart < 7 * per_fret


def test_two_steps_are_bent_from_the_tenth_fret_up() -> None:
    """Common practice, no source: below it the string is too short on the nut's side for a bend of two steps."""
    fret = np.arange(7, 15)
    cost = _bend_cost(4.0, np.full(fret.size, 2), fret, np.full(fret.size, 3))
    assert cost[fret == 9] - cost[fret == 10] > 1.0
    assert cost[fret >= 10] == pytest.approx(np.full(5, cost[fret == 10][0]))


def test_frets_are_kept_and_a_capo_takes_them_up_the_neck() -> None:
    score = Score((Note(0, 1, 1, 0), Note(1, 2, 2, 3), Note(2, 3, 6, 5)), STANDARD)
    low = retuned(score, TUNINGS["drop-d"], keeps=Keeps.FRETS)
    assert [low.fretted_midi(note) for note in low.notes] == [64, 62, 43], "only the lowest string sounds lower"
    capo = retuned(score, Tuning(capo=2), keeps=Keeps.FRETS)
    assert [(note.string, note.fret) for note in capo.notes] == [(1, 2), (2, 5), (6, 7)]
    assert retuned(capo, STANDARD, keeps=Keeps.FRETS).notes == score.notes, "and back"
    with pytest.raises(PlaceError, match="1 of the 3 notes"):
        retuned(score, Tuning(STANDARD.open_midi[:5]), keeps=Keeps.FRETS)
    with pytest.raises(PlaceError, match="Keep the pitches"):
        retuned(Score((Note(0, 1, 1, 20),), STANDARD), Tuning(capo=7), keeps=Keeps.FRETS)


def test_variants_follow_another_tuning() -> None:
    score = Score((Note(0, 1, 2, 5, id="a"),), STANDARD, phrases=(Phrase(0, 2, "One", id="p"),))
    easier = replace(score, variants=(Variant("p", "easier", (Note(0, 1, 2, 3, id="b"),), id="v"),))
    down = retuned(easier, TUNINGS["half-down"])
    assert down.variants[0].notes[0].fret + down.tuning.open_midi[down.variants[0].notes[0].string - 1] == 62
