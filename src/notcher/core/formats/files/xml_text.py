"""What an XML text may hold.

Source: W3C, "Extensible Markup Language (XML) 1.0", 2.2: the production Char.
"""

import re

NO_CHAR = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def without_controls(text: str) -> str:
    """Return a text without the characters that no XML document may hold."""
    return NO_CHAR.sub("", text)
