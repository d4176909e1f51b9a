"""The Hear bench: what part of the recording is listened to, what was heard, in which tuning and beat map."""

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from notcher.core.hearing import EMPTY_TRACK, Hint, PitchTrack, TuningProposal, beat_map_from_taps
from notcher.core.score import BeatMap, Score, midi_to_name
from notcher.core.sound import FOCUSES, Spectrogram
from notcher.core.sound.spectrogram import HIGHEST_MIDI, LOWEST_MIDI
from notcher.painting.tab_frame import draw_unbroken
from notcher.painting.theme import PAPER, Theme, figure_font
from notcher.ui.state.session import Session

FOCUS_WORDS = {
    "auto": "What both sides share",
    "mid": "Middle (left + right)",
    "left": "Left side",
    "right": "Right side",
    "side": "What differs (left − right)",
}
TAPS_NEEDED, TAP_PAUSE_S = 4, 2.5


CLICK_HINT = (0.12, 0.8)
"""A clicked note is a hint of so many seconds and semitones to each side."""


class SoundPicture(QWidget):
    """Pitch up, time across: the sound that is listened to, and the lead's pitch that was found in it.

    A drag draws a hint of where the lead is, a click points at one note.
    """

    hint_drawn = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._spectrogram: Spectrogram | None = None
        self._track: PitchTrack = EMPTY_TRACK
        self._midi = np.zeros(0)
        self._span_s = (0.0, 10.0)
        self._playhead_s = 0.0
        self._theme, self._scale = PAPER, 1.0
        self._image: QImage | None = None
        self._hints: tuple[Hint, ...] = ()
        self._pressed: QPointF | None = None
        self._dragged: QPointF | None = None
        self.setMinimumSize(300, 200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Sound and pitch heard")

    def show_sound(self, picture: Spectrogram | None) -> None:
        self._spectrogram, self._image = picture, None
        self.update()

    def show_track(self, track: PitchTrack) -> None:
        self._track, self._midi = track, track.midi
        self.update()

    def show_hints(self, hints: tuple[Hint, ...]) -> None:
        self._hints = hints
        self.update()

    def show_span(self, start_s: float, end_s: float) -> None:
        self._span_s = (start_s, max(end_s, start_s + 0.1))
        self.update()

    def show_playhead(self, time_s: float) -> None:
        self._playhead_s = time_s
        self.update()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self._theme, self._scale, self._image = theme, scale, None
        self.update()

    @property
    def _left(self) -> float:
        return 44 * self._scale

    def _x(self, time_s: float) -> float:
        start, end = self._span_s
        return self._left + (time_s - start) / (end - start) * (self.width() - self._left)

    def _y(self, midi: np.ndarray | float) -> np.ndarray | float:
        return self.height() - (midi - LOWEST_MIDI) / (HIGHEST_MIDI - LOWEST_MIDI) * self.height()

    def _hint_between(self, a: QPointF, b: QPointF) -> Hint | None:
        """The hint that a drag or click stands for; None outside the recording's pitches."""
        start, end = self._span_s
        per_s = (self.width() - self._left) / (end - start)
        times = sorted(start + (point.x() - self._left) / per_s for point in (a, b))
        pitch = sorted(HIGHEST_MIDI - point.y() / self.height() * (HIGHEST_MIDI - LOWEST_MIDI) for point in (a, b))
        if (a - b).manhattanLength() < 6:
            times = [times[0] - CLICK_HINT[0], times[1] + CLICK_HINT[0]]
            pitch = [pitch[0] - CLICK_HINT[1], pitch[1] + CLICK_HINT[1]]
        times = [max(0.0, time_s) for time_s in times]
        return Hint(*times, *pitch) if times[1] - times[0] > 0.02 and pitch[1] - pitch[0] > 0.2 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton and event.position().x() > self._left:
            self._pressed = self._dragged = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            self._dragged = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            hint = self._hint_between(self._pressed, event.position())
            self._pressed = self._dragged = None
            self.update()
            if hint is not None:
                self.hint_drawn.emit(hint)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, theme = QPainter(self), self._theme
        painter.fillRect(self.rect(), theme.color("panel"))
        if self._spectrogram is None:
            painter.setPen(theme.color("soft_ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Open a recording to see what it holds.")
            return
        self._paint_sound(painter)
        painter.setClipRect(QRectF(self._left, 0, self.width(), self.height()))
        self._paint_pitch(painter)
        self._paint_hints(painter)
        painter.setPen(QPen(theme.color("accent"), 1.5))
        x = self._x(self._playhead_s)
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.setClipping(False)
        self._paint_names(painter)

    def _paint_sound(self, painter: QPainter) -> None:
        if self._image is None:
            self._image = self._drawn()
        hop_s = self._spectrogram.hop_s if self._spectrogram is not None else 1.0
        start, end = (time_s / hop_s for time_s in self._span_s)
        source = QRectF(start, 0, end - start, self._image.height())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(self._left, 0, self.width() - self._left, self.height()), self._image, source)

    def _drawn(self) -> QImage:
        """Shades of the theme's ink on its panel."""
        shade = self._spectrogram.shade[::-1] ** 1.6 if self._spectrogram is not None else np.zeros((1, 1))
        ground, ink = self._theme.color("panel"), self._theme.color("claim")
        table = [
            QColor(
                *(round(a + (b - a) * i / 255) for a, b in zip(ground.getRgb()[:3], ink.getRgb()[:3], strict=True))
            ).rgb()
            for i in range(256)
        ]
        indices = np.ascontiguousarray((shade * 255).astype(np.uint8))
        height, width = indices.shape
        image = QImage(indices.data, width, height, width, QImage.Format.Format_Indexed8)
        image.setColorTable(table)
        return image.convertToFormat(QImage.Format.Format_RGB32)

    def _paint_pitch(self, painter: QPainter) -> None:
        frames = self._track.span(*self._span_s)
        midi = self._midi[frames]
        if midi.size == 0:
            return
        x = self._x(self._track.times_s[frames])
        painter.setPen(QPen(self._theme.color("measured"), 2))
        draw_unbroken(painter, x, self._y(midi), breaks=np.isnan(np.diff(midi)), shortest=2)

    def _paint_hints(self, painter: QPainter) -> None:
        painter.setPen(QPen(self._theme.color("accent"), 1.5, Qt.PenStyle.DashLine))
        for hint in self._hints:
            top, bottom = float(self._y(hint.high_midi)), float(self._y(hint.low_midi))
            left, right = self._x(hint.start_s), self._x(hint.end_s)
            painter.drawRect(QRectF(left, top, right - left, bottom - top))
        if self._pressed is not None and self._dragged is not None:
            painter.drawRect(QRectF(self._pressed, self._dragged).normalized())

    def _paint_names(self, painter: QPainter) -> None:
        painter.setFont(figure_font(self._scale, size=0.8))
        for midi in range(36, int(HIGHEST_MIDI), 12):
            for step, name in ((0, midi_to_name(midi)), (4, midi_to_name(midi + 4)), (7, midi_to_name(midi + 7))):
                y = float(self._y(midi + step))
                painter.setPen(QPen(self._theme.color("hairline"), 1))
                painter.drawLine(QPointF(self._left - 4, y), QPointF(self._left, y))
                painter.setPen(self._theme.color("soft_ink"))
                box = QRectF(0, y - 8 * self._scale, self._left - 7, 16 * self._scale)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)


class HearBench(QWidget):
    """Focus, tuning and beat map, each with its evidence."""

    hear_requested = pyqtSignal(str)
    focus_changed = pyqtSignal(str)
    tap_requested = pyqtSignal()
    hint_given = pyqtSignal(object)
    focus_heard = pyqtSignal(bool)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._taps: list[float] = []
        self.picture = SoundPicture(self)
        self.focus_box = QComboBox()
        for focus in FOCUSES:
            self.focus_box.addItem(FOCUS_WORDS[focus], focus)
        self.focus_box.setAccessibleName("Focus")
        self.focus_box.currentIndexChanged.connect(lambda: self.focus_changed.emit(self.focus))
        self.band_box = QCheckBox("Only this band")
        self.band_low, self.band_high = QDoubleSpinBox(), QDoubleSpinBox()
        self.play_box = QCheckBox("Play what is listened to")
        self.show_box = QComboBox()
        self.show_box.addItems(["Show the sound", "Show how strong each pitch is"])
        self.show_box.setAccessibleName("What the picture shows")
        self.hint_facts = QLabel()
        self.forget_button = QPushButton("Forget the hints")
        self.hints: tuple[Hint, ...] = ()
        self.hear_button = QPushButton("Hear it again")
        self.hear_button.clicked.connect(lambda: self.hear_requested.emit(self.focus))
        self.tuning_box = QComboBox()
        self.tuning_box.setAccessibleName("Tuning")
        self.tuning_box.activated.connect(self._on_tuning_chosen)
        self.tuning_facts, self.beat_facts, self.recording_facts = QLabel(), QLabel(), QLabel()
        self.tempo_box, self.first_box, self.bar_box = QDoubleSpinBox(), QDoubleSpinBox(), QSpinBox()
        self.tap_button = QPushButton("Tap the beat")
        self.tap_button.clicked.connect(self.tap_requested)
        self._lay_out()
        self.forget_hints()
        self.picture.hint_drawn.connect(self._on_hint_drawn)
        self.forget_button.clicked.connect(self.forget_hints)
        for changed in (self.band_box.toggled, self.band_low.editingFinished, self.band_high.editingFinished):
            changed.connect(self._on_band_changed)
        self.show_box.currentIndexChanged.connect(lambda: self.focus_changed.emit(self.focus))
        self.play_box.toggled.connect(self.focus_heard)
        session.evidence_changed.connect(self._on_evidence_changed)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)

    @property
    def focus(self) -> str:
        return str(self.focus_box.currentData())

    @property
    def band_hz(self) -> tuple[float, float] | None:
        """The band listened to; None for all of it."""
        low, high = self.band_low.value(), self.band_high.value()
        return (low, high) if self.band_box.isChecked() and low < high else None

    @property
    def shows_strength(self) -> bool:
        return self.show_box.currentIndex() == 1

    @property
    def plays_focus(self) -> bool:
        return self.play_box.isChecked()

    def forget_hints(self) -> None:
        self.hints = ()
        self._show_hints()

    def _show_hints(self) -> None:
        self.picture.show_hints(self.hints)
        self.forget_button.setEnabled(bool(self.hints))
        given = f"{len(self.hints)} given. " if self.hints else ""
        self.hint_facts.setText(f"{given}Draw a box around the lead in the picture, or click on one note of it.")

    def _on_hint_drawn(self, hint: Hint) -> None:
        self.hints = (*self.hints, hint)
        self._show_hints()
        self.hint_given.emit(hint)

    def _on_band_changed(self) -> None:
        if self.band_low.value() >= self.band_high.value():
            self.band_high.setValue(self.band_low.value() + 100)
        self.focus_changed.emit(self.focus)

    def _lay_out(self) -> None:
        for box, low, high, unit, name in (
            (self.tempo_box, 20.0, 400.0, " beats/min", "Tempo"),
            (self.first_box, -60.0, 36000.0, " s", "First bar begins"),
        ):
            box.setRange(low, high)
            box.setSuffix(unit)
            box.setDecimals(2)
            box.setAccessibleName(name)
            box.setKeyboardTracking(False)
            box.editingFinished.connect(self._on_beats_typed)
        self.bar_box.setRange(1, 16)
        self.bar_box.setAccessibleName("Beats in a bar")
        self.bar_box.setKeyboardTracking(False)
        self.bar_box.valueChanged.connect(self._on_bar_typed)
        cards = QVBoxLayout()
        cards.addWidget(_card("Recording", self.recording_facts))
        for box, value, name in ((self.band_low, 200.0, "Band from"), (self.band_high, 1500.0, "Band to")):
            box.setRange(30, 10_000)
            box.setDecimals(0)
            box.setSuffix(" Hz")
            box.setValue(value)
            box.setAccessibleName(name)
            box.setKeyboardTracking(False)
        band = QWidget()
        band_row = QHBoxLayout(band)
        band_row.setContentsMargins(0, 0, 0, 0)
        band_row.addWidget(self.band_low)
        band_row.addWidget(QLabel("to"))
        band_row.addWidget(self.band_high, 1)
        cards.addWidget(_card("Listen to", self.focus_box, self.band_box, band, self.play_box, self.hear_button))
        cards.addWidget(_card("Where the lead is", self.show_box, self.hint_facts, self.forget_button))
        cards.addWidget(_card("Tuning", self.tuning_box, self.tuning_facts))
        form = QWidget()
        rows = QFormLayout(form)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.addRow("Tempo", self.tempo_box)
        rows.addRow("First bar at", self.first_box)
        rows.addRow("Beats in a bar", self.bar_box)
        cards.addWidget(_card("Pulse", form, self.tap_button, self.beat_facts))
        cards.addStretch(1)
        inside = QWidget()
        inside.setLayout(cards)
        side = QScrollArea()
        side.setWidget(inside)
        side.setWidgetResizable(True)
        side.setFrameShape(QFrame.Shape.NoFrame)
        side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side.setFixedWidth(360)
        self._side = side
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.picture, 1)
        row.addWidget(side)
        for label in (self.hint_facts, self.tuning_facts, self.beat_facts, self.recording_facts):
            label.setWordWrap(True)
            label.setProperty("soft", True)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.picture.show_theme(theme, scale)
        self._side.setFixedWidth(round(200 + 150 * scale))

    # --- showing ---
    def _on_evidence_changed(self) -> None:
        self.picture.show_track(self._session.document.track)
        self._show_tunings(self._session.tunings)

    def _on_opened(self) -> None:
        document = self._session.document
        self.forget_hints()
        clip = document.clip
        self.picture.show_track(document.track)
        self.hear_button.setEnabled(clip is not None)
        if clip is None:
            self.recording_facts.setText("Written without a recording.")
        else:
            channels = {1: "mono", 2: "stereo"}.get(clip.channels, f"{clip.channels} channels")
            self.recording_facts.setText(
                f"{clip.name}\n{clip.duration_s:.1f} s, {clip.sample_rate / 1000:g} kHz, {channels}"
            )
        self._show_tunings(self._session.tunings)

    def _show_tunings(self, proposals: tuple[TuningProposal, ...]) -> None:
        self.tuning_box.clear()
        for proposal in proposals:
            self.tuning_box.addItem(f"{proposal.name}   {proposal.likelihood:.0%}", proposal)
        self.tuning_box.setEnabled(bool(proposals))
        if not proposals:
            self.tuning_box.addItem("as saved in the document")

    def _on_score_changed(self) -> None:
        score = self._session.score
        self.tuning_facts.setText(self._tuning_words(score))
        tempo = score.beat_map.tempo_bpm
        for box in (self.tempo_box, self.first_box, self.bar_box):
            box.blockSignals(True)
        self.tempo_box.setValue(tempo or 100.0)
        self.bar_box.setValue(score.beat_map.meter[0])
        if score.beat_map.first_beat_s is not None:
            self.first_box.setValue(score.beat_map.first_beat_s)
        for box in (self.tempo_box, self.first_box, self.bar_box):
            box.blockSignals(False)
        if tempo is None:
            self.beat_facts.setText("No pulse found: tap four beats along with the recording, or type the tempo.")
        else:
            self.beat_facts.setText(f"{score.beat_map.meter[0]} beats to a bar, {60 / tempo:.3f} s a beat.")

    def _tuning_words(self, score: Score) -> str:
        tuning = score.tuning
        words = [f"{tuning.string_names}, from the highest", f"{tuning.offset_cents:+.1f} cents from A = 440 Hz"]
        for proposal in self._session.tunings:
            if proposal.tuning.open_midi == tuning.open_midi:
                words.append(proposal.evidence)
        return "\n".join(words)

    # --- choosing ---
    def _on_tuning_chosen(self) -> None:
        proposal = self.tuning_box.currentData()
        if isinstance(proposal, TuningProposal):
            self._session.retune(proposal.tuning, proposal.name)

    def _on_beats_typed(self) -> None:
        score = self._session.score
        now = (score.beat_map.tempo_bpm or 0.0, score.beat_map.first_beat_s or 0.0)
        typed = (self.tempo_box.value(), self.first_box.value())
        if abs(now[0] - typed[0]) > 0.005 or abs(now[1] - typed[1]) > 0.005:
            self._session.set_beat_map(BeatMap.steady(typed[0], typed[1], score.beat_map.meter), "Set pulse")

    def _on_bar_typed(self, beats: int) -> None:
        beat_map = self._session.score.beat_map
        self._session.set_beat_map(replace(beat_map, meter=(beats, beat_map.meter[1])), f"{beats} beats in a bar")

    def tap(self, at_s: float, *, along: bool) -> None:
        """Take one tap, in seconds of the recording when it plays along; from the fourth on taps set the beat map."""
        if self._taps and not 0 < at_s - self._taps[-1] < TAP_PAUSE_S:
            self._taps = []
        self._taps.append(at_s)
        if len(self._taps) < TAPS_NEEDED:
            self.beat_facts.setText(f"Tap {TAPS_NEEDED - len(self._taps)} more …")
            return
        beat_map = beat_map_from_taps(self._taps, self._session.score.beat_map.meter)
        if not along and beat_map.tempo_bpm is not None:  # taps in silence say how fast, not where
            beat_map = BeatMap.steady(beat_map.tempo_bpm, self.first_box.value(), beat_map.meter)
        self._session.set_beat_map(beat_map, "Tap the pulse")


def _card(title: str, *widgets: QWidget) -> QFrame:
    card = QFrame()
    card.setProperty("card", True)
    column = QVBoxLayout(card)
    column.setContentsMargins(12, 8, 12, 10)
    label = QLabel(title)
    label.setProperty("title", True)
    column.addWidget(label)
    for widget in widgets:
        column.addWidget(widget)
    return card
