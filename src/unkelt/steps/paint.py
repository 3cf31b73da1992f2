"""Colours that people write."""

from __future__ import annotations

import re

from unkelt.errors import StepRefused
from unkelt.messages import say


def plain(name: str, text: str) -> str:
    """A colour as "#rrggbb". Raises StepRefused."""
    found = re.fullmatch(r"#?([0-9a-f]{3}|[0-9a-f]{6})", text.strip().lower())
    if not found:
        raise StepRefused(name, say("“{colour}” is no colour such as #0b5d4c", colour=text))
    digits = found[1]
    return "#" + (digits if len(digits) == 6 else "".join(2 * digit for digit in digits))
