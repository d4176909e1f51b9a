"""The settings are found by words, stand in groups, and each says in a sentence what it does."""

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox

from hands import act, gone, press, question
from notcher.ui.shell.program import Program
from notcher.ui.shell.settings_dialog import USUAL_ROWS, SettingsDialog

UNIT_WORDS = {
    "ms": "milliseconds", "s": "seconds", "min": "minutes", "mm": "millimetres", "%": "percent", "bpm": "beats",
    "cents": "cents", "rounds": "rounds", "×": "times", "dB(A)": "db(a)",
}  # fmt: skip


@pytest.mark.parametrize("setting", USUAL_ROWS, ids=lambda setting: setting.name)
def test_each_says_what_it_does_in_one_sentence_with_its_unit(setting) -> None:  # type: ignore[no-untyped-def]
    assert setting.help.endswith(".")
    assert setting.help.rstrip(".").count(". ") == 0
    unit = setting.unit.strip()
    if unit and setting.name != "text_scale":  # a factor of the usual size
        assert UNIT_WORDS[unit] in setting.help.lower()


@pytest.mark.parametrize(("words", "label"), [("dark", "Theme"), ("lefty left-handed", "Left-handed neck")])
def test_a_setting_is_found_by_words_and_changed_without_the_mouse(program: Program, words: str, label: str) -> None:
    act(program, "file.settings")
    dialog = question()
    assert isinstance(dialog, SettingsDialog)
    focused = QApplication.focusWidget()
    assert focused is dialog.search
    QTest.keyClicks(focused, words)
    press("Return")
    focused = QApplication.focusWidget()
    assert focused is not None
    assert focused.accessibleName() == label
    if isinstance(focused, QCheckBox):
        press("Space")
    else:
        press("Down")
    press("Return")
    gone(dialog)
    assert program.settings.get("left_handed" if label.startswith("Left") else "theme") in (True, "stage")
