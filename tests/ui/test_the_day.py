"""The whole day, from a request to next week's lesson, rehearsed in a real window."""

from pathlib import Path

import pytest

from real_window import needs_a_screen, walked


@pytest.mark.slow
@needs_a_screen
@pytest.mark.parametrize(("which", "steps"), [("day", 25), ("others", 12)])
def test_the_day_is_walked_in_a_real_window(which: str, steps: int, tmp_path: Path) -> None:
    assert f"{steps} steps done" in walked("drive_the_day.py", which, tmp_path, timeout_s=280)
