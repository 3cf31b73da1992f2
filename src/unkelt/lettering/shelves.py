"""Where the faces come from: those that come with the product, those that were added, those that are installed."""

from __future__ import annotations

import os
from collections.abc import Iterable
from dataclasses import replace
from functools import lru_cache
from importlib.resources import files
from pathlib import Path

import platformdirs

from unkelt.lettering.faces import Face, Shelf
from unkelt.lettering.index import font_files, index, installed_files
from unkelt.messages import say

ADDED = "UNKELT_FACES"
"""The environment variable that names more files and folders, parted as in PATH."""


@lru_cache(maxsize=1)
def bundled_faces() -> tuple[Face, ...]:
    """The open-licence faces that come with the product."""
    folder = Path(str(files("unkelt") / "assets" / "faces"))
    return tuple(replace(face, bundled=True, kind="", use="") for face in index(font_files([folder])).faces)


@lru_cache(maxsize=4)
def standard_shelf(added: tuple[Path, ...] = ()) -> Shelf:
    """Bundled faces first, then added ones, then the installed ones.

    Added are the files and folders given, those that `UNKELT_FACES` names, and what lies in the user's folder of faces.
    """
    places = _places(added)
    found = index(_files(places))
    _KNOWN[added] = _stamps(places)
    missing = [
        say("{place}: there is no such file or folder", place=place) for place in places[:-1] if not place.exists()
    ]
    return Shelf((*bundled_faces(), *found.faces), (*missing, *found.damaged))


def shelf_when_asked(added: tuple[Path, ...] = ()) -> Shelf:
    """As `standard_shelf`, for a command: a file without text never asks, so that nobody looks for faces."""
    return Shelf.when_asked(lambda: standard_shelf(added))


def shelf_again(added: tuple[Path, ...] = ()) -> Shelf:
    """As `standard_shelf`, for a program that runs on: the same shelf while its files are the same, and another once a
    face was installed, changed or taken away.
    """
    if added in _KNOWN and _KNOWN[added] != _stamps(_places(added)):
        standard_shelf.cache_clear()
    return standard_shelf(added)


_KNOWN: dict[tuple[Path, ...], tuple[tuple[Path, int], ...]] = {}
"""The files that the shelves of this process were made of, each with when it was changed."""


def _places(added: tuple[Path, ...]) -> list[Path]:
    return [*added, *_named(os.environ.get(ADDED, "")), user_folder()]


def _files(places: Iterable[Path]) -> list[Path]:
    return [*font_files(place for place in places if place.exists()), *installed_files()]


def _stamps(places: Iterable[Path]) -> tuple[tuple[Path, int], ...]:
    return tuple((path, path.stat().st_mtime_ns) for path in _files(places) if path.exists())


def user_folder() -> Path:
    """Faces put here are on the shelf."""
    return platformdirs.user_data_path("unkelt") / "faces"


def _named(text: str) -> Iterable[Path]:
    return [Path(part) for part in text.split(os.pathsep) if part]
