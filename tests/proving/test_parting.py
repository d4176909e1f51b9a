"""Where a claim and its evidence part."""

import numpy as np
import pytest

from notcher.core.hearing import Evidence
from notcher.core.proving import where_they_part
from notcher.core.score import Note, bent_curve

TIMES_S = np.arange(0.0, 1.0, 0.0058)
BENT = Note(1.0, 2.0, 3, 12, curve=bent_curve(2, 1.0, rise_s=0.2))


@pytest.mark.parametrize("share", [0.75, 1.2])
def test_at_the_top_when_the_top_is_off(share: float) -> None:
    found = where_they_part(BENT, Evidence(TIMES_S, share * BENT.curve.at(TIMES_S)))
    assert found is not None
    assert found.time_s > 0.2
    assert found.cents == pytest.approx(200 * (share - 1), abs=1)


def test_a_late_push_is_not_taken_for_a_flat_one() -> None:
    late = BENT.curve.at(np.maximum(TIMES_S - 0.05, 0)) - 0.1
    found = where_they_part(BENT, Evidence(TIMES_S, late))
    assert found is not None
    assert found.cents == pytest.approx(-10, abs=10)


def test_nothing_heard_parts_nowhere() -> None:
    assert where_they_part(BENT, Evidence(TIMES_S, np.full(TIMES_S.size, np.nan))) is None
    assert where_they_part(BENT, Evidence(np.zeros(0), np.zeros(0))) is None
