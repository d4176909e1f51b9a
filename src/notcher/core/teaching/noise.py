"""How much of a day's noise a time of playing is.

Source: NIOSH, "Criteria for a recommended standard: occupational noise exposure", Publication 98-126 (1998): 85 dB(A)
for eight hours, halved with every 3 dB. A figure for orientation: local rules go first.
"""

import math

LIMIT_DBA, LIMIT_MIN, EXCHANGE_DB = 85.0, 480.0, 3.0  # 85 dBA for 8 hours, 3 dB halve it (NIOSH 98-126, 1998)
LEAST_DBA, MOST_DBA = 80.0, 140.0
"""Below the one nothing is counted there; above the other no time at all is allowed."""


def allowed_minutes(level_dba: float) -> float:
    """Return how long a level may last in a day; 0 from 140 dB(A) on."""
    if level_dba >= MOST_DBA:
        return 0.0
    return LIMIT_MIN * math.exp2((LIMIT_DBA - level_dba) / EXCHANGE_DB)


def noise_dose(level_dba: float, minutes: float) -> float:
    """Return the share of a day's dose that so many minutes at a level are: 1.0 is all of it, inf: none is allowed.

    Raises: ValueError for negative minutes.
    """
    if minutes < 0:
        raise ValueError(f"{minutes} minutes are no time")
    if level_dba < LEAST_DBA or minutes == 0:
        return 0.0
    allowed = allowed_minutes(level_dba)
    return minutes / allowed if allowed > 0 else float("inf")
