"""What the instructor says of rhythm, key and form: counts, divisions, swing, meters, phrases, sections."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.errors import NotcherError
from notcher.core.hearing import CHROMA_HOP_S, proposed_chords
from notcher.core.patterns import boundaries, phrases_of
from notcher.core.score import (
    EDGE_S,
    EMPTY_SCORE,
    Chord,
    Key,
    Meter,
    Phrase,
    Score,
    Section,
    Swing,
    key_from_text,
    meter_from_text,
)
from notcher.core.score.edits import with_count, with_division, with_meter
from notcher.core.score.form import (
    SHORTEST_PHRASE_S,
    free_name,
    joined_phrases,
    split_phrase,
    with_border,
    with_phrase,
    with_phrases,
    with_section,
    without_phrase,
    without_section,
)
from notcher.core.score.rhythm import counted, measured_swing
from notcher.core.words import boundary_words, count_from_text, count_word, many, seconds
from notcher.ui.state.session import Session

DIVISIONS = {
    "halves": "halves",
    "thirds": "triplets",
    "fourths": "fourths",
    "sixths": "sixths",
    "fifths": "fives",
    "": "as they are read",
}
"""Names of grids, and what the edit is called."""
NO_PHRASE = "No phrase lies near this note: make one of the selected notes first."
USUAL_SWING = 2 / 3  # where the playing does not tell (common practice, no source)
LEAST_SWING = 0.55  # who says that it swings hears more than nothing
NO_HARMONY = "No band was heard beside the guitar, so there are no chords to propose."
NO_BEATS = "There are no beats yet: tap them on the Hear bench first."
ONCE = " once"


class FormEdits(QObject):
    """Says of the selected notes, their phrase and their bar what nobody can hear for sure; each is kept and obeyed."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._dragged = EMPTY_SCORE  # as it was when a drag began

    # --- rhythm ---
    def count_now(self) -> str | None:
        """How the selected note is counted now; None, with a reason said, where it cannot be."""
        if self._session.note is None or not self._session.score.beat_map.known:
            self.refused.emit(NO_BEATS)
            return None
        time, _ = counted(self._session.score, self._session.selected)
        return str(time.beat) if time.part == 0 else f"{time.beat} {count_word(time)}"

    def count_as(self, text: str) -> None:
        """Write the selected note on a count; nothing lets it be read again."""
        index = self._session.selected
        if not text.strip():
            self._edit("Read the count again", lambda score: score.with_note(index, starts_at=None))
            return

        def said(score: Score) -> Score:
            beat, part, grid = count_from_text(text, self._meter_at(score, index))
            changed = with_count(score, index, beat, part)
            return with_division(changed, [index], grid) if part else changed

        self._edit(f"Starts on {text.strip()}", said)

    def divide(self, division: str) -> None:
        """Say into what the beats of the selected notes are divided."""
        chosen = self._session.selection
        self._edit(f"Count {DIVISIONS[division]}", lambda score: with_division(score, chosen, division))

    def swing(self) -> None:
        """Call the selected notes' bars swung, or straight where they are."""
        chosen, beat_map = self._session.selection, self._session.score.beat_map
        if not chosen or not beat_map.known:
            self.refused.emit(NO_BEATS)
            return
        notes = self._session.score.notes
        ends = beat_map.quarter_at(np.array([notes[chosen[0]].onset_s, notes[chosen[-1]].onset_s]))
        first, last = (beat_map.bar_at(float(at)) for at in ends)
        start, end = beat_map.bar_start(first), beat_map.bar_start(last + 1)
        swung = beat_map.swing_at(start) > 0.5
        kept = [part for old in beat_map.swings for part in _outside(old, start, end)]
        share = measured_swing(self._session.score, start, end) or USUAL_SWING
        told = [] if swung else [Swing(start, end, max(share, LEAST_SWING))]
        swings = sorted([*kept, *told], key=lambda part: part.start)
        name = "Straight" if swung else "Swing"
        self._edit(name, lambda score: replace(score, beat_map=replace(beat_map, swings=tuple(swings))))

    @property
    def meter_here(self) -> tuple[int, str] | None:
        """The bar of the selected note and its meter; None, with a reason said, without beats."""
        note, beat_map = self._session.note, self._session.score.beat_map
        if note is None or not beat_map.known:
            self.refused.emit(NO_BEATS)
            return None
        bar = max(1, beat_map.bar_at(beat_map.quarter(note.onset_s + 1e-3)))
        return bar, str(beat_map.bar_meter(bar))

    def meter(self, text: str) -> None:
        """Take a meter from the bar of the selected note on; "2/4 once" for this bar alone."""
        here = self.meter_here
        if here is None:
            return
        once = text.strip().endswith(ONCE)
        said, bar = text.strip().removesuffix(ONCE), here[0]
        keeps_felt = self._session.document.clip is not None
        self._edit(
            f"Meter {text.strip()} from bar {bar}",
            lambda score: with_meter(
                score, bar, meter_from_text(said), until=bar + 1 if once else None, keeps_felt=keeps_felt
            ),
        )

    @staticmethod
    def _meter_at(score: Score, index: int) -> Meter:
        at = score.beat_map.quarter(score.notes[index].onset_s)
        return score.beat_map.meter_at(at)

    # --- key ---
    def key(self, text: str) -> None:
        """Take the key of the solo; nothing for none."""
        self._edit(f"Key {text}" if text.strip() else "No key", lambda score: replace(score, key=_key(text)))

    def phrase_key(self, text: str) -> None:
        """Take the key of the phrase; nothing for the solo's."""
        phrase = self._session.phrase
        if phrase is not None:
            self._edit(
                f"Key of the phrase: {text or 'the solo’s'}",
                lambda score: with_phrase(score, replace(phrase, key=_key(text))),
            )

    # --- phrases and sections ---
    def phrase_of_selection(self, name: str) -> None:
        """Make the selected notes a phrase of their own; phrases around it give way."""
        chosen, notes = self._session.selection, self._session.score.notes
        if chosen:
            end_s = max(notes[index].offset_s for index in chosen)
            after = chosen[-1] + 1
            if after < len(notes):
                end_s = min(end_s, notes[after].onset_s)
            phrase = Phrase(notes[chosen[0]].onset_s, end_s, name.strip())
            self._edit(f"Phrase {name.strip()}", lambda score: with_phrase(score, phrase))

    def rename_phrase(self, name: str) -> None:
        """Call the phrase of the selected note otherwise."""
        phrase = self._session.phrase
        if phrase is not None:
            self._edit(f"Phrase {name.strip()}", lambda score: with_phrase(score, replace(phrase, name=name.strip())))

    def begin_phrase(self) -> None:
        """Let a phrase begin with the selected note: the one it lies in, else the next."""
        note, phrases = self._session.note, self._session.score.phrases
        if note is None:
            return
        phrase = self._session.phrase or next((one for one in phrases if one.start_s > note.onset_s), None)
        self._border(phrase, start_s=note.onset_s)

    def end_phrase(self) -> None:
        """Let a phrase end with the selected note: the one it lies in, else the one before."""
        note, score = self._session.note, self._session.score
        if note is None:
            return
        before = [one for one in score.phrases if one.end_s <= note.onset_s + EDGE_S]
        phrase = self._session.phrase or (before[-1] if before else None)
        following = self._session.selected + 1
        room_s = score.notes[following].onset_s if following < len(score.notes) else note.offset_s
        self._border(phrase, end_s=max(min(note.offset_s, room_s), note.onset_s + SHORTEST_PHRASE_S))

    def _border(self, phrase: Phrase | None, *, start_s: float | None = None, end_s: float | None = None) -> None:
        if phrase is None:
            self.refused.emit(NO_PHRASE)
            return
        called = phrase.name or "the phrase"
        name = f"Begin {called} here" if end_s is None else f"End {called} here"
        self._edit(name, lambda score: with_border(score, phrase.id, start_s=start_s, end_s=end_s))

    def drag_border(self, phrase_id: str, begins: bool, time_s: float, continued: bool) -> None:
        """Move a border of a phrase to a time; a drag begins from the score as it was when it began."""
        if not continued:
            self._dragged = self._session.score
        before = self._dragged

        def moved(_now: Score) -> Score:
            return with_border(before, phrase_id, **{"start_s" if begins else "end_s": time_s})

        self._edit("Move the phrase’s border", moved, continues=continued, quiet=continued)

    def split_phrase(self) -> None:
        """Cut the phrase before the selected note."""
        phrase, note = self._session.phrase, self._session.note
        if phrase is not None and note is not None:
            name = free_name(self._session.score, phrase.name)
            at_s = note.onset_s
            self._edit(f"Split {phrase.name or 'phrase'}", lambda score: split_phrase(score, phrase.id, at_s, name))

    def join_phrases(self) -> None:
        """Make the phrase and the next one a single one."""
        phrase = self._session.phrase
        if phrase is not None:
            self._edit("Join phrases", lambda score: joined_phrases(score, phrase.id))

    def delete_phrase(self) -> None:
        """Take the phrase away; its notes stay."""
        phrase = self._session.phrase
        if phrase is not None:
            self._edit(f"Delete {phrase.name or 'phrase'}", lambda score: without_phrase(score, phrase.id))

    def propose_phrases(self) -> None:
        """Cut the whole solo into phrases anew, and say where."""
        found = boundaries(self._session.score)
        self._edit("Propose phrases", lambda score: with_phrases(score, phrases_of(score, found)))
        if found:
            why = boundary_words(found)
            self.refused.emit(f"{many(len(found), 'phrase')}{f': {why}' if why else ''}.")

    def propose_chords(self) -> None:
        """Write the chords that the recording's harmony speaks for, in place of those that stand there."""
        session, score = self._session, self._session.score
        harmony = session.analysis.harmony if session.analysis is not None else None
        if harmony is None or not score.beat_map.known:
            self.refused.emit(NO_HARMONY if harmony is None else NO_BEATS)
            return
        beats = score.beat_map.beats_between(0.0, len(harmony) * CHROMA_HOP_S)
        times_s, bars = np.array([beat.time_s for beat in beats]), np.array([beat.beat == 1 for beat in beats])
        found = proposed_chords(harmony, times_s, bars, shift=score.tuning.shift)
        chords = tuple(Chord(chord.start_s, chord.name, chord.certainty) for chord in found)
        self._edit("Propose chords", lambda score: replace(score, chords=chords))
        if found:
            least = min(found, key=lambda chord: chord.certainty)
            self.refused.emit(
                f"{many(len(found), 'chord')} proposed, the doubtful ones with their certainty. Least sure is "
                f"{least.name} at {seconds(least.start_s, 1)} ({least.certainty:.0%}): listen there first."
            )

    def delete_section(self) -> None:
        """Take the section here away; its phrases stay."""
        here = self.section_here
        if here is None:
            self.refused.emit("No section lies here.")
            return
        self._edit(f"Delete section {here.name}", lambda score: without_section(score, here.id))

    def section_of_selection(self, name: str) -> None:
        """Make a section that holds the phrases of the selected notes."""
        score, chosen = self._session.score, self._session.selection
        phrases = [score.phrase_at(score.notes[index].onset_s) for index in chosen]
        spans = [phrase for phrase in phrases if phrase is not None]
        if not spans:
            self.refused.emit("A section holds phrases, and no phrase lies here.")
            return
        here = self.section_here
        start_s, end_s = min(span.start_s for span in spans), max(span.end_s for span in spans)
        same = here is not None and abs(here.start_s - start_s) < 0.01 and abs(here.end_s - end_s) < 0.01
        section = Section(start_s, end_s, name.strip())
        if here is not None and same:
            section = replace(here, name=name.strip())
        self._edit(f"Section {name.strip()}", lambda score: with_section(score, section))

    @property
    def section_here(self) -> Section | None:
        """The section that the selected note lies in."""
        note = self._session.note
        held = [part for part in self._session.score.sections if note is not None and part.holds(note.onset_s)]
        return min(held, key=lambda part: part.end_s - part.start_s, default=None)

    @property
    def sections_before(self) -> tuple[Section, ...]:
        """The sections that the one here may repeat."""
        here = self.section_here
        if here is None:
            return ()
        return tuple(part for part in self._session.score.sections if part.end_s <= here.start_s + 0.01)

    def repeats(self, name: str) -> None:
        """Say which earlier section the one here is the same as; another name for none."""
        here = self.section_here
        if here is not None:
            same = next((part.id for part in self.sections_before if part.name == name), "")
            self._edit(
                "Repeats" if same else "Repeats nothing", lambda score: with_section(score, replace(here, repeats=same))
            )

    def _edit(
        self, name: str, change: Callable[[Score], Score], *, continues: bool = False, quiet: bool = False
    ) -> None:
        try:
            after = change(self._session.score)
        except (ValueError, NotcherError) as problem:
            if not quiet:
                self.refused.emit(f"Not changed: {str(problem).rstrip('.')}.")
            return
        self._session.edit(name, after, continues=continues)


def _key(text: str) -> Key | None:
    return key_from_text(text) if text.strip() else None


def _outside(swing: Swing, start: float, end: float) -> list[Swing]:
    """What of a swung stretch lies before and after another."""
    parts = []
    if swing.start < start:
        parts.append(replace(swing, end=min(swing.end, start)))
    if swing.end > end:
        parts.append(replace(swing, start=max(swing.start, end)))
    return parts
