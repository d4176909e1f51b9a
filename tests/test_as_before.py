"""What the heart makes of the demo is what it made of it before; see `as_before`."""

import pytest

from as_before import HERE, OUTCOMES

LONG = ("takes", "gestures", "odd_files", "odd_sheets", "variants", "said")


@pytest.mark.parametrize("name", [pytest.param(n, marks=pytest.mark.slow) if n in LONG else n for n in OUTCOMES])
def test_it_comes_out_as_before(name: str) -> None:
    before = (HERE / f"{name}.txt").read_text("utf-8").splitlines()
    now = "\n".join(OUTCOMES[name]()).splitlines()
    other = [(at, a, b) for at, (a, b) in enumerate(zip(before, now, strict=False)) if a != b]
    assert not other[:3], f"{len(other)} lines of {name}.txt are others; if that is meant: ./dev same"
    assert len(now) == len(before)
