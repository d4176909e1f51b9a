"""The whole day, from a request to next week's lesson, rehearsed in a real window."""

from pathlib import Path

import pytest

from real_window import needs_a_screen, walked


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where the recordings of both lie; who comes first writes them."""
    return tmp_path_factory.mktemp("days")


@pytest.mark.slow
@needs_a_screen
@pytest.mark.parametrize(("which", "steps"), [("day", 25), ("others", 12)])
def test_the_day_is_walked_in_a_real_window(which: str, steps: int, folder: Path) -> None:
    assert f"{steps} steps done" in walked("drive_the_day.py", which, folder, timeout_s=280)
