"""Names that a note has from its neighbours: trills, slides in and away, two strings at once."""

from itertools import pairwise

from notcher.core.score.note import Note
from notcher.core.score.score import Score
from notcher.core.score.together import held_together, struck_together
from notcher.core.score.vocabulary import LEGATO_ATTACKS, Attack, End, Tone

STRUCK_TOGETHER_S = 0.04  # as a pick crosses six strings
TRILL_LONGEST_S = 0.16  # six notes a second
STACCATO_SHARE, STACCATO_LONGEST_GAP_S = 0.65, 1.0
"""A dot takes about half of a note's time, a rest takes a whole value: between the two (common practice, no source)."""
AS_LONG = 1.3  # times: played as equal
UNISON_SEMITONES = (0.5, 4.5)  # from a half step to a wide bend

_ATTACK_NAMES = {Attack.HAMMER: "hammer", Attack.PULL: "pull", Attack.TAP: "tap", Attack.SWELL: "swell"}
_TONE_NAMES = {
    Tone.NATURAL_HARMONIC: "natural_harmonic",
    Tone.SQUEAL_HARMONIC: "squeal_harmonic",
    Tone.TAPPED_HARMONIC: "tapped_harmonic",
    Tone.PALM_MUTE: "palm_mute",
    Tone.DEAD: "dead",
}


def techniques(score: Score, index: int) -> tuple[str, ...]:
    """Return every name of the vocabulary that fits a note, read off its values and its neighbours'."""
    note = score.notes[index]
    names = list(note.reading.names)
    if note.attack in _ATTACK_NAMES:
        names.append(_ATTACK_NAMES[note.attack])
    if note.slid_in:
        names.append("slide_in")
    elif note.attack is Attack.SLIDE:
        names.append("slide" if _previous_on_string(score, index) else "slide_in")
    if note.tone in _TONE_NAMES:
        names.append(_TONE_NAMES[note.tone])
    if note.palm_muted and note.tone is not Tone.PALM_MUTE:
        names.append("palm_mute")
    if note.end is End.CHOKED:
        names.append("choked")
    if note.end is End.SLIDES_AWAY:
        names.append("slide_out")
    if _cut_short(score, index):
        names.append("staccato")
    if note.raked:
        names.append("rake")
    if _in_trill(score, index):
        names.append("trill")
    return (*names, *_together_names(score, index))


def _previous_on_string(score: Score, index: int) -> Note | None:
    """The note that still sounds on this string when the note begins."""
    note = score.notes[index]
    for other in reversed(score.notes[max(0, index - 12) : index]):
        if other.string == note.string:
            return other if other.leads_to(note) else None
    return None


def _cut_short(score: Score, index: int) -> bool:
    """Whether a note is damped early and no rest follows it: its neighbours are as short, or no quicker than it."""
    if not _damped_early(score, index):
        return False
    beside = [at for at in (_next_onset(score, index, -1), _next_onset(score, index, 1)) if at is not None]
    if any(_damped_early(score, at) for at in beside):
        return True
    gap_s = _gap_s(score, index)
    return all(_gap_s(score, at) * AS_LONG >= gap_s for at in beside if _gap_s(score, at) > 0)


def _damped_early(score: Score, index: int) -> bool:
    note, gap_s = score.notes[index], _gap_s(score, index)
    plain = note.end is End.STOPS and note.tone is Tone.NORMAL
    return plain and note.duration_s < STACCATO_SHARE * gap_s and gap_s <= STACCATO_LONGEST_GAP_S


def _gap_s(score: Score, index: int) -> float:
    """Seconds from a note's onset to the next that is not struck along with it; 0 for the last."""
    following = _next_onset(score, index, 1)
    return 0.0 if following is None else score.notes[following].onset_s - score.notes[index].onset_s


def _next_onset(score: Score, index: int, step: int) -> int | None:
    """The nearest note before or after that is not struck together with this one."""
    at, onset_s = index + step, score.notes[index].onset_s
    while 0 <= at < len(score.notes):
        if not struck_together(onset_s, score.notes[at].onset_s):
            return at
        at += step
    return None


def _in_trill(score: Score, index: int) -> bool:
    """At least four quick legato notes in a row that alternate between two frets of one string."""
    note = score.notes[index]
    run = [other for other in score.notes[max(0, index - 4) : index + 5] if other.string == note.string]
    for first in range(len(run) - 3):
        four = run[first : first + 4]
        alternates = four[0].fret == four[2].fret != four[1].fret == four[3].fret
        quick = all(b.onset_s - a.onset_s <= TRILL_LONGEST_S for a, b in pairwise(four))
        if alternates and quick and note in four and all(other.attack in LEGATO_ATTACKS for other in four[1:]):
            return True
    return False


def _together_names(score: Score, index: int) -> tuple[str, ...]:
    """What strings that sound together are called; two of which one is bent are called after the bend alone."""
    note = score.notes[index]
    names: set[str] = set()
    for other in _on_other_strings(score, index):
        overlap_s = note.overlap_s(other)
        if held_together(overlap_s):
            names |= _bent_against(score, note, other) | _bent_against(score, other, note)
    struck = len(struck_with(score, index))
    if struck > 1:
        names.add("chord")
    elif struck and not names:
        names.add("double_stop")
    return tuple(sorted(names))


def struck_with(score: Score, index: int) -> tuple[Note, ...]:
    """Return the notes on other strings that are struck together with a note, as one stroke over several strings."""
    note = score.notes[index]
    return tuple(
        other
        for other in _on_other_strings(score, index)
        if struck_together(note.onset_s, other.onset_s) and note.overlap_s(other) > STRUCK_TOGETHER_S
    )


def sounding_with(score: Score, index: int) -> tuple[Note, ...]:
    """Return the notes on other strings that are heard together with a note."""
    note = score.notes[index]
    return tuple(other for other in _on_other_strings(score, index) if held_together(note.overlap_s(other)))


def _on_other_strings(score: Score, index: int) -> list[Note]:
    """Notes near in time on other strings; with eight strings no more than these can sound along."""
    string = score.notes[index].string
    return [other for other in score.notes[max(0, index - 8) : index + 9] if other.string != string]


def _bent_against(score: Score, bent: Note, steady: Note) -> set[str]:
    size = bent.reading.bend_semitones
    if size < UNISON_SEMITONES[0] or steady.reading.bend_semitones != 0:
        return set()
    gap = score.fretted_midi(steady) - score.fretted_midi(bent)
    if abs(gap - size) < 0.5 and gap <= UNISON_SEMITONES[1]:
        return {"unison_bend"}
    return {"oblique_bend"} if gap > 0 else set()
