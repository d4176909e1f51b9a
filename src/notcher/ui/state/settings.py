"""Every setting in one table: name, default, bounds, words. The dialog, the checks and the defaults read it."""

from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QCheckBox, QComboBox, QDialog, QDialogButtonBox, QDoubleSpinBox, QFormLayout, QWidget

from notcher.core.proving import COLOURS, SKILLS, Thresholds
from notcher.core.teaching import ALONG

MOST_RECENT = 8
SWITCH_ACTIONS = (
    "Play or stop",
    "Record a take, or end it",
    "Loop the phrase, or stop looping",
    "Slower",
    "Faster",
    "Next phrase",
    "Next doubt",
)
"""Menu actions that make sense with both hands on the guitar."""


@dataclass(frozen=True)
class Setting:
    """One row of the table; `choices` for words, low and high for numbers, low_words for what the lowest one means."""

    name: str
    default: Any
    label: str
    help: str
    low: float = 0.0
    high: float = 0.0
    choices: tuple[str, ...] = ()
    unit: str = ""
    low_words: str = ""


SETTINGS = (
    Setting("theme", "paper", "Look", "Light for the desk or dark for the stage.", choices=("paper", "stage")),
    Setting("text_scale", 1.0, "Text size", "How large all text is.", 0.8, 2.0, unit=" ×"),
    Setting("pace", 0.5, "Pace at start", "How fast a loop begins, of the recorded tempo.", 0.25, 1.5, unit=" ×"),
    Setting("count_in", True, "Count-in", "A bar of clicks before a loop."),
    Setting("show_strokes", False, "Show pick strokes", "Draw over each note which way the pick goes."),
    Setting("amp", "clean", "The tab's sound", "The bare string, a clean amp or a driven one.", choices=COLOURS),
    Setting("along", "click", "Takes along with", "What is played while a student records.", choices=ALONG),
    Setting(
        "latency_ms", -1.0, "Input delay", "How late a take arrives; Play, Measure the delay finds it.",
        -1.0, 800.0, unit=" ms", low_words="not measured",
    ),
    Setting("take_clean_share", 5.0, "Clean: notes amiss", "At most so many notes missed, wrong or extra.",
            0.0, 50.0, unit=" %"),
    Setting("take_missed_share", 25.0, "Missed: notes amiss", "From more than so many missed or wrong notes on.",
            5.0, 100.0, unit=" %"),
    Setting("take_spread_ms", 35.0, "Clean: unevenness", "How far onsets may scatter around the player's own flow.",
            5.0, 150.0, unit=" ms"),
    Setting("take_bend_cents", 25.0, "Clean: bends", "How far off the middle one of a phrase's bends may land.",
            5.0, 100.0, unit=" cents"),
    Setting("guitarist", "steady hand", "Simulated guitarist", "Who plays where no guitar is plugged in.",
            choices=tuple(SKILLS)),
    Setting("switch_1", "Play or stop", "Footswitch 1", "What the first switch does.", choices=SWITCH_ACTIONS),
    Setting("switch_2", "Record a take, or end it", "Footswitch 2", "What the second switch does.",
            choices=SWITCH_ACTIONS),
    Setting("autosave_s", 15.0, "Autosave", "How often unsaved work is kept for a crash.", 2.0, 300.0, unit=" s"),
    Setting("nudge_ms", 10.0, "Nudge", "How far one key moves a note's onset.", 1.0, 100.0, unit=" ms"),
    Setting(
        "school", "position", "Placing school", "Stay in a position, travel along strings, or make it easy.",
        choices=("position", "string", "easy"),
    ),
    Setting(
        "stroke_school", "alternate", "Pick strokes", "Strictly down and up, economy, or sweeping over strings.",
        choices=("alternate", "economy", "sweep"),
    ),
)  # fmt: skip
BY_NAME = {setting.name: setting for setting in SETTINGS}


class Settings:
    """Remembers choices between starts; a stored value outside its bounds is as good as none."""

    def __init__(self, store: QSettings | None = None) -> None:
        self._store = store or QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, "notcher", "notcher")

    def get(self, name: str) -> Any:
        setting = BY_NAME[name]
        value = self._store.value(name, setting.default)
        try:
            if isinstance(setting.default, bool):
                return value in (True, "true")
            if isinstance(setting.default, float):
                number = float(value)
                return number if setting.low <= number <= setting.high else setting.default
        except (TypeError, ValueError):
            return setting.default
        return value if value in setting.choices else setting.default

    def set(self, name: str, value: Any) -> None:
        self._store.setValue(BY_NAME[name].name, value)

    def keys(self, action: str) -> str | None:
        """The keys that were chosen for an action; None where the usual ones stay."""
        value = self._store.value(f"keys/{action}")
        return None if value is None else str(value)

    def set_keys(self, action: str, keys: str | None) -> None:
        if keys is None:
            self._store.remove(f"keys/{action}")
        else:
            self._store.setValue(f"keys/{action}", keys)

    @property
    def thresholds(self) -> Thresholds:
        """When a take's phrase is clean and when it is missed."""
        return Thresholds(
            self.get("take_clean_share") / 100,
            self.get("take_missed_share") / 100,
            self.get("take_spread_ms"),
            self.get("take_bend_cents"),
        )

    @property
    def latency_s(self) -> float | None:
        """How late a take arrives; None until it was measured."""
        latency_ms = self.get("latency_ms")
        return None if latency_ms < 0 else latency_ms / 1000

    @property
    def recent(self) -> list[str]:
        """Paths opened lately, newest first."""
        value = self._store.value("recent", [])
        return [str(path) for path in ([value] if isinstance(value, str) else value or [])]

    def add_recent(self, path: str) -> None:
        self._store.setValue("recent", [path, *(old for old in self.recent if old != path)][:MOST_RECENT])


class SettingsDialog(QDialog):
    """One row a setting, made from the table."""

    def __init__(self, settings: Settings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Settings")
        self._settings, self._fields = settings, {}
        form = QFormLayout(self)
        for setting in SETTINGS:
            field = _field(setting, settings.get(setting.name))
            field.setToolTip(setting.help)
            field.setAccessibleName(setting.label)
            self._fields[setting.name] = field
            form.addRow(setting.label, field)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._on_accepted)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)

    def _on_accepted(self) -> None:
        for name, field in self._fields.items():
            self._settings.set(name, _value(field))
        self.accept()


def _field(setting: Setting, value: Any) -> QWidget:
    if isinstance(setting.default, bool):
        box = QCheckBox()
        box.setChecked(value)
        return box
    if setting.choices:
        choice = QComboBox()
        choice.addItems(setting.choices)
        choice.setCurrentText(value)
        return choice
    number = QDoubleSpinBox()
    number.setRange(setting.low, setting.high)
    number.setSingleStep(0.1 if setting.high <= 2 else 1.0)
    number.setDecimals(2 if setting.high <= 2 else 0)
    number.setSuffix(setting.unit)
    number.setSpecialValueText(setting.low_words)
    number.setValue(value)
    return number


def _value(field: QWidget) -> Any:
    if isinstance(field, QCheckBox):
        return field.isChecked()
    return field.currentText() if isinstance(field, QComboBox) else field.value()  # type: ignore[attr-defined]
