"""The Hear bench: what part of the recording is analysed, what was heard, in which tuning and on which beats."""

from dataclasses import dataclass, replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from notcher.core.hearing import Hint, TuningProposal, beat_map_from_taps
from notcher.core.score import BeatMap, Meter, Score
from notcher.core.score.edits import with_meter
from notcher.core.sound import FOCUSES
from notcher.core.words import USUAL, Naming, evidence_words, figure, many, seconds, tuning_name, tuning_words
from notcher.painting.theme import Theme
from notcher.ui.benches.hear.sound_picture import SoundPicture
from notcher.ui.state.session import Session
from notcher.ui.widgets.cards import card
from notcher.ui.widgets.plain import Label

FOCUS_WORDS = {
    "auto": "Only the middle (usual)",
    "mid": "Both sides together",
    "left": "Left side",
    "right": "Right side",
    "side": "What the sides do not share (left − right)",
}
UNIT_NAMES = {2: "halves", 4: "quarters", 8: "eighths", 16: "sixteenths", 1: "wholes"}
BEAT_NAMES = {
    4.0: "whole note",
    2.0: "half",
    1.5: "dotted quarter",
    1.0: "quarter",
    0.75: "dotted eighth",
    0.5: "eighth",
    0.25: "sixteenth",
}
TAPS_NEEDED, TAP_PAUSE_S = 4, 2.5  # three gaps give a median; a longer pause begins anew


@dataclass(frozen=True, slots=True)
class Focus:
    """What of the recording is analysed. name: one of `FOCUSES`. band_hz: only what lies between; None for all."""

    name: str = "auto"
    band_hz: tuple[float, float] | None = None


class HearBench(QWidget):
    """Focus, tuning and beat map, each with its evidence."""

    draft_requested = pyqtSignal()
    focus_changed = pyqtSignal()  # another part is analysed, shown or played
    tap_requested = pyqtSignal()
    tuning_requested = pyqtSignal()
    hint_given = pyqtSignal(object)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._taps: list[float] = []
        self._naming = USUAL
        self.picture = SoundPicture(self)
        self.focus_box = QComboBox()
        for focus in FOCUSES:
            self.focus_box.addItem(FOCUS_WORDS[focus], focus)
        self.focus_box.setAccessibleName("Focus")
        self.focus_box.currentIndexChanged.connect(lambda: self.focus_changed.emit())
        self.band_box = QCheckBox("Only these frequencies")
        self.band_box.setToolTip("Follow the lead only between two frequencies")
        self.band_low, self.band_high = QDoubleSpinBox(), QDoubleSpinBox()
        self.play_box = QCheckBox("Play back only what is kept")
        self.play_box.setToolTip("Hear only the part of the recording that is listened to")
        self.show_box = QComboBox()
        self.show_box.addItems(["Show the sound", "Show how strong each pitch is"])
        self.show_box.setAccessibleName("What the picture shows")
        self.hint_facts = Label()
        self.forget_button = QPushButton("Clear the boxes")
        self.hints: tuple[Hint, ...] = ()
        self.hear_button = QPushButton("Transcribe again")
        self.hear_button.clicked.connect(lambda: self.draft_requested.emit())
        self.tuning_box = QComboBox()
        self.tuning_box.setAccessibleName("Tuning")
        self.tuning_box.activated.connect(self._on_tuning_chosen)
        self.tuning_button = QPushButton("Tuning and capo…")
        self.tuning_button.clicked.connect(self.tuning_requested)
        self.tuning_facts, self.beat_facts, self.recording_facts = Label(), Label(), Label()
        self.tempo_box, self.first_box, self.pickup_box = QDoubleSpinBox(), QDoubleSpinBox(), QDoubleSpinBox()
        self.beats_box, self.unit_box = QSpinBox(), QComboBox()
        self.tap_button = QPushButton("Tap the beat")
        self.tap_button.clicked.connect(self.tap_requested)
        self._lay_out()
        self.forget_hints()
        self.picture.hint_drawn.connect(self._on_hint_drawn)
        self.forget_button.clicked.connect(self.forget_hints)
        for changed in (self.band_box.toggled, self.band_low.editingFinished, self.band_high.editingFinished):
            changed.connect(self._on_band_changed)
        self.show_box.currentIndexChanged.connect(lambda: self.focus_changed.emit())
        self.play_box.toggled.connect(lambda: self.focus_changed.emit())
        session.evidence_changed.connect(self._on_evidence_changed)
        session.opened.connect(self._on_opened)
        session.score_changed.connect(self._on_score_changed)

    @property
    def focus(self) -> Focus:
        """What of the recording is analysed."""
        return Focus(str(self.focus_box.currentData()), self.band_hz)

    @property
    def band_hz(self) -> tuple[float, float] | None:
        """The band listened to; None for all of it."""
        low, high = self.band_low.value(), self.band_high.value()
        return (low, high) if self.band_box.isChecked() and low < high else None

    @property
    def shows_strength(self) -> bool:
        return self.show_box.currentIndex() == 1

    def show_heard(self, focus: str) -> None:
        """Take which focus a recording was heard with, by itself or as it was chosen."""
        self.focus_box.setCurrentIndex(max(0, self.focus_box.findData(focus)))

    @property
    def plays_focus(self) -> bool:
        return self.play_box.isChecked()

    def forget_hints(self) -> None:
        self.hints = ()
        self._show_hints()

    def _show_hints(self) -> None:
        self.picture.show_hints(self.hints)
        self.forget_button.setEnabled(bool(self.hints))
        count_words = f"{len(self.hints)} given. " if self.hints else ""
        self.hint_facts.setText(
            f"{count_words}Draw a box around the lead in the picture, or click on one note of it with Ctrl held."
        )

    def _on_hint_drawn(self, hint: Hint) -> None:
        self.hints = (*self.hints, hint)
        self._show_hints()
        self.hint_given.emit(hint)

    def _on_band_changed(self) -> None:
        if self.band_low.value() >= self.band_high.value():
            self.band_high.setValue(self.band_low.value() + 100)
        self.focus_changed.emit()

    def _lay_out(self) -> None:
        self._set_up_boxes()
        cards = QVBoxLayout()
        cards.addWidget(card("Recording", self.recording_facts))
        cards.addWidget(
            card("Listen to", self.focus_box, self.band_box, self._band_row(), self.play_box, self.hear_button)
        )
        cards.addWidget(card("Beat", self._beat_form(), self.tap_button, self.beat_facts))
        cards.addWidget(card("Tuning", self.tuning_box, self.tuning_facts, self.tuning_button))
        cards.addWidget(card("Where the lead is", self.show_box, self.hint_facts, self.forget_button))
        cards.addStretch(1)
        inside = QWidget()
        inside.setLayout(cards)
        self._side = side = QScrollArea()
        side.setAccessibleName("Beat, tuning, and where the lead is")
        side.setWidget(inside)
        side.setWidgetResizable(True)
        side.setFrameShape(QFrame.Shape.NoFrame)
        side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side.setFixedWidth(360)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.picture, 1)
        row.addWidget(side)
        for label in (self.hint_facts, self.tuning_facts, self.beat_facts, self.recording_facts):
            label.setWordWrap(True)
            label.setProperty("soft", True)

    def _set_up_boxes(self) -> None:
        """Say of each box what it takes, in which unit, and what a change of it does."""
        for box, low, high, step, unit, name, typed in (
            (self.tempo_box, 20.0, 400.0, 1.0, " beats/min", "Tempo", self._on_beats_typed),
            (self.first_box, -60.0, 36000.0, 1.0, " s", "First bar begins", self._on_beats_typed),
            (self.pickup_box, 0.0, 15.75, 0.5, " quarters", "Lead-in", self._on_pickup_typed),
        ):
            box.setRange(low, high)
            box.setSingleStep(step)
            box.setSuffix(unit)
            box.setDecimals(2)
            box.setAccessibleName(name)
            box.setKeyboardTracking(False)
            box.editingFinished.connect(typed)
        self.beats_box.setRange(1, 32)
        self.beats_box.setAccessibleName("Written beats to a bar")
        self.beats_box.setKeyboardTracking(False)
        self.beats_box.editingFinished.connect(self._on_meter_chosen)
        self.unit_box.setAccessibleName("Note value of a written beat")
        for unit_value, called in UNIT_NAMES.items():
            self.unit_box.addItem(called, unit_value)
        self.unit_box.activated.connect(lambda _at: self._on_meter_chosen())
        for box, value, name in ((self.band_low, 200.0, "Band from"), (self.band_high, 1500.0, "Band to")):
            box.setRange(30, 10_000)
            box.setDecimals(0)
            box.setSuffix(" Hz")
            box.setValue(value)
            box.setAccessibleName(name)
            box.setKeyboardTracking(False)

    def _band_row(self) -> QWidget:
        band = QWidget()
        row = QHBoxLayout(band)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.band_low)
        row.addWidget(Label("to"))
        row.addWidget(self.band_high, 1)
        return band

    def _beat_form(self) -> QWidget:
        form, meter = QWidget(), QHBoxLayout()
        meter.addWidget(self.beats_box)
        meter.addWidget(self.unit_box, 1)
        rows = QFormLayout(form)
        rows.setContentsMargins(0, 0, 0, 0)
        for name, field in (("Tempo", self.tempo_box), ("First bar at", self.first_box)):
            rows.addRow(name, field)
        rows.addRow("A bar has", meter)
        rows.addRow("Lead-in", self.pickup_box)
        return form

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.picture.set_naming(naming)
        self._on_score_changed()

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.picture.show_theme(theme, scale)
        inside, bar = self._side.widget(), self._side.verticalScrollBar()
        if inside is not None and bar is not None:
            wide = inside.minimumSizeHint().width() + bar.sizeHint().width()
            self._side.setFixedWidth(max(wide, round(200 + 150 * scale)))

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
                f"{clip.name}\n{seconds(clip.duration_s, 1, self._naming)}, {clip.sample_rate / 1000:g} kHz, {channels}"
            )
        self._show_tunings(self._session.tunings)

    def _show_tunings(self, proposals: tuple[TuningProposal, ...]) -> None:
        self.tuning_box.clear()
        for proposal in proposals:
            self.tuning_box.addItem(f"{tuning_name(proposal.name)}   {proposal.likelihood:.0%}", proposal)
        self.tuning_box.setVisible(bool(proposals))

    def _on_score_changed(self) -> None:
        score = self._session.score
        self.tuning_facts.setText(self._tuning_words(score))
        tempo = score.beat_map.tempo_bpm
        boxes = (self.tempo_box, self.first_box, self.beats_box, self.unit_box, self.pickup_box)
        for box in boxes:
            box.blockSignals(True)
        self.tempo_box.setValue(tempo or 100.0)
        self.beats_box.setValue(score.beat_map.meter.beats)
        self.unit_box.setCurrentIndex(self.unit_box.findData(score.beat_map.meter.unit))
        self.pickup_box.setValue(score.beat_map.pickup)
        if score.beat_map.first_beat_s is not None:
            self.first_box.setValue(score.beat_map.first_beat_s)
        for box in boxes:
            box.blockSignals(False)
        if tempo is None:
            self.beat_facts.setText("No beats found: tap four along with the recording, or type the tempo.")
        else:
            meter = score.beat_map.meter
            self.beat_facts.setText(
                f"{many(meter.felt, 'beat')} to a bar, each a {BEAT_NAMES[meter.beat_quarters]}: "
                f"{figure(60 / tempo, 3, naming=self._naming)} s a beat."
            )

    def _tuning_words(self, score: Score) -> str:
        words = [tuning_words(score.tuning, self._naming)]
        for proposal in self._session.tunings:
            if proposal.tuning.open_midi == score.tuning.open_midi:
                words.append(evidence_words(proposal.evidence, proposal.tuning, self._naming))
        return "\n".join(words)

    # --- choosing ---
    def _on_tuning_chosen(self) -> None:
        proposal = self.tuning_box.currentData()
        if isinstance(proposal, TuningProposal):
            self._session.retune(replace(proposal.tuning, capo=self._session.score.tuning.capo))

    def _on_beats_typed(self) -> None:
        beat_map = self._session.score.beat_map
        now = (beat_map.tempo_bpm or 0.0, beat_map.first_beat_s or 0.0)
        typed = (self.tempo_box.value(), self.first_box.value())
        if abs(now[0] - typed[0]) > 0.005 or abs(now[1] - typed[1]) > 0.005:
            even = BeatMap.steady(*typed, beat_map.meter)
            self._session.set_beat_map(replace(beat_map, anchors=even.anchors), "Set the beat")

    def _on_meter_chosen(self) -> None:
        """Take the meter that the solo begins in."""
        score, meter = self._session.score, Meter(self.beats_box.value(), int(self.unit_box.currentData()))
        if meter == score.beat_map.meter:
            return
        try:
            changed = with_meter(score, 1, meter, keeps_felt=self._session.document.clip is not None)
        except ValueError as problem:
            self._on_score_changed()
            self.beat_facts.setText(f"Not changed: {problem}.")
            return
        self._session.edit(f"Meter {meter}", changed)

    def _on_pickup_typed(self) -> None:
        beat_map, pickup = self._session.score.beat_map, self.pickup_box.value()
        if abs(beat_map.pickup - pickup) < 1e-6:
            return
        try:
            self._session.set_beat_map(replace(beat_map, pickup=pickup), "Lead-in")
        except ValueError as problem:
            self.beat_facts.setText(f"Not changed: {problem}.")
            self.pickup_box.setValue(beat_map.pickup)

    def tap(self, at_s: float, *, along: bool) -> str:
        """Take one tap, in seconds of the recording when it plays along; from the fourth on taps set the beat map.

        Returns: what is to be said of it.
        """
        if self._taps and not 0 < at_s - self._taps[-1] < TAP_PAUSE_S:
            self._taps = []
        self._taps.append(at_s)
        if len(self._taps) < TAPS_NEEDED:
            self.beat_facts.setText(f"Tap {TAPS_NEEDED - len(self._taps)} more …")
            return self.beat_facts.text()
        before = self._session.score.beat_map
        # taps in silence say how fast, not where, and what clock they are told by began at any time
        since_s = 0.0 if along else self._taps[0]
        beat_map = beat_map_from_taps([tap_s - since_s for tap_s in self._taps], before.meter)
        if not along and beat_map.tempo_bpm is not None:
            beat_map = BeatMap.steady(beat_map.tempo_bpm, self.first_box.value(), before.meter)
        continues = len(self._taps) > TAPS_NEEDED  # all taps of a run are one step
        self._session.set_beat_map(replace(before, anchors=beat_map.anchors), "Tap the beat", continues=continues)
        return self.beat_facts.text()
