"""The noise dose against the published table.

NIOSH Publication 98-126 (1998), table 1-1, combinations of level and duration that no worker may exceed; from memory.
"""

import math

import pytest

from notcher.core.teaching import allowed_minutes, noise_dose
from notcher.core.teaching.words import noise_words

TABLE = {80: 25 * 60 + 24, 83: 12 * 60 + 42, 85: 480, 86: 6 * 60 + 21, 88: 240, 90: 2 * 60 + 31, 91: 120, 94: 60,
         95: 47 + 37 / 60, 97: 30, 100: 15, 103: 7.5, 106: 3.75}  # fmt: skip


@pytest.mark.outside(
    what="how long a level may last",
    source="NIOSH Publication 98-126, 1998, table 1-1",
    tolerance="0.6 min",
    why="printed in whole minutes",
    kind="memory",
)
@pytest.mark.parametrize(("level", "minutes"), TABLE.items())
def test_the_allowed_time_is_that_of_the_table(level: int, minutes: float) -> None:
    assert allowed_minutes(level) == pytest.approx(minutes, abs=0.6)
    assert noise_dose(level, minutes) == pytest.approx(1.0, rel=0.01)


def test_doses_add_up() -> None:
    assert noise_dose(94, 20) + noise_dose(94, 40) == pytest.approx(noise_dose(94, 60))
    assert noise_dose(79.9, 600) == 0.0
    assert noise_dose(100, 0) == 0.0
    assert math.isinf(noise_dose(140, 1))
    with pytest.raises(ValueError, match="no time"):
        noise_dose(90, -1)


def test_the_dose_is_told_with_its_limit_and_whose_rules_go_first() -> None:
    said = noise_words(94, 30)
    assert "50 %" in said
    assert "NIOSH" in said
    assert "local rules" in said
    assert noise_words(79, 30) == ""
    assert "no time at all" in noise_words(140, 30)
