"""What the first picture of the window needs of the settings: read without loading anything else."""

from dataclasses import dataclass

from PyQt6.QtCore import QByteArray, QSettings

THEME_NAMES, TEXT_SCALES = ("paper", "stage"), (0.8, 2.0)
GEOMETRY = "window"


@dataclass(frozen=True, slots=True)
class Look:
    """The theme's name, the text's scale, the files opened lately, and where the window was left (empty if nowhere)."""

    theme: str
    text_scale: float
    recent: tuple[str, ...]
    geometry: QByteArray


def stored() -> QSettings:
    """Return where everything is remembered."""
    return QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, "notcher", "notcher")


def look_of(store: QSettings) -> Look:
    """Return how the window shall look; what is stored and cannot be is as good as nothing."""
    theme = str(store.value("theme", THEME_NAMES[0]))
    try:
        scale = float(store.value("text_scale", 1.0))
    except (TypeError, ValueError):
        scale = 1.0
    geometry = store.value(GEOMETRY)
    return Look(
        theme if theme in THEME_NAMES else THEME_NAMES[0],
        scale if TEXT_SCALES[0] <= scale <= TEXT_SCALES[1] else 1.0,
        tuple(recent_of(store)),
        geometry if isinstance(geometry, QByteArray) else QByteArray(),
    )


def recent_of(store: QSettings) -> list[str]:
    """Return the paths opened lately, newest first; what is no text is as good as none."""
    value = store.value("recent", "")
    return [path for path in value.split("\n") if path] if isinstance(value, str) else []
