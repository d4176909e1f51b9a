"""The chain of upgrades: what the parts of an older document become, one version at a time.

A step takes and returns the JSON parts of a document by file name. An id that it has to make follows from what the
file says (`derived_id`), so that the same file gives the same ids at every opening. What comes out of the last step is
held against the schemas.
"""

from collections.abc import Callable, Mapping
from typing import Any

Parts = dict[str, dict[str, Any]]
SCORE, REVISIONS = "score.json", "revisions.json"
UPGRADES: Mapping[int, Callable[[Parts], Parts]] = {}
"""From each older version to the next: none before the first release."""
