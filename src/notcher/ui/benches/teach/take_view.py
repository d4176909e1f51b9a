"""A take for the student to read: the take over the tab, how each phrase went, how bends landed, what to do."""

from dataclasses import replace
from html import escape

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from notcher.core.proving import PhraseReport, Thresholds, advice, judged, landings
from notcher.core.score import EMPTY_SCORE, NO_SELECTION, Doubt, DoubtKind, Score
from notcher.core.words import USUAL, Naming, advice_words, headline, phrase_figures
from notcher.painting.theme import Theme
from notcher.ui.benches.teach.landing_view import LandingView
from notcher.ui.benches.teach.take_recorder import HeardTake
from notcher.ui.tab.tab_view import TabView
from notcher.ui.widgets.cards import scrolling
from notcher.ui.widgets.flow import FlowLayout
from notcher.ui.widgets.plain import Label

NOTHING = "Choose a phrase."
NOT_HEARD = "Not held against the tab yet."
NOT_AS_WRITTEN = Doubt(DoubtKind.NOT_AS_WRITTEN)


class TakeView(QWidget):
    """Shows takes; asks for them to be heard, or their verdict to be put on the board."""

    back_requested = pyqtSignal()
    play_requested = pyqtSignal(object, bool)  # the take; whether the tab beside it
    mark_requested = pyqtSignal(object, object)  # the take, the phrase's report
    hearing_requested = pyqtSignal(object)  # a take that was not held against the tab yet
    remove_requested = pyqtSignal(str)  # the id of a take to be thrown away

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.takes: list[HeardTake] = []
        self._thresholds, self._naming = Thresholds(), USUAL
        self._span: tuple[float, float] | None = None
        self.take_box, self.summary = QComboBox(), Label()
        self.tab, self.phrase_list, self.landing = TabView(self), QListWidget(), LandingView()
        self.words = Label()
        self.back_button = QPushButton("Back to the board")
        self.play_button, self.both_button = QPushButton("Play the take"), QPushButton("Take left, tab right")
        self.mark_button, self.remove_button = QPushButton("Put the result on the board"), QPushButton("Delete take")
        self._lay_out()
        self.take_box.currentIndexChanged.connect(lambda _at: self._show_take())
        self.phrase_list.currentRowChanged.connect(lambda _row: self._show_phrase())
        self.back_button.clicked.connect(self.back_requested)
        self.play_button.clicked.connect(lambda: self.play(beside_tab=False))
        self.both_button.clicked.connect(lambda: self.play(beside_tab=True))
        self.mark_button.clicked.connect(self.put_verdict)
        self.remove_button.clicked.connect(self.remove)
        self.tab.show_strokes(False)
        self.tab.setAccessibleName("The take over the tab")

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        self.take_box.setAccessibleName("Take")
        self.take_box.setMinimumWidth(190)
        head.addWidget(self.take_box)
        self.summary.setWordWrap(True)
        head.addWidget(self.summary, 1)
        head.addWidget(self.back_button)
        acts = FlowLayout()
        for button in (self.play_button, self.both_button, self.mark_button, self.remove_button):
            acts.addWidget(button)
        self.phrase_list.setAccessibleName("Phrases of the take")
        self.phrase_list.setMinimumWidth(170)
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.words.setContentsMargins(12, 8, 12, 8)
        scroll = scrolling(self.words)
        self.phrase_list.setSpacing(2)
        card = QFrame()
        card.setProperty("card", True)
        inside = QVBoxLayout(card)
        inside.setContentsMargins(1, 1, 1, 1)
        inside.addWidget(scroll)
        below = QHBoxLayout()
        below.addWidget(self.phrase_list, 2)
        below.addWidget(card, 6)
        below.addWidget(self.landing, 4)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(head)
        column.addLayout(acts)
        column.addWidget(self.tab, 8)
        column.addLayout(below, 4)

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.tab.set_naming(naming)
        self.landing.set_naming(naming)
        self._show_take()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.tab.show_theme(theme, scale)
        self.landing.show_theme(theme, scale)

    # --- what is shown ---
    @property
    def take(self) -> HeardTake | None:
        at = self.take_box.currentIndex()
        return self.takes[at] if 0 <= at < len(self.takes) else None

    @property
    def phrase(self) -> PhraseReport | None:
        """The chosen phrase's report."""
        take, row = self.take, self.phrase_list.currentRow()
        if take is None or take.report is None or not 0 <= row < len(take.report.phrases):
            return None
        return take.report.phrases[row]

    def clear(self) -> None:
        """Another document is open: its takes begin anew."""
        self.show_takes([], self._thresholds)

    def show_takes(self, takes: list[HeardTake], thresholds: Thresholds) -> None:
        """Show the takes of a document; the chosen one stays chosen while it is there."""
        self._thresholds = thresholds
        ids = [shown.take.id for shown in takes]
        if ids == [shown.take.id for shown in self.takes]:
            return
        chosen = self.take.take.id if self.take is not None else ""
        self.takes = takes
        self.take_box.blockSignals(True)
        self.take_box.clear()
        for shown in takes:
            self.take_box.addItem(_title(shown))
        self.take_box.setCurrentIndex(ids.index(chosen) if chosen in ids else len(ids) - 1)
        self.take_box.blockSignals(False)
        self._show_take()

    def put(self, heard_take: HeardTake) -> None:
        """Show what is said of a take, and bring it to the front."""
        at = next((at for at, shown in enumerate(self.takes) if shown.take.id == heard_take.take.id), None)
        if at is not None:
            self.takes[at] = heard_take
            self.take_box.setItemText(at, _title(heard_take))
            self.take_box.setCurrentIndex(at)
            self._show_take()

    def judge_again(self, thresholds: Thresholds) -> None:
        """Take other thresholds for all takes; none is heard again."""
        if thresholds == self._thresholds:
            return
        self._thresholds = thresholds
        self.takes = [
            take if take.report is None else replace(take, report=judged(take.report, thresholds))
            for take in self.takes
        ]
        for at, take in enumerate(self.takes):
            self.take_box.setItemText(at, _title(take))
        self._show_take()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show_take()  # a take of an earlier day is heard when somebody looks at it

    def _show_take(self) -> None:
        take = self.take
        self.play_button.setEnabled(take is not None)
        self.remove_button.setEnabled(take is not None)
        for button in (self.both_button, self.mark_button):
            button.setEnabled(take is not None and take.report is not None)
        if take is None or take.report is None:
            self.phrase_list.clear()
            self.words.setText("")
            self.landing.show_landings({})
            self.tab.show_score(EMPTY_SCORE, NO_SELECTION)
            self._span = None
            self.summary.setText("" if take is None else NOT_HEARD)
            if take is not None and self.isVisible():
                self.hearing_requested.emit(take)
            return
        self.summary.setText(headline(take.report))
        self.tab.show_measured(take.report.heard.measured, 0.0 if take.clip is None else take.clip.duration_s)
        self.tab.show_score(marked(take), NO_SELECTION)
        chosen = max(0, self.phrase_list.currentRow())
        self.phrase_list.clear()
        for phrase_report in take.report.phrases:
            self.phrase_list.addItem(f"{phrase_report.phrase.name}: {phrase_report.verdict}")
        self.phrase_list.setCurrentRow(min(chosen, len(take.report.phrases) - 1))
        self._show_phrase()

    def _show_phrase(self) -> None:
        take, phrase_report = self.take, self.phrase
        if take is None or take.report is None or phrase_report is None:
            self.words.setText(NOTHING)
            self.landing.show_landings({})
            return
        places = {index: at for at, index in enumerate(take.report.indices)}
        notes = [take.report.aligned.notes[places[played.index]] for played in phrase_report.notes]
        self._span = (notes[0].onset_s, max(note.offset_s for note in notes))
        self.tab.show_span(*self._span)
        self.landing.show_landings(landings(phrase_report.bends))
        advices = advice(phrase_report, take.score, pace=take.take.pace, thresholds=self._thresholds)
        texts = [advice_words(matter, take.score, take.report.aligned, self._naming) for matter in advices]
        lines = "".join(f"<li>{escape(sentence)}</li>" for sentence in texts)
        name, figures = escape(phrase_report.phrase.name), phrase_figures(phrase_report, self._naming)
        self.words.setText(f"<b>{name}: {phrase_report.verdict}.</b> {figures}<ul>{lines}</ul>")

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self._span is not None:
            self.tab.show_span(*self._span)

    # --- what is asked ---
    def take_need(self) -> str:
        """Why there is no take to play or delete; empty when there is one."""
        return "" if self.take is not None else "No take is chosen: Teach, Takes records one."

    def play(self, *, beside_tab: bool) -> None:
        """Ask for the take to be played, with the tab in the other ear where that is wanted."""
        if self.take is not None:
            self.play_requested.emit(self.take, beside_tab)

    def remove(self) -> None:
        """Ask for the take to be deleted."""
        if self.take is not None:
            self.remove_requested.emit(self.take.take.id)

    def verdict_need(self) -> str:
        """Why no verdict can be put on the board; empty when one can."""
        return "" if self.phrase is not None else "No phrase of a take that was heard is chosen."

    def put_verdict(self) -> None:
        """Ask for the chosen phrase's verdict to be put on the board."""
        if self.take is not None and self.phrase is not None:
            self.mark_requested.emit(self.take, self.phrase)


def _title(shown: HeardTake) -> str:
    take, verdict = shown.take, "" if shown.report is None else f", {shown.report.verdict}"
    return f"{take.name}, {take.pace * 100:.0f} %{verdict}"


def marked(shown: HeardTake) -> Score:
    """Return the practised notes at the take's times; what was not played right is marked as a doubt is."""
    if shown.report is None:
        return EMPTY_SCORE
    verdicts = {played.index: played for phrase in shown.report.phrases for played in phrase.notes}
    aligned = shown.report.aligned
    return aligned.with_notes(
        replace(
            note,
            doubt=None if index in verdicts and verdicts[index].right else NOT_AS_WRITTEN,
            slip=False,
            remark="",
        )
        for index, note in zip(shown.report.indices, aligned.notes, strict=True)
    )
