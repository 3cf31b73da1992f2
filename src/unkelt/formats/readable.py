"""Text that any file may carry and any program can read: control characters are in some files, and in no format's
rules.
"""

from __future__ import annotations

import re

_UNREADABLE = "[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]"
"""What is no character in XML 1.0 (production 2): controls, halves of surrogate pairs, U+FFFE and U+FFFF."""

_BREAK_HYPHEN = "\x02"
"""What PDFium puts for a hyphen at the end of a line."""


def readable(text: str) -> str:
    """The text without characters that no file can carry; those that part words become spaces."""
    if text.isprintable():
        return text
    return re.sub(_UNREADABLE, "", text.replace(_BREAK_HYPHEN, "-").replace("\x0b", " ").replace("\x0c", " "))
