"""How loud each part is."""

from dataclasses import fields

from notcher.core.mixing import Levels


def test_everything_sounds_as_it_was_made_until_somebody_says_otherwise() -> None:
    levels = Levels()
    assert {field.name: getattr(levels, field.name) for field in fields(levels) if field.name != "places"} == {
        "recording": 1.0, "tab": 1.0, "band": 1.0, "click": 1.0, "lead": 1.0, "guitar": 0.0,
    }  # fmt: skip
