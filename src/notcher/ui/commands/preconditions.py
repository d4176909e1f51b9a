"""What commands need before they can run, and how it is said that it is missing."""

from notcher.ui.state.session import Session


def no_phrase(session: Session) -> str:
    """How it is said that a solo has no phrase to teach."""
    what = "propose phrases on the Notch bench" if session.score.notes else "open a solo"
    return f"There is no phrase yet: {what} first."


class Preconditions:
    """Answers for the open document; each gives an empty sentence when nothing is missing."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def note(self) -> str:
        return "" if self._session.note is not None else "No note is selected: click one, or walk to it by the arrows."

    def reading(self) -> str:
        note = self._session.note
        return "" if note is None or note.readings else "Nothing else was heard in this note."

    def notes(self) -> str:
        return "" if self._session.score.notes else "There are no notes yet: open a recording, or write some by hand."

    def phrase(self) -> str:
        return "" if self._session.phrase is not None else "No phrase lies here: select a note of one first."

    def beats(self) -> str:
        tempo_known = self._session.score.beat_map.known
        return "" if tempo_known else "There are no beats yet: tap them on the Hear bench first."

    def doubt(self) -> str:
        return "" if any(note.doubt for note in self._session.score.notes) else "No note is in doubt."

    def attacks(self) -> str:
        return "" if self._session.attacks_s.size else "No attacks were heard: the recording has to be heard first."

    def recording(self) -> str:
        has_one = self._session.document.clip is not None
        return "" if has_one else "There is no recording. Open one with File, Open."
