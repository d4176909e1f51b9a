"""The page of outside checks is that of the marks, and each says what it is held to."""

import re

import pytest

from house import PICTURE, picture
from outside import COUNTED, NOT_COUNTED, PAGE, outside_checks, page


@pytest.mark.slow
def test_the_page_is_made_of_the_marks() -> None:
    assert PAGE.read_text("utf-8") == page(outside_checks()), "run ./dev checks"


@pytest.mark.slow
def test_sixty_different_facts_are_held_to_something_outside() -> None:
    checks = outside_checks()
    counted = {check.what for check in checks if check.kind in COUNTED}
    assert len(counted) >= 60
    assert len({check.what for check in checks}) == len(checks), "no fact is told twice"


@pytest.mark.slow
def test_each_mark_says_what_it_is_held_to() -> None:
    for check in outside_checks():
        assert check.kind in COUNTED | NOT_COUNTED, check.test
        assert all((check.what, check.source, check.tolerance, check.why)), check.test
        assert not re.search("from memory", check.source), f"{check.test}: remembered is a kind of its own"


def test_the_picture_of_the_house_is_that_of_its_rooms() -> None:
    assert PICTURE.read_text("utf-8") == picture(), "run ./dev checks"


@pytest.mark.parametrize("text", ["CONTRIBUTING.md", "README.md"])
def test_every_file_that_leads_in_is_there(text: str) -> None:
    """Where is ...? is answered by files that exist; so are pictures and pages."""
    root = PAGE.parents[1]
    words = (root / text).read_text("utf-8")
    named = set(re.findall(r"`((?:[a-z_]+/)+[a-z_0-9.]*)`", words)) | set(re.findall(r"\]\((?!http)([^)#]+)\)", words))
    named = {name for name in named if not name.startswith("ui/benches/NAME")}
    assert len(named) > 20
    missing = {name for name in named if not any((top / name).exists() for top in (root, root / "src" / "notcher"))}
    assert missing - {"hear/", "notch/", "prove/", "shapes/", "teach/", "sheets/", "ledger/", "dist/"} == set()
