"""What the keys on the Notch bench do: each correction is one named step of the undo history."""

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from notcher.core.errors import NotcherError
from notcher.core.hearing import Unclaimed, snapped_note, with_claim
from notcher.core.neck import (
    Place,
    appended,
    copied,
    inserted_at,
    later,
    moved,
    moved_with_phrase,
    neighbour_place,
    next_onset_s,
    pasted,
    place_on,
    place_score,
    strokes,
    typed_fret,
    under_copied,
)
from notcher.core.score import BY_HAND, FLAT, Attack, End, Note, PitchCurve, Score, Stroke, Tone, Vibrato, bent_curve
from notcher.core.score.edits import (
    accepted,
    joined_with_next,
    read_otherwise,
    snapped_onset,
    split,
    with_beat_at,
    with_chord,
    with_curve_point,
    with_end,
    with_new_curve_point,
    with_onset,
    without_curve_point,
)
from notcher.core.score.form import with_phrase_near
from notcher.core.theory import chord_tones
from notcher.core.words import ATTACKS, ENDS, TONES, USUAL, bend_name, gesture_from_text, many, string_name
from notcher.ui.state.session import Session

BEND_SIZES = (0.0, 0.5, 1.0, 2.0, 3.0, 4.0)
USUAL_BEND, USUAL_CURL, CURL_FROM = 2.0, 0.5, 0.6  # semitones, semitones, share of the note
USUAL_VIBRATO = (5.5, 25.0)
AT_S = 0.02  # the playhead stands on what begins so near
STROKE_ORDER = (None, Stroke.DOWN, Stroke.UP)


class NotchEdits(QObject):
    """Walks through the notes and changes them; says through `refused` what cannot be done."""

    refused = pyqtSignal(str)
    phrase_stepped = pyqtSignal()
    step_changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.school, self.stroke_school, self.nudge_s = "position", "alternate", 0.01
        self.naming = USUAL
        self._step: float | None = None  # until another is chosen: what a felt beat is strummed in
        self._copied: tuple[Note, ...] = ()
        self._next_s: float | None = None

    @property
    def score(self) -> Score:
        return self._session.score

    # --- walking ---
    def step(self, by: int, *, extend: bool = False) -> None:
        """Select the next or previous note; with `extend` keep the selection and let it grow to there."""
        self._session.select(max(0, self._session.selected + by), extend=extend)

    def go_to_end(self, way: int) -> None:
        """Select the first (-1) or the last note (1)."""
        self._session.select(0 if way < 0 else len(self.score.notes) - 1)

    def step_phrase(self, by: int) -> None:
        """Select the first note of the next or previous phrase."""
        if self._session.note is None:
            return
        starts = [self.score.notes_of(phrase).start for phrase in self.score.phrases]
        later = [start for start in starts if start > self._session.selected]
        earlier = [start for start in starts if start < self._session.selected]
        if by > 0 and later:
            self._session.select(min(later))
        elif by < 0 and earlier:
            self._session.select(max(earlier))
        self.phrase_stepped.emit()

    def step_beat(self, by: int) -> None:
        """Select the first note from the next or the previous beat on."""
        note, beat_map = self._session.note, self.score.beat_map
        if note is None or not beat_map.known:
            self._say("There are no beats yet: tap them on the Hear bench first.")
            return
        beat = beat_map.felt(beat_map.quarter(note.onset_s))
        at = np.floor(beat + 0.05) + 1 if by > 0 else np.ceil(beat - 0.05) - 1
        at_s = beat_map.time(beat_map.quarter_of(at))
        self._session.select(self.score.first_after(at_s - 0.04))

    def step_string(self, direction: int) -> None:
        """Select the note nearest in time on a higher (-1) or lower (+1) string."""
        note = self._session.note
        if note is None:
            return
        others = [i for i, other in enumerate(self.score.notes) if (other.string - note.string) * direction > 0]
        if others:
            near = min(others, key=lambda i: (abs(self.score.notes[i].onset_s - note.onset_s), i))
            self._session.select(near)

    def step_doubt(self, by: int = 1) -> None:
        """Select the next or previous note that is doubtful; round again after the last."""
        here = self._session.selected
        doubtful = [index for index, note in enumerate(self.score.notes) if note.doubt]
        if not doubtful:
            self._say("No note is in doubt.")
        elif by > 0:
            self._session.select(next((index for index in doubtful if index > here), doubtful[0]))
        else:
            self._session.select(next((index for index in reversed(doubtful) if index < here), doubtful[-1]))

    def select_phrase(self) -> None:
        """Select every note of the phrase."""
        phrase = self._session.phrase
        if phrase is not None:
            inside = self.score.notes_of(phrase)
            self._session.select(inside.start)
            self._session.select(inside.stop - 1, extend=True)

    # --- where ---
    def type_fret(self, fret: int, continued: bool = False) -> None:
        if self._session.note is not None:
            self._try(
                f"Move note to fret {fret}",
                lambda: typed_fret(self.score, self._session.selected, fret),
                continues=continued,
            )

    def move_string(self, direction: int) -> None:
        """Put the note on the next string where its pitch lives."""
        if self._session.note is None:
            return
        where = neighbour_place(self.score, self._session.selected, direction)
        if where is None:
            self._say("This pitch lives on no string further that way.")
            return
        self.move_to(where.string, where.fret)

    def carry(self, index: int, string: int) -> None:
        """Put a note that was carried to another string's lane where its pitch lives there."""
        self._session.select(index)
        where = place_on(self.score, index, string)
        if where is None:
            self._say(f"This pitch lives nowhere on {string_name(self.score.tuning, string, self.naming)}.")
            return
        self.move_to(where.string, where.fret)

    def move_fret_over(self, direction: int) -> None:
        """Put the note on the next string with its fret kept: another pitch."""
        note = self._session.note
        if note is None:
            return
        string = note.string + direction
        if not 1 <= string <= self.score.tuning.strings:
            self._say("There is no string further that way.")
            return
        self.move_to(string, note.fret)

    def move_to(self, string: int, fret: int) -> None:
        """Put the note on a place; when its pitch stays, the rest of the phrase is placed anew around it."""
        note = self._session.note
        if note is None:
            return
        name, where, index = f"Move note to string {string}, fret {fret}", Place(string, fret), self._session.selected
        if self.score.tuning.midi(string, fret) == self.score.fretted_midi(note):
            self._try(name, lambda: moved_with_phrase(self.score, index, where, school=self.school))
        else:
            self._try(name, lambda: moved(self.score, index, where))

    def place_again(self) -> None:
        """Let the solver place every note again that was not placed by hand."""
        self._try("Place again", lambda: place_score(self.score, school=self.school))

    def lock(self, locked: bool) -> None:
        """Keep the selected notes where they are when others are placed again, or let them go."""
        self._change("Lock places" if locked else "Unlock places", locked=locked)

    def wish_near(self, fret: int | None) -> None:
        """Place the phrase around a fret, as far as its pitches allow."""
        phrase = self._session.phrase
        if phrase is None:
            self._say("No phrase lies here.")
            return
        name = f"Place phrase around fret {fret}" if fret is not None else "Place phrase anywhere"
        self._try(name, lambda: place_score(with_phrase_near(self.score, phrase, fret), school=self.school))

    def suggest_strokes(self) -> None:
        """Write pick strokes for the whole solo, as the chosen school would."""
        told = strokes(self.score.notes, school=self.stroke_school)
        notes = [replace(note, stroke=stroke) for note, stroke in zip(self.score.notes, told, strict=True)]
        self._session.edit(f"Write {self.stroke_school} strokes", self.score.with_notes(notes))

    # --- when ---
    def nudge(self, direction: int) -> None:
        note = self._session.note
        if note is not None:
            self._try_at(
                "Nudge onset",
                lambda: with_onset(self.score, self._session.selected, note.onset_s + direction * self.nudge_s),
            )

    def nudge_end(self, direction: int) -> None:
        note = self._session.note
        if note is not None:
            end_s = note.offset_s + direction * self.nudge_s
            self._try("Nudge end", lambda: with_end(self.score, self._session.selected, end_s))

    def snap_onset(self, direction: int) -> None:
        """Move the onset to the next attack that was heard."""
        note = self._session.note
        if note is not None and (at_s := self._attack_from(note.onset_s, direction)) is not None:
            self._try_at("Snap onset to an attack", lambda: with_onset(self.score, self._session.selected, at_s))

    def snap_end(self, direction: int) -> None:
        """Move the end to the next attack that was heard."""
        note = self._session.note
        if note is not None and (at_s := self._attack_from(note.offset_s, direction)) is not None:
            self._try("Snap end to an attack", lambda: with_end(self.score, self._session.selected, at_s))

    def _attack_from(self, time_s: float, direction: int) -> float | None:
        at_s = snapped_onset(time_s, self._session.attacks_s, direction)
        if at_s == time_s:
            self._say("No attack was heard further that way.")
            return None
        return at_s

    def insert(self, time_s: float) -> None:
        """Write the note that sounds at a time; where nothing does, one like the selected note.

        A note of that string that sounds on there ends where the new one begins.
        """
        for sound in self._session.unclaimed.between(time_s - AT_S, time_s + AT_S):
            if sound.start_s - AT_S <= time_s < sound.end_s:
                self.claim(sound)
                return
        note = self._session.note
        for index, other in enumerate(self.score.notes):
            here = other.onset_s - AT_S <= time_s < other.offset_s - AT_S
            if not here or (note is not None and other.string != note.string):
                continue
            if time_s <= other.onset_s + AT_S:
                self._say("Not inserted: a note begins here already. Move the playhead to where the new one begins.")
            else:
                self._try_at("Insert note", lambda index=index: split(self.score, index, time_s))  # type: ignore[misc]
            return
        score, index = inserted_at(self.score, time_s, like=note)
        self._session.edit("Insert note", score, select=index)

    def claim(self, sound: Unclaimed) -> None:
        """Write what was heard and no note claims, as it was measured."""
        measured = self._session.measured
        self._try_at("Write what sounds", lambda: with_claim(self.score, sound, measured, school=self.school))

    def unclaimed_after(self, time_s: float) -> float | None:
        """Return where the next sound without a note begins, round again after the last; None, said, without one."""
        start_s = self._session.unclaimed.after(time_s + AT_S)
        if start_s is None:
            self._say("Every sound that was heard is written.")
        return start_s

    def append(self, place: Place | None = None, *, together: bool = False) -> None:
        """Write the next note: one step of the beat map after the selected one, on its place or the given one.

        together: at the same time as the selected one instead, on another string.
        """
        beats, at_s = (0.0, None) if together else (self.step_beats, self._next_s)
        score, index = appended(self.score, self._session.selected, beats=beats, place=place, at_s=at_s)
        self._next_s = None
        self._session.edit("Write note", score, select=index)

    def rewrite(self, place: Place) -> None:
        """Put the note just written on another place, as part of the same step."""
        self._session.edit("Write note", moved(self.score, self._session.selected, place), continues=True)

    def write_next_at(self, time_s: float | None) -> None:
        """Write the next note at a time that was pointed at; None for a step after the last."""
        self._next_s = time_s

    @property
    def next_s(self) -> float:
        """When the next note that is written would begin."""
        if self._next_s is not None:
            return self._next_s
        return next_onset_s(self.score, self._session.selected, beats=self.step_beats)

    def leave_a_step(self) -> None:
        """Let the next note that is written begin a step later."""
        self._next_s = later(self.score, self.next_s, beats=self.step_beats)

    @property
    def step_beats(self) -> float:
        """How far apart notes are written, in felt beats: an eighth where nothing else was chosen."""
        if self._step is not None:
            return self._step
        beat_map, note = self.score.beat_map, self._session.note
        if not beat_map.known:
            return 0.5
        at = beat_map.quarter(note.onset_s if note is not None else 0.0)
        return 1 / beat_map.meter_at(at).strums

    def change_step(self, longer: bool) -> None:
        """Make the step of written notes longer or shorter: 2, 1, ½, ⅓, ¼, ⅙, ⅛ of a beat."""
        steps = (2.0, 1.0, 1 / 2, 1 / 3, 1 / 4, 1 / 6, 1 / 8)
        now = min(range(len(steps)), key=lambda i: abs(steps[i] - self.step_beats))
        self._step = steps[max(0, min(len(steps) - 1, now + (-1 if longer else 1)))]
        names = dict(zip(steps, ("2 beats", "1 beat", "½ beat", "⅓ beat", "¼ beat", "⅙ beat", "⅛ beat"), strict=True))
        self.step_changed.emit()
        self._say(f"Notes are written {names[self._step]} apart.")

    def delete(self) -> None:
        if self._session.note is not None:
            chosen = self._session.selection
            name = "Delete note" if len(chosen) == 1 else f"Delete {len(chosen)} notes"
            self._session.edit(name, self.score.without(chosen), select=chosen[0])

    def split(self, time_s: float) -> None:
        if self._session.note is not None:
            self._try_at("Split note", lambda: split(self.score, self._session.selected, time_s))

    def join(self) -> None:
        if self._session.note is not None:
            self._try("Join notes", lambda: joined_with_next(self.score, self._session.selected))

    # --- how it is struck, sounds and ends ---
    def attack(self, attack: Attack) -> None:
        self._change(f"Attack: {ATTACKS[attack]}", attack=attack)

    def end(self, end: End) -> None:
        self._change(f"End: {ENDS[end]}", end=end)

    def tone(self, tone: Tone) -> None:
        """Give the selected notes a tone; the same again takes it back."""
        note = self._session.note
        if note is not None:
            wanted = Tone.NORMAL if note.tone is tone else tone
            self._change(f"Tone: {TONES[wanted]}", tone=wanted)

    def toggle(self, field: str, name: str) -> None:
        """Switch a yes-or-no of the selected notes: garnish, slip, raked."""
        note = self._session.note
        if note is not None:
            wanted = not getattr(note, field)
            self._change(name if wanted else f"No {name.lower()}", **{field: wanted})

    def finger(self, finger: int | None) -> None:
        self._change(f"Finger {finger}" if finger else "No finger", finger=finger)

    def next_stroke(self) -> None:
        note = self._session.note
        if note is not None:
            stroke = STROKE_ORDER[(STROKE_ORDER.index(note.stroke) + 1) % len(STROKE_ORDER)]
            self._change(f"Stroke: {stroke or 'none'}", stroke=stroke)

    def doubt(self) -> None:
        """Mark the selected notes as doubtful, or take the mark off."""
        note = self._session.note
        if note is not None:
            self._change("No doubt" if note.doubt else "Doubt", doubt=None if note.doubt else BY_HAND)

    def remark(self, text: str) -> None:
        self._change("Remark", remark=text)

    # --- the curve ---
    def bend_by(self, direction: int) -> None:
        """Make the bend the next larger or smaller size; an unbent note is bent by a whole step first."""
        note = self._session.note
        if note is None:
            return
        now = int(np.argmin(np.abs(np.array(BEND_SIZES) - max(0.0, note.reading.bend_semitones))))
        size = BEND_SIZES[max(0, min(now + direction, len(BEND_SIZES) - 1))]
        if now == 0 and direction > 0:
            size = USUAL_BEND
        names = note.reading.names
        curve = bent_curve(size, note.duration_s, prebent="prebend" in names, released="release" in names)
        self._change(f"Bend {bend_name(size, self.naming)}" if size else "Unbend", curve=curve)

    def bend_how(self, *, prebent: bool = False, released: bool = False) -> None:
        """Switch between bent and pre-bent, or between held and let down, the size kept."""
        note = self._session.note
        if note is None:
            return
        names, size = note.reading.names, note.reading.bend_semitones or 2.0
        prebent, released = ("prebend" in names) != prebent, ("release" in names) != released
        curve = bent_curve(size, note.duration_s, prebent=prebent, released=released)
        self._change("Pre-bend" if prebent else "Release" if released else "Bend", curve=curve)

    def curl(self) -> None:
        """Push the string a little before the note ends, or take that back."""
        note = self._session.note
        if note is not None:
            start_s = CURL_FROM * note.duration_s
            curve = PitchCurve(((0.0, 0.0), (start_s, 0.0), (0.95 * note.duration_s, USUAL_CURL)))
            curled = "curl" in note.reading.names
            self._change("No curl" if curled else "Curl", curve=FLAT if curled else curve)

    def vibrato(self) -> None:
        """Give the note a vibrato where it has come to rest, or take it off."""
        note = self._session.note
        if note is not None:
            rest_s = note.curve.points[-1][0] if note.curve.points else 0.15
            wave = None if note.vibrato is not None else Vibrato(min(rest_s, 0.5 * note.duration_s), *USUAL_VIBRATO)
            self._change("Vibrato" if wave else "No vibrato", vibrato=wave)

    def gesture(self, text: str) -> bool:
        """Give the note the curve that words say; return whether they could be read."""
        note = self._session.note
        if note is None:
            return False
        try:
            read = gesture_from_text(text, duration_s=note.duration_s)
        except NotcherError as problem:
            self._say(str(problem))
            return False
        self._change(f"Curve: {text}", curve=read.curve, vibrato=read.vibrato)
        return True

    def move_point(self, index: int, point: int, time_s: float, semitones: float, continued: bool) -> None:
        name = "Move a point of the curve"
        self._try(name, lambda: with_curve_point(self.score, index, point, time_s, semitones), continues=continued)

    def add_point(self, index: int, time_s: float) -> None:
        self._try("Add a point to the curve", lambda: with_new_curve_point(self.score, index, time_s)[0])

    def remove_point(self, index: int, point: int) -> None:
        self._try("Remove a point of the curve", lambda: without_curve_point(self.score, index, point))

    # --- evidence ---
    def snap(self) -> None:
        """Make the claims of the selected notes equal to what was measured."""
        self._snap(self._session.selection)

    def snap_phrase(self) -> None:
        self._snap(self._phrase_notes())

    def _snap(self, indices: list[int]) -> None:
        measured, score, changed = self._session.measured, self.score, {}
        for index in indices:
            with suppress(ValueError):  # silent under this one
                changed[index] = snapped_note(score, score.notes[index], measured)
        if indices and not changed:
            self._say("Not changed: no pitch was heard under this note.")
        name = "Snap to evidence" if len(indices) == 1 else "Snap notes to evidence"
        self._session.edit(name, score.with_changed(changed))

    def read_otherwise(self, step: int) -> None:
        """Step a note through what else was heard in it; its neighbours are read to match."""
        self._try_at("Read otherwise", lambda: read_otherwise(self.score, self._session.selected, step))

    def accept(self) -> None:
        """Take the selected notes as they are: out of the doubts, and where they lie."""
        self._accept(self._session.selection)

    def accept_phrase(self) -> None:
        self._accept(self._phrase_notes())

    def _accept(self, indices: list[int]) -> None:
        notes = self.score.notes
        changed = {index: accepted(notes[index]) for index in indices}
        self._session.edit(f"Accept {many(len(indices), 'note')}", self.score.with_changed(changed))

    def _phrase_notes(self) -> list[int]:
        phrase = self._session.phrase
        if phrase is None:
            return self._session.selection
        return list(self.score.notes_of(phrase))

    # --- elsewhere ---
    def copy(self) -> None:
        """Keep the selected notes for pasting."""
        self._copy(self._session.selection)

    def copy_phrase(self) -> None:
        """Keep the notes of the phrase for pasting."""
        self._copy(self._phrase_notes())

    def _copy(self, indices: list[int]) -> None:
        self._copied = copied(self.score, indices)
        self._say(f"{many(len(self._copied), 'note')} copied. Paste puts them at the playhead.")

    def take(self, notes: tuple[Note, ...]) -> None:
        """Have these notes copied, as from elsewhere; their times are from the first one's onset."""
        self._copied = notes

    def copied_need(self) -> str:
        """Why nothing can be pasted; empty when something can."""
        return "" if self._copied else "Nothing was copied yet."

    def under_copied(self, time_s: float) -> tuple[int, ...]:
        """Return the notes that sound where the copied ones would be put."""
        return under_copied(self.score, self._copied, time_s) if self._copied else ()

    def paste(
        self, time_s: float, *, instead: Sequence[int] = (), semitones: int = 0, frets: int = 0, strings: int = 0
    ) -> None:
        """Put the copied notes at a time: moved by semitones and placed anew, or by frets or strings as a shape.

        instead: indices of the notes that give way.
        """
        if not self._copied:
            self._say("Nothing was copied yet.")
            return
        kept = self._copied
        self._try_at(
            f"Paste {many(len(kept), 'note')}",
            lambda: pasted(
                self.score,
                kept,
                time_s,
                semitones=semitones,
                frets=frets,
                strings=strings,
                instead=instead,
                school=self.school,
            ),
        )

    # --- lanes ---
    def chord(self, time_s: float, name: str) -> None:
        """Write a chord by its name, or take it away by none."""
        name = name.strip()
        try:
            if name:
                chord_tones(name)
        except NotcherError as problem:
            self._say(str(problem))
            return
        self._session.edit(f"Chord {name}" if name else "No chord", with_chord(self.score, time_s, name))

    def drag_beat(self, beat: float, time_s: float, continued: bool) -> None:
        self._try("Drag beat", lambda: with_beat_at(self.score, beat, time_s), continues=continued)

    # --- how a change is made ---
    def _say(self, sentence: str) -> None:
        self.refused.emit(sentence)

    def _change(self, name: str, **fields: Any) -> None:
        """Change the same fields of every selected note, as one step."""
        notes = self.score.notes
        try:
            changed = {index: replace(notes[index], **fields) for index in self._session.selection}
        except ValueError as problem:
            self._say(f"Not changed: {problem}.")
            return
        self._session.edit(name, self.score.with_changed(changed))

    def _try(self, name: str, change: Callable[[], Score], *, continues: bool = False) -> None:
        try:
            after = change()
        except (ValueError, NotcherError) as problem:
            self._say(f"Not changed: {str(problem).rstrip('.')}.")
            return
        self._session.edit(name, after, continues=continues)

    def _try_at(self, name: str, change: Callable[[], tuple[Score, int]]) -> None:
        try:
            after, index = change()
        except (ValueError, NotcherError) as problem:
            self._say(f"Not changed: {str(problem).rstrip('.')}.")
            return
        self._session.edit(name, after, select=index)
