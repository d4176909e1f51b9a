"""Identities: a document, a section, a phrase, a variant and a note each keep one id for life.

The rules, each held by a test:
- An edit, undo, saving and recovery keep the id; two values that say the same are equal whatever their ids.
- Of a note that is cut the first part keeps it; of two that are joined the earlier keeps it.
- Hearing again keeps the id of a note that is still the same: the same fretted pitch within 60 ms.
- What is pasted, inserted or heard anew has an id of its own; so has a document saved as another file.
- What is drafted from a recording, or read from a file that knows no ids, gets ids that follow from what it says, so
  that they are the same at every reading.
"""

import re
import secrets
from hashlib import blake2b

ID_BYTES = 6
"""48 bits: among the 10^4 notes of a long solo two meet by chance once in five million solos (birthday bound)."""


ID = re.compile(r"[A-Za-z0-9_-]{1,64}")
"""What an id may be made of: it is the name of a file at times, and never a way to another place."""


def is_id(text: str) -> bool:
    """Return whether a text may be the id of a document or a take."""
    return ID.fullmatch(text) is not None


def new_id() -> str:
    """Return an id that nothing else has."""
    return secrets.token_hex(ID_BYTES)


def derived_id(*facts: object) -> str:
    """Return the id that follows from some facts; the same facts give the same id."""
    return blake2b("\n".join(map(str, facts)).encode("utf-8"), digest_size=ID_BYTES).hexdigest()
