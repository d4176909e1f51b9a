"""What the Notch bench asks a person before an edit: frets, chords, remarks, how to paste; each answer is one edit."""

from dataclasses import replace

import numpy as np
from PyQt6.QtWidgets import QWidget

from notcher.core.errors import NotcherError
from notcher.core.hearing import CHROMA_HOP_S, proposed_chords
from notcher.core.neck import copied, placed_near, retuned
from notcher.core.parsing import count_from_text, gesture_from_text
from notcher.core.patterns import boundaries, phrases_of
from notcher.core.score import Chord, Key, Score, key_from_text
from notcher.core.score.edits import meter_of, with_chord, with_count
from notcher.core.score.form import with_phrases
from notcher.core.score.form_edits import (
    bar_of,
    section_of,
    sections_before,
    with_meter_from,
    with_phrase_key,
    with_phrase_name,
    with_phrase_of,
    with_repeat,
    with_section_around,
)
from notcher.core.score.limits import CHORD_CHARS, REMARK_CHARS
from notcher.core.score.rhythm import counted
from notcher.core.theory import chord_tones
from notcher.core.words import boundary_words, count_word, many, seconds
from notcher.ui.benches.notch.clipboard import Clipboard
from notcher.ui.benches.notch.editor import Edit, Editor
from notcher.ui.playback.player import Player
from notcher.ui.state.session import Session
from notcher.ui.widgets.asking import ask_choice, ask_number, ask_text, ask_what_to_do

PASTES: dict[str, dict[str, int | None]] = {
    "1 octave higher, placed anew": {"semitones": 12},
    "1 octave lower, placed anew": {"semitones": -12},
    "by semitones, placed anew …": {"semitones": None},
    "the shape by frets, on its strings …": {"frets": None},
    "the shape 1 string lower": {"strings": 1},
    "the shape 1 string higher": {"strings": -1},
}
"""Ways to paste; None is asked for."""
NO_SECTION = "no other section"
NO_HARMONY = "No band was heard beside the guitar, so there are no chords to propose."


def _key(text: str) -> Key | None:
    return key_from_text(text) if text.strip() else None


class NotchDialogs:
    """Opens the bench's small dialogs over a widget."""

    def __init__(self, session: Session, editor: Editor, player: Player, clipboard: Clipboard, parent: QWidget) -> None:
        self._session, self._editor, self._player, self._parent = session, editor, player, parent
        self.clipboard = clipboard

    # --- where and how ---
    def near_fret(self) -> None:
        question = "Play this phrase around fret"

        def said(fret: int) -> None:
            edit = Edit(f"Place phrase around fret {fret}", lambda s, c, g: placed_near(s, c, fret, style=g.style))
            self._editor.run(edit)

        ask_number(self._parent, "Around a fret", question, 12, 0, 22, said)

    def remark(self) -> None:
        note = self._session.note
        if note is not None:

            def said(text: str) -> None:
                self._editor.run(Edit("Remark", lambda s, c, _g: c.changed(s, remark=text)))

            ask_text(self._parent, "Remark", "What to say about this note", note.remark, said, most=REMARK_CHARS)

    def gesture(self, text: str) -> bool:
        """Give the notes the curve that words say; return whether they could be read."""
        note = self._session.note
        if note is None:
            return False

        def change(score: Score) -> Score:
            read = gesture_from_text(text, duration_s=note.duration_s)
            return self._session.chosen.changed(score, curve=read.curve, vibrato=read.vibrato)

        return self._editor.make(f"Curve: {text}", change)

    # --- chords and keys ---
    def chord(self) -> None:
        """Ask for the chord at the selected note."""
        note = self._session.note
        self.chord_at(note.onset_s if note is not None else self._player.time_s)

    def chord_at(self, time_s: float) -> None:
        near = self._session.score.chord_beginning_at(time_s)
        question, name = f"Chord from {seconds(time_s)} (empty takes it away)", near.name if near is not None else ""
        at_s = near.start_s if near is not None else time_s

        def said(typed: str) -> None:
            name = typed.strip()

            def change(score: Score) -> Score:
                if name:
                    chord_tones(name)  # refused where nobody could read it
                return with_chord(score, at_s, name)

            self._editor.make(f"Chord {name}" if name else "No chord", change)

        ask_text(self._parent, "Chord", question, name, said, most=CHORD_CHARS)

    def propose_chords(self) -> None:
        """Write the chords that the recording's harmony speaks for, in place of those that stand there."""
        session, score = self._session, self._session.score
        harmony = session.analysis.harmony if session.analysis is not None else None
        if harmony is None:
            self._editor.notice.emit(NO_HARMONY)
            return
        beats = score.beat_map.beats_between(0.0, len(harmony) * CHROMA_HOP_S)
        times_s, bars = np.array([beat.time_s for beat in beats]), np.array([beat.beat == 1 for beat in beats])
        proposal = proposed_chords(harmony, times_s, bars, shift=score.tuning.shift)
        chords = tuple(Chord(chord.start_s, chord.name, chord.certainty) for chord in proposal)
        self._editor.make("Propose chords", lambda score: replace(score, chords=chords))
        if proposal:
            least = min(proposal, key=lambda chord: chord.certainty)
            self._editor.notice.emit(
                f"{many(len(proposal), 'chord')} proposed, the doubtful ones with their certainty. Least sure is "
                f"{least.name} at {seconds(least.start_s, 1)} ({least.certainty:.0%}): listen there first."
            )

    def key(self) -> None:
        """Ask for the key of the solo."""
        key = self._session.score.key
        question = "Key of the solo: F# minor, Bb, D dorian (empty for none)"

        def said(text: str) -> None:
            name = f"Key {text}" if text.strip() else "No key"
            self._editor.make(name, lambda score: replace(score, key=_key(text)))

        ask_text(self._parent, "Key", question, "" if key is None else str(key), said)

    def phrase_key(self) -> None:
        """Ask for the key of the phrase, where it is another than the solo's."""
        phrase = self._session.phrase
        if phrase is None:
            return

        def said(text: str) -> None:
            name = f"Key of the phrase: {text or 'the solo’s'}"
            self._editor.run(Edit(name, lambda s, c, _g: with_phrase_key(s, c, _key(text))))

        now = "" if phrase.key is None else str(phrase.key)
        ask_text(self._parent, "Key of the phrase", "Key of this phrase (empty for the solo's)", now, said)

    # --- rhythm ---
    def count(self) -> None:
        """Ask on which beat, and which part of it, the selected note is written."""
        note, score = self._session.note, self._session.score
        if note is None:
            return
        time, _ = counted(score, score.position(note.id))
        now = str(time.beat) if time.part == 0 else f"{time.beat} {count_word(time)}"

        def said(text: str) -> None:
            if not text.strip():
                self._editor.make("Read the count again", lambda score: score.with_note(note.id, starts_at=None))
                return
            self._editor.make(
                f"Starts on {text.strip()}",
                lambda score: with_count(score, note.id, *count_from_text(text, meter_of(score, note.id))),
            )

        question = "On which count it starts: 2, 2 &, 3 trip (empty lets it be read again)"
        ask_text(self._parent, "Starts on", question, now, said)

    def meter(self) -> None:
        """Ask for the meter from the bar of the selected note on."""
        bar = bar_of(self._session.score, self._session.chosen)

        def said(text: str) -> None:
            name = f"Meter {text.strip()} from bar {bar}"
            self._editor.run(Edit(name, lambda s, c, g: with_meter_from(s, c, text, keeps_felt=g.keeps_felt)))

        question = f"Meter from bar {bar} on; “2/4 once” for this bar alone"
        now = str(self._session.score.beat_map.bar_meter(bar))
        ask_text(self._parent, "Meter", question, now, said)

    # --- phrases and sections ---
    def phrase_name(self) -> None:
        """Ask what the phrase is called."""
        phrase = self._session.phrase
        if phrase is not None:
            ask_text(self._parent, "Phrase", "Name of the phrase", phrase.name, self._name_phrase)

    def _name_phrase(self, name: str) -> None:
        self._editor.run(Edit(f"Phrase {name.strip()}", lambda s, c, _g: with_phrase_name(s, c, name)))

    def phrase(self) -> None:
        """Ask for the name of a phrase made of the selected notes."""

        def said(name: str) -> None:
            self._editor.run(Edit(f"Phrase {name.strip()}", lambda s, c, _g: with_phrase_of(s, c, name)))

        ask_text(self._parent, "Phrase", "Name of the phrase", "", said)

    def propose_phrases(self) -> None:
        """Cut the whole solo into phrases anew, and say where."""
        proposal = boundaries(self._session.score)
        self._editor.make("Propose phrases", lambda score: with_phrases(score, phrases_of(score, proposal)))
        if proposal:
            why = boundary_words(proposal)
            self._editor.notice.emit(f"{many(len(proposal), 'phrase')}{f': {why}' if why else ''}.")

    def section(self) -> None:
        """Ask for the name of a section that holds the phrases of the selected notes."""

        def said(name: str) -> None:
            self._editor.run(Edit(f"Section {name.strip()}", lambda s, c, _g: with_section_around(s, c, name)))

        ask_text(self._parent, "Section", "Name of the section", "", said)

    def repeat(self) -> None:
        """Ask which section the one here repeats."""
        score, chosen = self._session.score, self._session.chosen
        here, others = section_of(score, chosen), sections_before(score, chosen)
        if here is None or not others:
            self._editor.notice.emit("A section can repeat one that comes before it; none does here.")
            return
        names = [NO_SECTION, *(other.name for other in others)]
        now = next((other.name for other in others if other.id == here.repeats), NO_SECTION)

        def said(name: str) -> None:
            called = "Repeats nothing" if name == NO_SECTION else "Repeats"
            self._editor.run(Edit(called, lambda s, c, _g: with_repeat(s, c, name)))

        ask_choice(self._parent, "Repeats", f"“{here.name}” is the same as", names, now, said)

    # --- pasting ---
    def paste(self) -> None:
        """Paste moved: by an octave or semitones and placed anew, or as a shape by frets or strings."""

        def chosen(way: str) -> None:
            unit, by = next(iter(PASTES[way].items()))
            if by is not None:
                self._paste(unit, by)
                return
            question = f"{unit.capitalize()}, minus for lower"
            ask_number(self._parent, "Paste moved", question, 2, -36, 36, lambda typed: self._paste(unit, typed))

        ways = list(PASTES)
        ask_choice(self._parent, "Paste moved", "How the copied notes move", ways, ways[0], chosen)

    def drop_in(self, lick: Score) -> None:
        """Put a lick from elsewhere in at the playhead; on another tuning it is placed anew to sound the same."""
        tuning = self._session.score.tuning
        if lick.tuning.open_midi != tuning.open_midi or lick.tuning.capo != tuning.capo:
            try:
                lick = retuned(lick, tuning)
            except NotcherError as problem:
                self._editor.notice.emit(str(problem))
                return
        self._editor.take(copied(lick.notes))
        self._paste()

    def paste_here(self) -> None:
        """Paste at the playhead: a tab that another program has copied, else the notes copied here."""
        if self.clipboard.foreign:
            try:
                self.drop_in(self.clipboard.read())
            except NotcherError as problem:
                self._editor.notice.emit(str(problem))
            return
        self._paste()

    def paste_need(self) -> str:
        """Why nothing can be pasted; empty when something can."""
        return "" if self.clipboard.foreign else self._editor.copied_need()

    def _paste(self, unit: str = "semitones", by: int = 0) -> None:
        """Paste at the playhead; where notes lie already, ask whether they give way."""
        at_s, editor, moved = self._player.time_s, self._editor, {"semitones": 0, "frets": 0, "strings": 0, unit: by}
        under = editor.under_copied(at_s)
        if not under:
            editor.paste(at_s, instead=(), **moved)
            return
        there = "A note sounds" if len(under) == 1 else f"{len(under)} notes sound"
        ask_what_to_do(
            self._parent,
            "Paste",
            f"{there} where the copied notes go.",
            (
                ("Keep both", lambda: editor.paste(at_s, instead=(), **moved)),
                ("Replace them", lambda: editor.paste(at_s, instead=under, **moved)),
            ),
        )
