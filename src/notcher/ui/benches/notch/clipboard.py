"""What goes to other programs and comes from them: a phrase as text or as a picture, a tab out of a mail."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QMimeData, QRectF
from PyQt6.QtGui import QGuiApplication, QImage, QPainter

from notcher.core.formats import looks_like_tab, read_pasted, text_tab
from notcher.core.score import Phrase, Score
from notcher.core.words import Naming, many
from notcher.painting.phrase_picture import draw_phrase
from notcher.painting.theme import PAPER
from notcher.ui.state.session import Session

PICTURE_PX, MOST_PX, ROW_PX = 220, 3000, 260
"""Of a copied picture: for each second, at most, and its height."""


class Clipboard:
    """Copies what is selected, and reads what others have copied."""

    def __init__(self, session: Session, notice: Callable[[str], None], naming: Callable[[], Naming]) -> None:
        self._session, self._notice, self._naming = session, notice, naming
        self._own = ""  # the text that we have put there last

    def put(self, notes_of: Score) -> None:
        """Let other programs have what was copied, as text."""
        self._own = text_tab(notes_of)
        board = QGuiApplication.clipboard()
        if board is not None:
            board.setText(self._own)

    def copy_text(self) -> None:
        """Copy the phrase as a text tab, for a mail or a chat."""
        phrase = self._session.phrase
        if phrase is not None:
            self.put(alone(self._session.score, phrase))
            self._notice(f"{phrase.name or 'The phrase'} is copied as text: paste it into a mail or a chat.")

    def copy_picture(self) -> None:
        """Copy the phrase as a picture, for a mail or a chat."""
        phrase, board = self._session.phrase, QGuiApplication.clipboard()
        if phrase is not None and board is not None:
            data = QMimeData()
            data.setImageData(picture(alone(self._session.score, phrase), phrase, self._naming()))
            board.setMimeData(data)
            self._notice(f"{phrase.name or 'The phrase'} is copied as a picture: paste it into a mail or a chat.")

    @property
    def foreign(self) -> str:
        """The tab that another program has copied since; empty where there is none."""
        board = QGuiApplication.clipboard()
        text = board.text() if board is not None else ""
        return text if text != self._own and looks_like_tab(text) else ""

    def read(self) -> Score:
        """Return the tab that another program has copied. Raises: FileError."""
        reading = read_pasted(self.foreign)
        unread = f" {many(len(reading.unread), 'sign')} in it could not be read." if reading.unread else ""
        self._notice(f"{many(len(reading.score.notes), 'note')} of the copied tab.{unread}")
        return reading.score


def alone(score: Score, phrase: Phrase) -> Score:
    """Return a score of one phrase, at its own place in the bars."""
    notes = tuple(score.notes[at] for at in score.notes_of(phrase))
    return replace(score, notes=(), phrases=(phrase,), sections=(), variants=(), excluded=()).with_notes(notes)


def picture(score: Score, phrase: Phrase, naming: Naming) -> QImage:
    """Return one phrase as it looks on paper."""
    width = round(min(MOST_PX, max(2 * ROW_PX, PICTURE_PX * (phrase.end_s - phrase.start_s))))
    image = QImage(width, ROW_PX, QImage.Format.Format_RGB32)
    image.fill(PAPER.color("panel"))
    painter = QPainter(image)
    draw_phrase(painter, QRectF(image.rect()), score, PAPER, scale=1.6, naming=naming)
    painter.end()
    return image
