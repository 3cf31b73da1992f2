"""What a face says about its own use: its licence text and its embedding bits."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from fontTools.ttLib import TTFont, TTLibError

from unkelt.lettering.faces import Face

_PERSONAL = re.compile(
    r"[^.;\n]*\b(?:personal[- ]use\b|personal\s+and\s+non-?commercial|non-?commercial\s+use|not\s+for\s+commercial\s+use)[^.;\n]*",
    re.IGNORECASE,
)
_EMBEDDING = {0: "installable", 2: "restricted", 4: "preview and print", 8: "editable"}
"""OS/2 fsType, bits 1 to 3 (OpenType specification, "OS/2 — OS/2 and Windows metrics")."""


@dataclass(frozen=True, slots=True)
class Licence:
    """The licence's description, its address, what may be embedded, and the words that allow personal use only."""

    description: str
    address: str
    embedding: str
    words: str

    @property
    def personal_only(self) -> bool:
        """Whether its words keep it from use in a business."""
        return bool(self.words)


@lru_cache(maxsize=1024)
def licence_of(face: Face) -> Licence | None:
    """What the file says of its own licence (name records 0, 10, 13 and 14); None where it can't be read."""
    try:
        with TTFont(face.path, fontNumber=face.index, lazy=True) as font:
            said = {number: font["name"].getDebugName(number) or "" for number in (0, 7, 10, 13, 14)}
            bits = font["OS/2"].fsType & 0xF
    except (TTLibError, OSError, KeyError, ValueError, AssertionError):
        return None
    words = next((match[0].strip() for number in (13, 10, 0, 7) if (match := _PERSONAL.search(said[number]))), "")
    return Licence(said[13].strip(), said[14].strip(), _EMBEDDING.get(bits, "not told"), words[:120])
