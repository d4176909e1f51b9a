"""What is said of selected notes: each edit changes what it names, of those notes, and nothing else.

The sizes are the trade's own (common practice, no source): a half step is a bend of one semitone, a whole step of two.
"""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from notcher.core.score import (
    HARMONIC_PARTIALS,
    Note,
    PickStroke,
    Score,
    Tone,
    Vibrato,
    bent_curve,
    in_their_midst,
    partials_near,
    techniques,
)
from notcher.core.score.doubt import BY_HAND
from notcher.core.score.note_edits import (
    accepted_notes,
    bent_by,
    bent_how,
    curled,
    shaken,
    toggled,
    with_doubt_switched,
    with_next_partial,
    with_next_stroke,
    with_strokes,
    with_tone,
)
from notcher.core.score.selection import NO_SELECTION, Selection

SCORE = Score((Note(0.0, 0.5, 3, 12), Note(0.5, 1.3, 2, 15), Note(1.3, 1.9, 2, 12), Note(1.9, 2.4, 3, 14)))
BOTH = Selection((SCORE.notes[1].id, SCORE.notes[2].id), SCORE.notes[1].id)
ONE = Selection((SCORE.notes[1].id,), SCORE.notes[1].id)
EDITS: tuple[Callable[[Score, Selection], Score], ...] = (
    lambda score, chosen: with_tone(score, chosen, Tone.DEAD),
    lambda score, chosen: toggled(score, chosen, "slip"),
    with_next_stroke,
    with_doubt_switched,
    lambda score, chosen: bent_by(score, chosen, 1),
    bent_how,
    curled,
    shaken,
)


@pytest.mark.parametrize("edit", EDITS)
def test_only_the_selected_notes_change(edit: Callable[[Score, Selection], Score]) -> None:
    after = edit(SCORE, BOTH)
    changed = [new.id for new, old in zip(after.notes, SCORE.notes, strict=True) if new != old]
    assert changed == list(BOTH.ids) or (edit is bent_how and not changed)
    assert [note.id for note in after.notes] == [note.id for note in SCORE.notes]


@pytest.mark.parametrize("edit", EDITS)
def test_nothing_selected_is_said_in_words(edit: Callable[[Score, Selection], Score]) -> None:
    with pytest.raises(ValueError, match="no note is selected"):
        edit(SCORE, NO_SELECTION)


def test_what_is_said_twice_is_taken_back() -> None:
    for field in ("garnish", "slip", "raked", "slid_in"):
        once = toggled(SCORE, ONE, field)
        assert getattr(once.note(ONE.note_id), field) is True
        assert toggled(once, ONE, field) == SCORE
    muted = with_tone(SCORE, BOTH, Tone.PALM_MUTE)
    assert [note.tone for note in muted.notes] == [Tone.NORMAL, Tone.PALM_MUTE, Tone.PALM_MUTE, Tone.NORMAL]
    assert with_tone(muted, BOTH, Tone.PALM_MUTE) == SCORE
    assert with_tone(muted, BOTH, Tone.DEAD).note(ONE.note_id).tone is Tone.DEAD
    doubted = with_doubt_switched(SCORE, ONE)
    assert doubted.note(ONE.note_id).doubt == BY_HAND
    assert with_doubt_switched(doubted, ONE) == SCORE
    assert shaken(shaken(SCORE, ONE), ONE) == SCORE
    assert curled(curled(SCORE, ONE), ONE) == SCORE


def test_the_first_note_decides_for_all() -> None:
    mixed = SCORE.with_note(BOTH.ids[1], slip=True)
    assert [note.slip for note in BOTH.notes(toggled(mixed, BOTH, "slip"))] == [True, True]


def test_strokes_go_round() -> None:
    scores = [SCORE]
    for _ in range(3):
        scores.append(with_next_stroke(scores[-1], ONE))
    strokes = [score.note(ONE.note_id).stroke for score in scores]
    assert strokes == [None, PickStroke.DOWN, PickStroke.UP, None]


def test_strokes_of_all_notes_are_one_for_each() -> None:
    wanted = (PickStroke.DOWN, PickStroke.UP, None, PickStroke.DOWN)
    assert tuple(note.stroke for note in with_strokes(SCORE, wanted).notes) == wanted
    with pytest.raises(ValueError, match="argument 2 is shorter"):
        with_strokes(SCORE, wanted[:2])


def test_accepted_notes_are_out_of_doubt_and_stay_where_they_lie() -> None:
    doubted = with_doubt_switched(SCORE, BOTH)
    after = accepted_notes(doubted, ONE)
    assert (after.note(BOTH.ids[0]).doubt, after.note(BOTH.ids[1]).doubt) == (None, BY_HAND)
    assert (after.note(BOTH.ids[0]).string, after.note(BOTH.ids[0]).fret) == (2, 15)


@pytest.mark.parametrize(
    ("size", "direction", "wanted"),
    [
        (0.0, 1, 2.0),
        (0.0, -1, 0.0),
        (2.0, 1, 2.5),
        (2.5, 1, 3.0),
        (2.0, -1, 1.5),
        (1.5, -1, 1.0),
        (1.0, -1, 0.5),
        (0.5, -1, 0.0),
        (4.0, 1, 4.0),
    ],
)
def test_a_bend_goes_by_the_sizes_that_hands_have(size: float, direction: int, wanted: float) -> None:
    """A quarter, ½, ¾, 1, 1¼, 1½ and 2 steps; an unbent note is bent by a whole step first."""
    score = SCORE.with_note(ONE.note_id, curve=bent_curve(size, 0.8)) if size else SCORE
    note = bent_by(score, ONE, direction).note(ONE.note_id)
    assert note.reading.bend_semitones == pytest.approx(wanted)
    assert float(note.deviation_at(0.75)) == pytest.approx(wanted)


def test_how_it_is_bent_is_switched_and_the_size_kept() -> None:
    score = SCORE.with_note(ONE.note_id, curve=bent_curve(1.0, 0.8))
    before = bent_how(score, ONE, prebent=True)
    assert "prebend" in before.note(ONE.note_id).reading.names
    assert float(before.note(ONE.note_id).deviation_at(0.0)) == pytest.approx(1.0)
    assert "prebend" not in bent_how(before, ONE, prebent=True).note(ONE.note_id).reading.names
    let_down = bent_how(score, ONE, released=True).note(ONE.note_id)
    assert "release" in let_down.reading.names
    assert let_down.reading.bend_semitones == pytest.approx(1.0)
    assert float(let_down.deviation_at(0.8)) == pytest.approx(0.0, abs=0.05)
    larger = bent_by(before, ONE, 1).note(ONE.note_id)
    assert "prebend" in larger.reading.names, "a pre-bend stays one when its size changes"
    unbent = bent_how(SCORE, ONE, prebent=True).note(ONE.note_id)
    assert unbent.reading.bend_semitones == pytest.approx(2.0), "a pre-bend of nothing is one of a whole step"


def test_a_curl_is_a_quarter_tone_at_the_end() -> None:
    note = curled(SCORE, ONE).note(ONE.note_id)
    assert note.reading.names == ("curl",)
    times_s = np.array([0.0, 0.3, 0.479, 0.76, 0.79])
    assert note.deviation_at(times_s) == pytest.approx([0.0, 0.0, 0.0, 0.5, 0.5], abs=0.01)


def test_a_vibrato_begins_where_the_bend_has_come_to_rest() -> None:
    plain = shaken(SCORE, ONE).note(ONE.note_id).vibrato
    assert plain == Vibrato(0.15, 5.5, 25.0)
    bent = SCORE.with_note(ONE.note_id, curve=replace(bent_curve(2.0, 0.8), points=((0.0, 0.0), (0.3, 2.0))))
    wave = shaken(bent, ONE).note(ONE.note_id).vibrato
    assert wave is not None
    assert wave.from_s == 0.3
    late = SCORE.with_note(ONE.note_id, curve=replace(bent_curve(2.0, 0.8), points=((0.0, 0.0), (0.7, 2.0))))
    wave = shaken(late, ONE).note(ONE.note_id).vibrato
    assert wave is not None
    assert wave.from_s == pytest.approx(0.4), "half of the note is shaken at least"


# --- harmonics ---
# common practice, no source: touched at 12, 7, 5, 4, 3.2, 2.7, 2.3 and 2 a string sounds partials 2 to 9
@pytest.mark.parametrize(
    ("fret", "partials"),
    [(12, (2,)), (7, (3,)), (5, (4,)), (4, (5, 9)), (3, (6, 7)), (2, (9, 8)), (19, (3,)), (24, (4,))],
)
def test_partials_lie_where_players_touch_them(fret: int, partials: tuple[int, ...]) -> None:
    assert partials_near(fret) == partials
    assert HARMONIC_PARTIALS[fret] == partials[0]


# what is heard: open G3 is MIDI 55; the third partial is an octave and a fifth above it, D5 = 74 (MIDI 1.0)
@pytest.mark.parametrize(
    ("fret", "presses", "midi"), [(7, 0, 74.02), (12, 0, 67.0), (2, 0, 93.04), (2, 1, 91.0), (3, 1, 88.69)]
)
def test_a_natural_harmonic_sounds_its_partial(fret: int, presses: int, midi: float) -> None:
    score = Score((Note(0, 1, 3, fret, tone=Tone.NATURAL_HARMONIC, id="a"),))
    for _ in range(presses):
        score = with_next_partial(score, Selection(("a",), "a"))
    assert score.sounding_midi(score.notes[0]) == pytest.approx(midi, abs=0.01)


def test_the_next_partial_goes_round_and_is_refused_where_there_is_one() -> None:
    chosen = Selection(("a",), "a")
    score = Score((Note(0, 1, 3, 2, tone=Tone.NATURAL_HARMONIC, id="a"),))
    assert with_next_partial(with_next_partial(score, chosen), chosen) == score
    with pytest.raises(ValueError, match="only one harmonic"):
        with_next_partial(score.with_note("a", fret=12), chosen)
    with pytest.raises(ValueError, match="no natural harmonic"):
        with_next_partial(score.with_note("a", tone=Tone.NORMAL), chosen)


def test_a_harmonic_may_be_palm_muted_besides() -> None:
    chosen = Selection(("a",), "a")
    plain = Score((Note(0, 1, 3, 12, id="a"),))
    harmonic = with_tone(plain, chosen, Tone.NATURAL_HARMONIC)
    both = with_tone(harmonic, chosen, Tone.PALM_MUTE)
    assert (both.notes[0].tone, both.notes[0].palm_muted) == (Tone.NATURAL_HARMONIC, True)
    assert with_tone(with_tone(plain, chosen, Tone.PALM_MUTE), chosen, Tone.NATURAL_HARMONIC) == both, "in either order"
    assert techniques(both, 0) == ("natural_harmonic", "palm_mute")
    assert with_tone(both, chosen, Tone.PALM_MUTE) == harmonic
    assert with_tone(both, chosen, Tone.NATURAL_HARMONIC).notes[0].tone is Tone.PALM_MUTE
    assert not with_tone(both, chosen, Tone.DEAD).notes[0].muted
    assert techniques(with_tone(plain, chosen, Tone.TAPPED_HARMONIC), 0) == ("tapped_harmonic",)


@pytest.mark.parametrize("backwards", [False, True])
def test_notes_changed_in_their_midst_are_changed_as_one_after_the_other(backwards: bool) -> None:
    """Of two hundred notes each third goes a fret up, one of them over the neck's end: the same, made the long way."""
    notes = tuple(Note(0.1 * at, 0.1 * at + 0.09, 1 + at % 6, at % 20, id=f"n{at}") for at in range(200))
    score, ids = Score(notes), tuple(f"n{at}" for at in range(0, 200, 3))
    ids = ids[::-1] if backwards else ids

    def up(of: Score, note_id: str) -> Score:
        return of.with_note(note_id, fret=of.note(note_id).fret + 1)

    slow = score
    for note_id in ids:
        slow = up(slow, note_id)
    assert in_their_midst(score, ids, up) == slow
    assert in_their_midst(score, (), up) == score
