"""The reel: the strip of the whole recording, and under it the transport."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from notcher.core.words import Naming, clock
from notcher.devices import Footswitch, GuitarInput, Loudspeaker
from notcher.painting.theme import Theme
from notcher.ui.playback.player import Player
from notcher.ui.reel.strip import ReelStrip
from notcher.ui.widgets.elided_label import ElidedLabel
from notcher.ui.widgets.plain import Label

PACES = (25, 150)  # percent of full speed; as transport.SLOWEST and FASTEST
HEARD = {"recording": "Recording", "tab": "Tab", "both": "Recording + tab", "band": "Band", "mix": "Full mix"}
"""What can be heard, by the name of its source."""
SOURCE_CHARS, SOURCE_PX = 5, 240
"""Of the box that shows what is heard: how narrow it may be, characters, and how wide, px."""
LARGE_TEXT = 1.5  # times the usual size: from here on a button of the row is shortened
DEVICE_NAMES = ("loudspeaker", "guitar", "footswitch")
Device = Loudspeaker | GuitarInput | Footswitch


class Reel(QWidget):
    """The strip and the transport: play, loop, pace, count-in, clock, and which loudspeaker it is."""

    loop_phrase_requested = pyqtSignal()
    volumes_requested = pyqtSignal()
    rounds_requested = pyqtSignal()
    source_requested = pyqtSignal(str)

    def __init__(self, player: Player, devices: Sequence[Device], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._player = player
        self._naming = Naming()
        self.strip = ReelStrip(self)
        self.play_button = QPushButton("Play")
        self.play_button.setMinimumWidth(96)
        self.play_button.clicked.connect(player.toggle)
        self.loop_button = QPushButton("Loop phrase")
        self.loop_button.setCheckable(True)
        self.loop_button.clicked.connect(self._on_loop_clicked)
        self.source_box = QComboBox()
        self.source_box.setAccessibleName("What is heard")
        for source, words in HEARD.items():
            self.source_box.addItem(words, source)
        # with large text it may be narrower than its longest words
        self.source_box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.source_box.setMinimumContentsLength(SOURCE_CHARS)
        self.source_box.setMaximumWidth(SOURCE_PX)
        self.source_box.activated.connect(lambda at: self.source_requested.emit(self.source_box.itemData(at)))
        self.pace_slider = QSlider(Qt.Orientation.Horizontal)
        self.pace_slider.setRange(*PACES)
        self.pace_slider.setPageStep(10)
        self.pace_slider.setSingleStep(5)
        self.pace_slider.setMinimumWidth(50)
        self.pace_slider.setMaximumWidth(190)
        self.pace_slider.setAccessibleName("Pace")
        self.pace_slider.valueChanged.connect(lambda percent: player.set_pace(percent / 100))
        self.pace_label, self.reason_label = Label(), ElidedLabel(Qt.AlignmentFlag.AlignLeft)
        self.reason_label.setProperty("soft", True)
        self.count_in_box = QCheckBox("Count-in")
        self.count_in_box.toggled.connect(player.set_count_in)
        self.rounds_button = QPushButton("Rounds…")
        self.rounds_button.clicked.connect(self.rounds_requested)
        self.volumes_button = QPushButton("Volumes…")
        self.volumes_button.clicked.connect(self.volumes_requested)
        self.clock_label, self.length_label = Label(), ElidedLabel(Qt.AlignmentFlag.AlignLeft)
        self.device_label = ElidedLabel()
        self.device_label.setProperty("soft", True)
        for widget in (
            self.play_button, self.source_box, self.loop_button, self.pace_slider, self.count_in_box,
            self.rounds_button, self.volumes_button,
        ):  # fmt: skip
            widget.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keys where they are
        self.tell_devices(devices)
        self._lay_out()
        player.state_changed.connect(self._on_state)
        self._on_state()
        self.show_time(0.0)

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        for widget in (self.play_button, self.source_box, self.loop_button, self.pace_slider, self.pace_label):
            row.addWidget(widget, {self.pace_slider: 3, self.source_box: 2}.get(widget, 0))
        row.addWidget(self.reason_label, 1)
        row.addWidget(self.count_in_box)
        row.addWidget(self.rounds_button)
        row.addWidget(self.volumes_button)
        row.addSpacing(8)
        row.addWidget(self.clock_label)
        row.addWidget(self.length_label, 1)
        row.addWidget(self.device_label, 1)
        row.setSpacing(10)
        row.setContentsMargins(10, 6, 10, 8)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addLayout(row)

    def show_theme(self, theme: Theme, scale: float) -> None:
        self.rounds_button.setText("Rounds…" if scale < LARGE_TEXT else "…")
        self.strip.show_theme(theme, scale)

    def show_source(self, source: str, keys_of: Callable[[str], str] = lambda _source: "") -> None:
        """Show what is heard. keys_of: by which keys each can be chosen."""
        for at, (name, words) in enumerate(HEARD.items()):
            keys = keys_of(name)
            self.source_box.setItemText(at, f"{words} ({keys})" if keys else words)
        self.source_box.setCurrentIndex(self.source_box.findData(str(source)))

    def tell_devices(self, devices: Sequence[Device]) -> None:
        """Say which devices are not there and what stands in for them."""
        simulated = [name for name, device in zip(DEVICE_NAMES, devices, strict=True) if device.simulated]
        named = "all devices" if len(simulated) == len(DEVICE_NAMES) else ", ".join(simulated)
        self.device_label.setText(f"Simulated: {named}" if simulated else "")
        self.device_label.setToolTip("\n".join(device.description for device in devices))

    def _on_loop_clicked(self, wanted: bool) -> None:
        if wanted:
            self.loop_phrase_requested.emit()
        else:
            self._player.set_loop(None)
        self._on_state()

    def _on_state(self) -> None:
        player = self._player
        self.play_button.setText("Preparing…" if player.preparing else "Stop" if player.playing else "Play")
        self.loop_button.setChecked(player.loop_span is not None)
        self.loop_button.setText("Loop off" if player.loop_span is not None else "Loop phrase")
        percent = round(player.pace * 100)
        self.pace_slider.blockSignals(True)
        self.pace_slider.setValue(percent)
        self.pace_slider.blockSignals(False)
        from_s = player.loop_span[0] if player.loop_span is not None else player.time_s
        tempo = player.beat_map.tempo_at(from_s) if player.beat_map.known else None
        beats = f" · {tempo * player.pace:.0f} bpm" if tempo else ""
        self.pace_label.setText(f"{percent} %{beats}")
        self.reason_label.setText("" if percent == 100 else str(player.pace_reason))
        why = "" if percent == 100 else f"{percent} % of the recorded tempo: {player.pace_reason}"
        self.pace_label.setToolTip(why)
        self.pace_slider.setAccessibleDescription(why)
        self.count_in_box.blockSignals(True)
        self.count_in_box.setChecked(player.count_in)
        self.count_in_box.blockSignals(False)
        self.strip.show_loop(player.loop_span)
        self.show_time(player.time_s)

    def set_naming(self, naming: Naming) -> None:
        self._naming = naming
        self.show_time(self._player.time_s)

    def show_time(self, time_s: float) -> None:
        """Put the playhead and the clock at a time."""
        length_s = self._player.clip.duration_s if self._player.clip is not None else 0.0
        for label, text in (
            (self.clock_label, clock(time_s, self._naming)),
            (self.length_label, f"of {clock(length_s, self._naming)}"),
        ):
            if text != label.text():
                label.setText(text)
        self.strip.show_playhead(time_s)
