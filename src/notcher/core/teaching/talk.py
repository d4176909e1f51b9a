"""What an instructor says before the rounds of a step: what is played, what to watch, where the join lies."""

from itertools import pairwise

from notcher.core.score import LEGATO_ATTACKS, Attack, Note, Score, Tone
from notcher.core.teaching.plan import EXTREME_RISE, Plan, Step, StepKind, Why, tension_rise
from notcher.core.words import ATTACKS, TONES, USUAL, Naming, bend_size, figure, many, place_name

MOST_WATCHED = 3  # things: more is not kept in mind (common practice, no source)
FAR_FRETS = 4  # beyond what one hand position reaches


def talk_words(step: Step, plan: Plan, score: Score, naming: Naming = USUAL) -> list[str]:
    """Return what to say before a step, a sentence each."""
    inside = _notes(step, plan, score)
    if not inside:
        return []
    first, notes = score.notes[inside[0]], [score.notes[at] for at in inside]
    begins = f"It begins on {place_name(score.tuning, first.string, first.fret, naming)}."
    pace = f"{figure(100 * step.pace, naming=naming)} %"
    if step.why is Why.WHOLE:
        return ["Listen, and play nothing: where does it breathe, where is its highest moment?"]
    if step.why is Why.HEAR_IT:
        return [f"Listen: {many(len(notes), 'note')}. {begins}"]
    if step.why is Why.WARM_UP:
        return [f"Loose hands at {pace}: every note clean, nothing forced."]
    if step.why is Why.RUNG_UP:
        return [f"The same at {pace}. If it falls apart, go back a step."]
    if step.kind is StepKind.PERFORM:
        return ["Play it through in time, whatever happens: no stopping."]
    if step.kind is StepKind.JOIN:
        return _joins(step, plan, score, naming)
    if step.why in (Why.REVIEW, Why.GOES_ON, Why.AGAIN):
        return [f"What was hard here last time? At {pace}.", *_watched(notes, score, naming)]
    return [begins, *_watched(notes, score, naming), *_tension(step, score, naming)]


def _notes(step: Step, plan: Plan, score: Score) -> list[int]:
    if step.piece is not None:
        return list(range(step.piece[0], step.piece[1] + 1))
    by_id = {phrase.id: phrase for phrase in plan.phrases}
    return [at for name in step.phrases if name in by_id for at in score.notes_of(by_id[name])]


def _joins(step: Step, plan: Plan, score: Score, naming: Naming) -> list[str]:
    """Where one phrase goes over into the next; of many the last, which is the new one."""
    by_id = {phrase.id: phrase for phrase in plan.phrases}
    before, after = (score.notes_of(by_id[name]) for name in step.phrases[-2:])
    last, first = score.notes[before[-1]], score.notes[after[0]]
    here, there = (place_name(score.tuning, note.string, note.fret, naming) for note in (last, first))
    return [f"Watch the join: from {here} to {there}."]


def _watched(notes: list[Note], score: Score, naming: Naming) -> list[str]:
    """What to watch: the widest bend, the farthest shift, what is struck otherwise than the rest."""
    texts: list[str] = []
    bent = max(notes, key=lambda note: note.reading.bend_semitones)
    if bent.bent and bent.reading.bend_semitones > 0:
        place = place_name(score.tuning, bent.string, bent.fret, naming)
        target = f"fret {bent.fret + round(bent.reading.bend_semitones)}"
        texts.append(f"The bend of {bend_size(bent.reading.bend_semitones, naming)} on {place} sounds like {target}.")
    shifts = [(abs(b.fret - a.fret), a, b) for a, b in pairwise(notes) if a.fret and b.fret]
    far = max(shifts, key=lambda shift: shift[0], default=None)
    if far is not None and far[0] > FAR_FRETS:
        texts.append(f"The hand moves from fret {far[1].fret} to fret {far[2].fret}.")
    joined = [note for note in notes if note.attack in LEGATO_ATTACKS]
    if joined and len(joined) < len(notes):
        kinds = dict.fromkeys(ATTACKS[note.attack] for note in joined if note.attack is not Attack.PICK)
        texts.append(f"Not picked: {many(len(joined), 'note')} ({', '.join(kinds)}).")
    tones = dict.fromkeys(TONES[note.tone] for note in notes if note.tone is not Tone.NORMAL)
    if tones:
        texts.append(f"Listen for the {', the '.join(tones)}.")
    return texts[:MOST_WATCHED]


def _tension(step: Step, score: Score, naming: Naming) -> list[str]:
    rise = tension_rise(score, set(step.phrases))
    return [] if rise < EXTREME_RISE else ["Keep your face away from the wide bend: old strings break."]
