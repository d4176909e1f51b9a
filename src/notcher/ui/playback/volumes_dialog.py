"""How loud the recording, the tab, the band and the clicks are; heard while the slider moves."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QLabel, QSlider, QWidget

from notcher.ui.state.settings import BY_NAME, VOLUMES, Settings

STEP = 5


class VolumesDialog(QDialog):
    """One slider each. changed: called at each step, once the setting is stored."""

    def __init__(self, settings: Settings, changed: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Volumes")
        self._settings, self._changed = settings, changed
        grid = QGridLayout(self)
        self.sliders: dict[str, QSlider] = {}
        self._shown: dict[str, QLabel] = {}
        for row, name in enumerate(VOLUMES):
            setting = BY_NAME[name]
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setRange(round(setting.low), round(setting.high))
            slider.setSingleStep(STEP)
            slider.setPageStep(4 * STEP)
            slider.setMinimumWidth(240)
            slider.setAccessibleName(setting.label)
            slider.setValue(round(settings.get(name)))
            slider.valueChanged.connect(partial(self._on_moved, name))
            self.sliders[name], self._shown[name] = slider, QLabel()
            self._shown[name].setMinimumWidth(56)
            for column, widget in enumerate((QLabel(setting.label), slider, self._shown[name])):
                grid.addWidget(widget, row, column)
            self._show(name)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        grid.addWidget(buttons, len(VOLUMES), 0, 1, 3)

    def _on_moved(self, name: str, percent: int) -> None:
        self._settings.set(name, float(percent))
        self._show(name)
        self._changed()

    def _show(self, name: str) -> None:
        self._shown[name].setText(f"{self.sliders[name].value()} %")
