"""What the Notch bench asks before an edit: frets, chords, remarks, how to paste; each answer becomes one edit."""

from PyQt6.QtWidgets import QWidget

from notcher.core.errors import NotcherError
from notcher.core.neck import copied, retuned
from notcher.core.score import Score
from notcher.core.words import seconds
from notcher.ui.benches.notch.form_edits import FormEdits
from notcher.ui.benches.notch.notch_edits import NotchEdits
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


class NotchAsking:
    """Opens the bench's small dialogs over a widget."""

    def __init__(self, session: Session, edits: NotchEdits, form: FormEdits, player: Player, parent: QWidget) -> None:
        self._session, self._edits, self._form, self._player = session, edits, form, player
        self._parent = parent

    def near_fret(self) -> None:
        question = "Play this phrase around fret"
        ask_number(self._parent, "Around a fret", question, 12, 0, 22, lambda fret: self._edits.wish_near(fret))

    def chord(self) -> None:
        """Ask for the chord at the selected note."""
        note = self._session.note
        self.chord_at(note.onset_s if note is not None else self._player.time_s)

    def chord_at(self, time_s: float) -> None:
        near = self._session.score.chord_beginning_at(time_s)
        question, name = f"Chord from {seconds(time_s)} (empty takes it away)", near.name if near is not None else ""
        at_s = near.start_s if near is not None else time_s
        ask_text(self._parent, "Chord", question, name, lambda said: self._edits.chord(at_s, said))

    def remark(self) -> None:
        note = self._session.note
        if note is not None:
            ask_text(self._parent, "Remark", "What to say about this note", note.remark, self._edits.remark)

    def count(self) -> None:
        """Ask on which beat, and which part of it, the selected note is written."""
        said = self._form.count_now()
        if said is not None:
            question = "On which count it starts: 2, 2 &, 3 trip (empty lets it be read again)"
            ask_text(self._parent, "Starts on", question, said, self._form.count_as)

    def key(self) -> None:
        """Ask for the key of the solo."""
        key = self._session.score.key
        question = "Key of the solo: F# minor, Bb, D dorian (empty for none)"
        ask_text(self._parent, "Key", question, "" if key is None else str(key), self._form.key)

    def phrase_key(self) -> None:
        """Ask for the key of the phrase, where it is another than the solo's."""
        phrase = self._session.phrase
        if phrase is not None:
            question = "Key of this phrase (empty for the solo's)"
            said = "" if phrase.key is None else str(phrase.key)
            ask_text(self._parent, "Key of the phrase", question, said, self._form.phrase_key)

    def phrase_name(self) -> None:
        """Ask what the phrase is called."""
        phrase = self._session.phrase
        if phrase is not None:
            ask_text(self._parent, "Phrase", "Name of the phrase", phrase.name, self._form.rename_phrase)

    def phrase(self) -> None:
        """Ask for the name of a phrase made of the selected notes."""
        ask_text(self._parent, "Phrase", "Name of the phrase", "", self._form.phrase_of_selection)

    def section(self) -> None:
        """Ask for the name of a section that holds the phrases of the selected notes."""
        ask_text(self._parent, "Section", "Name of the section", "", self._form.section_of_selection)

    def repeat(self) -> None:
        """Ask which section the one here repeats."""
        here, others = self._form.section_here, self._form.sections_before
        if here is None or not others:
            self._form.refused.emit("A section can repeat one that comes before it; none does here.")
            return
        names = [NO_SECTION, *(other.name for other in others)]
        now = next((other.name for other in others if other.id == here.repeats), NO_SECTION)
        ask_choice(self._parent, "Repeats", f"“{here.name}” is the same as", names, now, self._form.repeats)

    def meter(self) -> None:
        """Ask for the meter from the bar of the selected note on."""
        said = self._form.meter_here
        if said is not None:
            bar, meter = said
            question = f"Meter from bar {bar} on; “2/4 once” for this bar alone"
            ask_text(self._parent, "Meter", question, meter, self._form.meter)

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
                self._edits.refused.emit(str(problem))
                return
        self._edits.take(copied(lick, range(len(lick.notes))))
        self._paste()

    def paste_here(self) -> None:
        """Paste at the playhead."""
        self._paste()

    def _paste(self, unit: str = "semitones", by: int = 0) -> None:
        """Paste at the playhead; where notes lie already, ask whether they give way."""
        at_s, edits, moved = self._player.time_s, self._edits, {"semitones": 0, "frets": 0, "strings": 0, unit: by}
        under = edits.under_copied(at_s)
        if not under:
            edits.paste(at_s, instead=(), **moved)
            return
        there = "A note sounds" if len(under) == 1 else f"{len(under)} notes sound"
        ask_what_to_do(
            self._parent,
            "Paste",
            f"{there} where the copied notes go.",
            (
                ("Put the copied ones in their place", lambda: edits.paste(at_s, instead=under, **moved)),
                ("Keep both", lambda: edits.paste(at_s, instead=(), **moved)),
            ),
        )
