"""What a face says about its own use: its licence text and its embedding bits."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum
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
    """The licence's description, its address, what may be embedded, the words that allow personal use only, and who
    holds the rights.
    """

    description: str
    address: str
    embedding: str
    words: str
    rights: str = ""

    @property
    def personal_only(self) -> bool:
        """Whether its words keep it from use in a business."""
        return bool(self.words)


class Use(StrEnum):
    """What a face's file says of its use in a business."""

    OPEN = "open licence"
    PERSONAL = "personal use only"
    UNKNOWN = "licence not told"


_OPEN = re.compile(
    r"open font licen[cs]e|\bOFL\b|apache licen[cs]e|ubuntu font licen[cs]e|bitstream vera|public domain|\bCC0\b|"
    r"GUST font licen[cs]e|general public licen[cs]e|\bMIT licen[cs]e|licenses/(?:LICENSE-2|by/|mit)",
    re.IGNORECASE,
)


@lru_cache(maxsize=4096)
def use_of(face: Face) -> Use:
    """What may be done with a face: as the index of faces knows it, else as its file says."""
    if face.use or face.bundled:  # the licences of bundled faces lie beside them
        return Use(face.use or Use.OPEN)
    licence = licence_of(face)
    if licence is None:
        return Use.UNKNOWN
    if licence.personal_only:
        return Use.PERSONAL
    said = f"{licence.description} {licence.address} {licence.rights}"
    return Use.OPEN if _OPEN.search(said) else Use.UNKNOWN


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
    return Licence(said[13].strip(), said[14].strip(), _EMBEDDING.get(bits, "not told"), words[:120], said[0])
