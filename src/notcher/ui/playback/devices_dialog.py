"""Which loudspeaker and which input are used; the lists follow what is plugged in."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QFormLayout, QWidget

from notcher.devices import PluggedInput, PluggedLoudspeaker, SoundServer
from notcher.ui.state.settings import Settings
from notcher.ui.widgets.plain import Label

USUAL = "The system's choice"
NONE_WORDS = "No loudspeaker or input is plugged in: simulated ones stand in. What is plugged in comes into the lists."


class DevicesDialog(QDialog):
    """A choice is used at once, and kept."""

    def __init__(
        self,
        server: SoundServer,
        speaker: PluggedLoudspeaker,
        guitar: PluggedInput,
        settings: Settings,
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Devices")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._server, self._settings = server, settings
        self._devices: dict[str, PluggedLoudspeaker | PluggedInput] = {"output": speaker, "input": guitar}
        self.boxes = {kind: QComboBox() for kind in self._devices}
        form = QFormLayout(self)
        for kind, words in (("output", "Loudspeaker"), ("input", "Guitar input")):
            box = self.boxes[kind]
            box.setAccessibleName(words)
            box.setMinimumContentsLength(28)
            box.activated.connect(lambda _at, kind=kind: self._on_chosen(kind))
            form.addRow(words, box)
        self.facts = Label()
        self.facts.setProperty("soft", True)
        self.facts.setWordWrap(True)
        form.addRow(self.facts)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        server.changed.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        plugged = self._server.plugged
        for kind, known in (("output", plugged.outputs), ("input", plugged.inputs)):
            box, chosen = self.boxes[kind], self._devices[kind].chosen
            box.clear()
            box.addItem(USUAL, "")
            for name, words in known.items():
                box.addItem(words, name)
            if chosen and chosen not in known:
                box.addItem(f"{chosen} (not plugged in)", chosen)
            box.setCurrentIndex(max(0, box.findData(chosen)))
        used = [f"In use: {device.description}" for device in self._devices.values() if not device.simulated]
        self.facts.setText("\n".join(used) or NONE_WORDS)

    def _on_chosen(self, kind: str) -> None:
        name = str(self.boxes[kind].currentData() or "")
        self._settings.keep_device(kind, name)
        self._devices[kind].choose(name)
        self._fill()
