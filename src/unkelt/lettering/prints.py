"""What the glyphs of many faces look like, indexed so that a shape is found among them whatever its size, place and
turn.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from pathlib import Path as FilePath
from typing import Any
from zipfile import BadZipFile

import numpy as np
import platformdirs
from fontTools.misc.transform import Transform
from numpy.typing import NDArray

from unkelt.geometry.path import Floats, Ints, Path
from unkelt.geometry.shape import Complexes, ring_shapes, segment_marks
from unkelt.lettering.faces import Face, open_face
from unkelt.lettering.shaping import glyph_path, glyph_paths
from unkelt.messages import say
from unkelt.progress import Progress

FOLDER = "prints-2"
"""The name tells the cache's form; another form takes another name."""

MOST_GLYPHS = 3_000
"""A face with more is indexed by the letters below U+2000 only: the others are scripts of thousands of characters."""

FIELDS = ("marks", "area", "centre", "second", "third", "ring_glyph", "handles", "ends", "segment_glyph")
OF_SEGMENTS = ("handles", "ends", "segment_glyph")
SHIPPED = FilePath(str(files("unkelt") / "assets" / "prints.npz"))
"""Made by `docs/make_prints.py`."""

LIGATURES = "ﬀﬁﬂﬃﬄﬅﬆ"
"""Ligatures with a code of their own, which nobody types."""


@dataclass(frozen=True, slots=True)
class Prints:
    """Rings and curved segments of glyphs, in ems, y down; `ring_face` and `segment_face` index `faces`.

    Rings are sorted by their first mark, segments by the real part of their first handle.
    """

    faces: tuple[Face, ...]
    marks: Floats
    area: Floats
    centre: Complexes
    second: Complexes
    third: Complexes
    ring_glyph: Ints
    ring_face: Ints
    handles: Complexes
    ends: Complexes
    segment_glyph: Ints
    segment_face: Ints


def prints_of(faces: Sequence[Face], cache: FilePath | None = None, progress: Progress | None = None) -> Prints:
    """The prints of all these faces; what the cache knows of an unchanged file is taken from there."""
    tables = []
    for number, face in enumerate(faces):
        if progress and number % 8 == 0:
            progress(number / len(faces), say("Looking at {family}", family=face.family))
        tables.append(_cached(face, cache or platformdirs.user_cache_path("unkelt") / FOLDER))
    whole = {name: np.concatenate([table[name] for table in tables]) if tables else np.zeros(0) for name in FIELDS}
    whole["ring_face"] = np.repeat(np.arange(len(tables)), [len(table["area"]) for table in tables])
    whole["segment_face"] = np.repeat(np.arange(len(tables)), [len(table["ends"]) for table in tables])
    rings = np.argsort(whole["marks"][:, 0]) if tables else np.zeros(0, int)
    segments = np.argsort(whole["handles"][:, 0].real) if tables else np.zeros(0, int)
    for name in whole:
        order = segments if name in (*OF_SEGMENTS, "segment_face") else rings
        whole[name] = whole[name][order]
    return Prints(tuple(faces), **whole)  # type: ignore[arg-type]


_KEPT: dict[tuple[Face, ...], Prints] = {}


def kept_prints(faces: tuple[Face, ...], progress: Progress | None = None) -> Prints:
    """The prints of a shelf's faces, in memory for the shelf that was asked for last."""
    if faces not in _KEPT:
        found = prints_of(faces, progress=progress)
        _KEPT.clear()
        _KEPT[faces] = found
    return _KEPT[faces]


Table = dict[str, NDArray[np.generic]]
"""What is known of one face: a column for each of `FIELDS`."""


def _cached(face: Face, folder: FilePath) -> Table:
    if face.bundled and (shipped := _shipped().get(_named(face))):
        return shipped
    try:
        stat = face.path.stat()
        named = f"{face.path}|{face.index}|{face.axes}|{stat.st_mtime_ns}|{stat.st_size}"
        file = folder / f"{hashlib.sha256(named.encode()).hexdigest()[:32]}.npz"
        with np.load(file, allow_pickle=False) as known:
            return {name: known[name] for name in FIELDS}
    except (OSError, ValueError, KeyError, BadZipFile):
        table = _looked_at(face)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=folder)
        with os.fdopen(handle, "wb") as out:
            np.savez(out, **table)  # type: ignore[arg-type]
        os.replace(name, file)
    except (OSError, UnboundLocalError):
        pass  # the cache is a help and not a store
    return table


def write_shipped(faces: Sequence[Face], file: FilePath = SHIPPED) -> None:
    """Writes the prints of the bundled faces: nobody waits for them at the first survey."""
    tables = [_looked_at(face) for face in faces]
    columns = {name: np.concatenate([table[name] for table in tables]) for name in FIELDS}
    rings, segments = ([len(table[name]) for table in tables] for name in ("area", "ends"))
    names = np.array([_named(face) for face in faces])
    np.savez_compressed(file, allow_pickle=False, names=names, rings=rings, segments=segments, **columns)


@lru_cache(maxsize=1)
def _shipped() -> dict[str, Table]:
    with np.load(SHIPPED, allow_pickle=False) as known:
        cuts = {name: np.cumsum(known[name])[:-1] for name in ("rings", "segments")}
        columns = {name: np.split(known[name], cuts["segments" if name in OF_SEGMENTS else "rings"]) for name in FIELDS}
        names = known["names"].tolist()
    return {name: {field: columns[field][row] for field in FIELDS} for row, name in enumerate(names)}


def _named(face: Face) -> str:
    """A bundled face, wherever the program is installed."""
    return f"{face.path.parent.name}/{face.path.name}|{face.index}|{face.axes}|{face.path.stat().st_size}"


def _looked_at(face: Face) -> Table:
    em = open_face(face).face.upem
    texts = readable(face)
    path, of = glyph_paths(face, list(texts))
    whole = path.transformed(Transform(1 / em, 0, 0, -1 / em, 0, 0))
    rings = ring_shapes(whole)
    handles, ends = segment_marks(whole)
    ring_glyph = np.array(list(texts), np.int32)[of]
    segment_glyph = np.repeat(ring_glyph, path.counts)
    # A letter with an accent is found by its rings; its segments are those of the letter itself.
    plain = np.array([letters.isascii() for letters in texts.values()], bool)
    curved = ~np.isnan(handles).any(axis=1) & np.repeat(plain[of], path.counts)
    solid = np.isfinite(rings.marks).all(axis=1)
    return {
        "marks": rings.marks[solid].astype(np.float32),
        "area": rings.area[solid].astype(np.float32),
        "centre": rings.centre[solid],
        "second": rings.second[solid].astype(np.complex64),
        "third": rings.third[solid].astype(np.complex64),
        "ring_glyph": ring_glyph[solid],
        "handles": handles[curved].astype(np.complex64),
        "ends": ends[curved],
        "segment_glyph": segment_glyph[curved],
    }


@lru_cache(maxsize=256)
def readable(face: Face) -> dict[int, str]:
    """The glyphs of a face that stand for characters, and for which: by its character map, else by their names, as
    "f_i" or "e.ss01" (the glyph list specification that the agl module follows, section 2).
    """
    font = open_face(face)
    unicodes = sorted(font.face.unicodes)
    count = font.face.glyph_count
    texts: dict[int, str] = {}
    for code in unicodes:
        if (count > MOST_GLYPHS and code >= 0x2000) or not chr(code).isprintable() or chr(code).isspace():
            continue
        glyph = font.get_nominal_glyph(code)
        if glyph:
            letter = chr(code)
            texts.setdefault(glyph, unicodedata.normalize("NFKC", letter) if letter in LIGATURES else letter)
    if count > MOST_GLYPHS:
        return texts
    for glyph in range(1, count):
        if glyph not in texts and (name := font.glyph_to_string(glyph)) and not name.startswith("gid"):
            from fontTools import agl  # its list of names takes a while to read

            text = agl.toUnicode(name)
            if text and text.isprintable() and not text.isspace():
                texts[glyph] = text
    return texts


def alike_rings(prints: Prints, marks: Floats, tolerance: Floats) -> tuple[Ints, Ints]:
    """Pairs (which of the rings asked for, which of the prints) whose marks differ by no more than a tolerance (r, 8)
    each.
    """
    return _alike(prints.marks, prints.marks[:, 0], marks, marks[:, 0], tolerance)


def alike_segments(prints: Prints, handles: Complexes, tolerance: Floats) -> tuple[Ints, Ints]:
    """The same for segments by their handles, (s, 2) with a tolerance (s,) each."""
    flat = np.ascontiguousarray(handles).view(float).reshape(len(handles), 4)
    known = np.ascontiguousarray(prints.handles).view(np.float32).reshape(len(prints.handles), 4)
    return _alike(known, known[:, 0], flat, flat[:, 0], np.repeat(tolerance[:, None], 4, axis=1))


def _alike(
    known: NDArray[Any], keys: NDArray[Any], asked: Floats, asked_keys: Floats, tolerance: Floats
) -> tuple[Ints, Ints]:
    low = np.searchsorted(keys, asked_keys - tolerance[:, 0])
    high = np.searchsorted(keys, asked_keys + tolerance[:, 0])
    which, found = [np.zeros(0, np.intp)], [np.zeros(0, np.intp)]
    for number, (a, b) in enumerate(zip(low.tolist(), high.tolist(), strict=True)):
        if b > a:
            near = np.arange(a, b)
            for column in range(1, known.shape[1]):  # each leaves a few of those before
                near = near[np.abs(known[near, column] - asked[number, column]) <= tolerance[number, column]]
            which.append(np.full(len(near), number, np.intp))
            found.append(near)
    return np.concatenate(which), np.concatenate(found)


def transform_of(turned: complex, moved: complex, mirrored: bool) -> Transform:
    """The matrix z → a z + b, or a z̄ + b, that carries ems onto the sheet."""
    a, b = turned, moved
    if mirrored:
        return Transform(a.real, a.imag, a.imag, -a.real, b.real, b.imag)
    return Transform(a.real, a.imag, -a.imag, a.real, b.real, b.imag)


def em_path(face: Face, glyph: int) -> Path:
    """A glyph's curves in ems, y down."""
    em = open_face(face).face.upem
    return glyph_path(face, glyph).transformed(Transform(1 / em, 0, 0, -1 / em, 0, 0))
