"""Hearing a recording again, or the rest of it: the notes are replaced, and nothing that a person made is lost."""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable
from dataclasses import replace

from notcher.core.hearing.pairing import closest_pairs
from notcher.core.hearing.pitch_paths import Hint
from notcher.core.neck import retuned
from notcher.core.score import EDGE_S, Doubt, DoubtKind, Note, Phrase, Score
from notcher.core.score.edits import claim_of

SAME_ONSET_S = 0.06
"""Two readings of one recording put a note's onset no further apart: the ear's own spread is 5 to 20 ms."""
SAME_SEMITONES = 0.5  # nearer than any other fret
SAID = ("remark", "garnish", "slip", "division", "starts_at", "source")
"""What only a person says of a note; it stays with it."""


def heard_again(
    before: Score, draft: Score, *, within: Callable[[Note], bool] = lambda _note: True, by_hand: Iterable[str] = ()
) -> Score:
    """Return a score with its notes as they are heard now; chords, phrases, beats, wishes and remarks stay.

    A note that is still the same keeps its id and what a person said of it, and its place when that is locked. A note
    that a person made and that is not heard stays, in doubt; where another pitch is heard in its place, the person's
    word stands. What is not the solo's is not written again. within: which notes are replaced. by_hand: ids of
    notes that a person made or changed. Raises: NotcherError when what is heard does not fit on the neck.
    """
    if draft.tuning.open_midi != before.tuning.open_midi or draft.tuning.capo != before.tuning.capo:
        draft = retuned(draft, before.tuning)
    by_hand = set(by_hand)
    new = [note for note in draft.notes if within(note)]
    old = [note for note in before.notes if within(note)]
    partners = _partners(before, old, draft, new)
    paired = set(partners.values())
    free = [note for index, note in enumerate(new) if index not in paired and not _excluded(before, draft, note)]
    result = [note for note in before.notes if not within(note)]
    for index, note in enumerate(old):
        if index in partners:
            result.append(note if note.id in by_hand else _carried(note, new[partners[index]]))
        elif note.id in by_hand or _persons(note):
            stays, free = _kept_by_hand(note, free)
            result.append(stays)
    ids = {note.id for note in result}
    result += [replace(note, id="") if note.id in ids else note for note in free]
    return replace(
        before,
        tuning=replace(before.tuning, offset_cents=draft.tuning.offset_cents),
        phrases=before.phrases or draft.phrases,
        beat_map=before.beat_map if before.beat_map.known else draft.beat_map,
    ).with_notes(result)


def _kept_by_hand(note: Note, free: list[Note]) -> tuple[Note, list[Note]]:
    """A person's note as it stays, in doubt where nothing is heard in its place, and what is heard elsewhere."""
    elsewhere = [other for other in free if abs(other.onset_s - note.onset_s) > SAME_ONSET_S]
    if len(elsewhere) < len(free):
        return note, elsewhere
    return replace(note, doubt=Doubt(DoubtKind.NOT_HEARD_AGAIN)), free


def steered(before: Score, redrafted: Score, hint: Hint) -> Score:
    """Return the score with the notes under a hint as they are heard now; all others stay."""
    return heard_again(
        before, redrafted, within=lambda note: note.offset_s > hint.start_s and note.onset_s < hint.end_s
    )


def rest_heard(begun: Score, now: Score, whole: Score) -> Score:
    """Return the draft of a whole recording, with all that was changed since its first phrases were opened.

    begun: the first phrases as they were heard. now: as the instructor has left them meanwhile. Notes that were taken
    away stay away; what nobody touched is as the whole draft has it. Raises: NotcherError, see `heard_again`.
    """
    as_begun = {note.id: note for note in begun.notes}
    remaining_ids = {note.id for note in now.notes}
    edited_ids = [note.id for note in now.notes if as_begun.get(note.id) != note]
    removed = [note for note in begun.notes if note.id not in remaining_ids]
    away = set(_partners(begun, removed, whole, list(whole.notes)).values())
    score = replace(now, tuning=whole.tuning) if now.tuning == begun.tuning and not edited_ids else now
    still_wanted = whole.without(whole.notes[at].id for at in away)
    phrases = whole.phrases
    if now.phrases != begun.phrases:
        last_s = max((phrase.end_s for phrase in now.phrases), default=0.0)
        phrases = (*now.phrases, *(phrase for phrase in whole.phrases if phrase.start_s >= last_s - EDGE_S))
    result = heard_again(score, still_wanted, by_hand=edited_ids)
    return replace(
        result,
        phrases=_with_known_ids(phrases, now.phrases),
        beat_map=whole.beat_map if now.beat_map == begun.beat_map else now.beat_map,
    )


def _carried(old: Note, new: Note) -> Note:
    """A note as it is heard now, with all that a person said of it."""
    if claim_of(old) == claim_of(new):
        return old
    carried = {name: getattr(old, name) for name in SAID}
    if old.locked:
        carried |= {"string": old.string, "fret": old.fret, "finger": old.finger, "locked": True}
    return replace(new, **carried, id=old.id, checked=old.checked)


def _persons(note: Note) -> bool:
    """Whether a person has said something of a note, or put it where it is."""
    return bool(note.locked or note.checked or note.remark or note.slip or note.garnish or note.division) or (
        note.starts_at is not None
    )


def _excluded(before: Score, redrafted: Score, note: Note) -> bool:
    """Whether a person has said that this is not the solo's."""
    return any(
        abs(aside.onset_s - note.onset_s) <= SAME_ONSET_S
        and abs(aside.midi - redrafted.fretted_midi(note)) <= SAME_SEMITONES
        for aside in before.excluded
    )


def _partners(before: Score, old: list[Note], redrafted: Score, new: list[Note]) -> dict[int, int]:
    """Which old note is which new one: the same fretted pitch at the same time, the nearest first; by index."""
    return closest_pairs(
        (abs(note.onset_s - other.onset_s), first, second)
        for first, note in enumerate(old)
        for second, other in _near(new, note.onset_s)
        if abs(before.fretted_midi(note) - redrafted.fretted_midi(other)) <= SAME_SEMITONES
    )


def _near(notes: list[Note], onset_s: float) -> list[tuple[int, Note]]:
    """The notes, in time order, that begin about a time, each with its index."""
    first = bisect_left(notes, onset_s - SAME_ONSET_S, key=lambda note: note.onset_s)
    last = bisect_right(notes, onset_s + SAME_ONSET_S, key=lambda note: note.onset_s)
    return list(enumerate(notes[first:last], first))


def _with_known_ids(phrases: Iterable[Phrase], earlier: Iterable[Phrase]) -> tuple[Phrase, ...]:
    """Phrases with the ids and wishes of those they are for the greater part the same as."""
    result, free = [], list(earlier)
    for phrase in phrases:
        same = next((other for other in free if _shared_s(phrase, other) > 0.5 * (phrase.end_s - phrase.start_s)), None)
        if same is not None:
            free.remove(same)
            phrase = replace(phrase, id=same.id, near_fret=same.near_fret, key=same.key)
        result.append(phrase)
    ids = {phrase.id for phrase in result}
    return tuple(result) if len(ids) == len(result) else tuple(replace(phrase, id="") for phrase in result)


def _shared_s(first: Phrase, second: Phrase) -> float:
    return min(first.end_s, second.end_s) - max(first.start_s, second.start_s)
