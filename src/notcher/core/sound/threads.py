"""How many threads a transform takes: two where somebody waits, one where each core has its own recording."""

import os

THREADS_NAME = "NOTCHER_THREADS"


def threads() -> int:
    """Return it, as the process was told by its environment."""
    return int(os.environ.get(THREADS_NAME, "2"))
