"""Which faces are in which files. Every file is looked into once; a cache remembers what was found until the file
changes.
"""

from __future__ import annotations

import json
import os
import struct
import subprocess
import tempfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import platformdirs
from fontTools.ttLib import TTFont, TTLibError

from unkelt.lettering.faces import WIDTHS, Face
from unkelt.lettering.kinds import kind_of
from unkelt.lettering.licence import use_of
from unkelt.messages import say

Json = Any
"""What JSON holds."""

SUFFIXES = frozenset([".ttf", ".otf", ".ttc", ".otc", ".woff", ".woff2"])
CACHE = "faces-3.json"
"""The name tells the cache's form; another form takes another name."""

MOST_IN_ONE = 256
"""A collection that claims to hold more faces than this is damaged."""


@dataclass(frozen=True, slots=True)
class Indexed:
    """Faces found, and a sentence for each file that could not be read."""

    faces: tuple[Face, ...]
    damaged: tuple[str, ...] = ()


def faces_in(path: Path, *, bundled: bool = False) -> list[Face]:
    """All faces of a font file: of a collection each, of a variable face its named instances.

    Raises ValueError with the reason when the file is damaged or is no font.
    """
    try:
        return [face for number in range(_count(path)) for face in _faces(path, number, bundled)]
    except ImportError as problem:
        raise ValueError(say("needs {name} to be unpacked", name=problem.name)) from problem
    except Exception as problem:  # whatever a damaged table makes the parser trip over
        if isinstance(
            problem,
            (
                TTLibError,
                OSError,
                KeyError,
                ValueError,
                AssertionError,
                struct.error,
                IndexError,
                AttributeError,
                TypeError,
            ),
        ):
            raise ValueError("is damaged, or no font") from problem
        raise


def _count(path: Path) -> int:
    with path.open("rb") as file:
        head = file.read(12)
    count = struct.unpack(">L", head[8:12])[0] if head[:4] == b"ttcf" else 1
    if not 0 < count <= MOST_IN_ONE:
        raise ValueError(count)
    return int(count)


def _faces(path: Path, number: int, bundled: bool) -> Iterator[Face]:
    with path.open("rb") as file, TTFont(file, fontNumber=number, lazy=True) as font:
        name, os2 = font["name"], font["OS/2"]
        family, style = name.getBestFamilyName() or path.stem, name.getBestSubFamilyName() or ""
        postscript = name.getDebugName(6) or path.stem
        italic = bool(os2.fsSelection & 1) or bool(font["head"].macStyle & 2)
        width = [*WIDTHS.values()][min(max(os2.usWidthClass, 1), 9) - 1]
        plain = Face(path, number, family, style, os2.usWeightClass, italic, postscript, bundled, width=width)
        if not ({"glyf", "CFF ", "CFF2"} & set(font.keys())):
            return  # bitmaps only: there is nothing to outline
        if "fvar" not in font or not font["fvar"].instances:
            axes = font["fvar"].axes if "fvar" in font else []
            yield replace(plain, axes=tuple(sorted((axis.axisTag, float(axis.defaultValue)) for axis in axes)))
            return
        for instance in font["fvar"].instances:
            at = dict(instance.coordinates)
            style = name.getDebugName(instance.subfamilyNameID) or style
            yield Face(
                path,
                number,
                family,
                style,
                round(at.get("wght", os2.usWeightClass)),
                italic or at.get("ital", 0) >= 0.5 or at.get("slnt", 0) < 0,
                name.getDebugName(instance.postscriptNameID) or f"{postscript}-{style.replace(' ', '')}",
                bundled,
                tuple(sorted((tag, float(value)) for tag, value in at.items())),
                at.get("wdth", width),
            )


def font_files(folders: Iterable[Path]) -> list[Path]:
    """All font files in folders and below, in order; a path that is a file stands for itself."""
    found: dict[Path, None] = {}
    for folder in folders:
        inside = [folder] if folder.is_file() else sorted(p for p in folder.rglob("*") if p.suffix.lower() in SUFFIXES)
        found |= dict.fromkeys(path for path in inside if path.is_file())
    return list(found)


def installed_files() -> list[Path]:
    """The files that fontconfig knows; where it isn't installed, those in the usual folders."""
    try:
        listing = subprocess.run(
            ["fc-list", "--format", r"%{file}\n"], capture_output=True, text=True, timeout=20, check=True
        )
    except (OSError, subprocess.SubprocessError):
        usual = [Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), Path.home() / ".local/share/fonts"]
        return font_files(folder for folder in usual if folder.is_dir())
    paths = [Path(line) for line in sorted(set(listing.stdout.splitlines()))]
    return [path for path in paths if path.suffix.lower() in SUFFIXES]


def index(paths: Iterable[Path], cache_folder: Path | None = None) -> Indexed:
    """The faces in font files. What the cache knows of an unchanged file is taken from there.

    The cache is a help and not a store: where it can't be read or written, the files are looked into anew.
    """
    cache = (cache_folder or platformdirs.user_cache_path("unkelt")) / CACHE
    known = _read(cache)
    entries: dict[str, Json] = {}
    fresh = False
    for path in paths:
        try:
            stat = path.stat()
        except OSError as problem:
            entries[str(path)] = [0, 0, [], f"{path}: {problem.strerror or problem}"]
            continue
        entry = known.get(str(path))
        if not entry or entry[:2] != [stat.st_mtime_ns, stat.st_size]:
            fresh = True
            try:
                entry = [stat.st_mtime_ns, stat.st_size, [_record(face) for face in faces_in(path)], None]
            except ValueError as problem:
                entry = [stat.st_mtime_ns, stat.st_size, [], f"{path}: {problem}"]
        entries[str(path)] = entry
    if fresh:
        _write(cache, known | entries)
    faces = [_face(Path(path), record) for path, entry in entries.items() for record in entry[2]]
    return Indexed(tuple(faces), tuple(entry[3] for entry in entries.values() if entry[3]))


def _record(face: Face) -> list[Json]:
    said = [face.index, face.family, face.style, face.weight, face.italic, face.postscript, face.axes, face.width]
    return [*said, kind_of(face), use_of(face)]


def _face(path: Path, record: list[Json]) -> Face:
    number, family, style, weight, italic, postscript, axes, width, kind, use = record
    place = tuple((tag, value) for tag, value in axes)
    return Face(path, number, family, style, weight, italic, postscript, False, place, width, kind, use)


def _read(cache: Path) -> dict[str, Json]:
    try:
        known = json.loads(cache.read_text(encoding="utf-8"))
        assert all(len(entry) == 4 and all(len(record) == 10 for record in entry[2]) for entry in known.values())
    except (OSError, ValueError, AttributeError, TypeError, AssertionError):
        return {}
    return dict(known)


def _write(cache: Path, entries: dict[str, Json]) -> None:
    try:
        cache.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=cache.parent, prefix=CACHE)
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            json.dump(entries, file, ensure_ascii=False)
        os.replace(name, cache)
    except OSError:
        return
