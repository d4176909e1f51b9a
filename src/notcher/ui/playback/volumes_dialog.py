"""How loud each part is and where it stands; heard while the slider moves."""

from collections.abc import Callable, Mapping
from functools import partial
from types import MappingProxyType

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QSlider, QWidget

from notcher.core.mixing import MissingPart, missing_part_words
from notcher.ui.state.settings import BY_NAME, PARTS, Settings
from notcher.ui.widgets.plain import Label

STEP = 5  # percent


class VolumesDialog(QDialog):
    """Two sliders each. changed: called at each step, once the setting is stored. missing: what cannot be heard."""

    def __init__(
        self,
        settings: Settings,
        changed: Callable[[], None],
        parent: QWidget | None = None,
        missing: Mapping[str, MissingPart] = MappingProxyType({}),
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Volumes")
        self._settings, self._changed = settings, changed
        grid = QGridLayout(self)
        self.sliders: dict[str, QSlider] = {}
        self._shown: dict[str, QLabel] = {}
        for column, words in ((1, "How loud"), (3, "Where: left to right")):
            grid.addWidget(Label(words), 0, column)
        for row, (part, words) in enumerate(PARTS.items(), start=1):
            grid.addWidget(Label(words), row, 0)
            for column, name, width in ((1, f"volume_{part}", 220), (3, f"side_{part}", 120)):
                setting = BY_NAME[name]
                slider = QSlider(Qt.Orientation.Horizontal)
                slider.setRange(round(setting.low), round(setting.high))
                slider.setSingleStep(STEP)
                slider.setPageStep(4 * STEP)
                slider.setMinimumWidth(width)
                slider.setAccessibleName(setting.label)
                slider.setValue(round(settings.get(name)))
                slider.valueChanged.connect(partial(self._on_moved, name))
                self.sliders[name], self._shown[name] = slider, Label()
                self._shown[name].setMinimumWidth(64)
                grid.addWidget(slider, row, column)
                grid.addWidget(self._shown[name], row, column + 1)
                self._show(name)
        self.missing = Label("\n".join(missing_part_words(why) for why in dict.fromkeys(missing.values())))
        self.missing.setProperty("soft", True)
        self.missing.setVisible(bool(missing))
        grid.addWidget(self.missing, len(PARTS) + 1, 0, 1, 5)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        grid.addWidget(buttons, len(PARTS) + 2, 0, 1, 5)

    def _on_moved(self, name: str, percent: int) -> None:
        self._settings.set(name, float(percent))
        self._show(name)
        self._changed()

    def _show(self, name: str) -> None:
        value = self.sliders[name].value()
        side = "middle" if not value else f"{abs(value)} % {'right' if value > 0 else 'left'}"
        self._shown[name].setText(side if name.startswith("side_") else f"{value} %")
