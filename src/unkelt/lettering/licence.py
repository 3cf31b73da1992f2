"""What a face says about its own use: its licence text and its embedding bits."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import uharfbuzz as hb
from fontTools.ttLib import TTLibError

from unkelt.lettering.faces import Face, open_face

_PERSONAL = re.compile(
    r"[^.;\n]*\b(?:personal[- ]use\b|personal\s+and\s+non-?commercial|non-?commercial\s+use|not\s+for\s+commercial\s+use)[^.;\n]*",
    re.IGNORECASE,
)
_EMBEDDING = {0: "installable", 2: "restricted", 4: "preview and print", 8: "editable"}
"""OS/2 fsType, bits 1 to 3 (OpenType specification, "OS/2 — OS/2 and Windows metrics")."""

FS_TYPE = slice(8, 10)
"""Its bytes in that table."""


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
        opened = open_face(face).face
    except (TTLibError, OSError, KeyError, ValueError, AssertionError):
        return None
    metrics = opened.reference_table("OS/2").data
    if metrics is None or len(metrics) < FS_TYPE.stop:
        return None
    bits = int.from_bytes(metrics[FS_TYPE], "big") & 0xF
    said = {number: _name(opened, number) for number in (0, 7, 10, 13, 14)}
    words = next((match[0].strip() for number in (13, 10, 0, 7) if (match := _PERSONAL.search(said[number]))), "")
    return Licence(said[13].strip(), said[14].strip(), _EMBEDDING.get(bits, "not told"), words[:120], said[0])


def _name(opened: hb.Face, number: int) -> str:
    """A name record, in English where there is one. HarfBuzz reads it without importing what knows every table."""
    if said := opened.get_name(number):
        return str(said)
    languages = [each.language for each in opened.list_names() if each.name_id == number]
    return str(opened.get_name(number, languages[0]) or "") if languages else ""
