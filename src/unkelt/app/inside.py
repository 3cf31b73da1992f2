"""What the program is made of: itself, its faces and icons, and the packages that it runs on, each with its licence."""

from __future__ import annotations

import importlib.metadata
import re
from dataclasses import dataclass
from importlib.metadata import PackageMetadata
from importlib.resources import files
from pathlib import Path

from unkelt import __version__
from unkelt.language import tr

RESVG = "MPL-2.0"
"""resvg's own; its Python package doesn't say it."""


@dataclass(frozen=True, slots=True)
class Part:
    """A part of the program, its version, and the licence that it comes under, as its authors state it."""

    name: str
    version: str
    licence: str


def parts() -> tuple[Part, ...]:
    """All of them: what is the program's own first, then packages by name."""
    faces = Path(str(files("unkelt") / "assets" / "faces"))
    count = sum(folder.is_dir() for folder in faces.iterdir())
    own = [
        Part("Unkelt", __version__, "MIT"),
        Part(tr("{count} families of faces").format(count=count), "", "OFL-1.1"),
        Part(tr("Icons of Lucide"), "", "ISC"),
    ]
    found: dict[str, Part] = {}
    _gather("unkelt", found)
    found.pop("unkelt", None)
    return (*own, *(found[key] for key in sorted(found)))


def _gather(name: str, found: dict[str, Part]) -> None:
    """A package and all that it needs, by its name in small letters."""
    key = re.sub(r"[-_.]+", "-", name).lower()
    if key in found:
        return
    try:
        package = importlib.metadata.distribution(name)
    except importlib.metadata.PackageNotFoundError:
        return  # what only other systems or versions of Python need
    found[key] = Part(str(package.metadata["Name"]), package.version, _licence(package.metadata))
    for line in package.requires or ():
        needed = re.match(r"[\w.-]+", line)
        if needed and "extra ==" not in line:
            _gather(needed[0], found)


def _licence(said: PackageMetadata) -> str:
    classes = [each for each in said.get_all("Classifier") or () if str(each).startswith("License")]
    stated = [said[name] for name in ("License-Expression", "License") if name in said]
    words = stated[0] if "License-Expression" in said else classes[0].split(" :: ")[-1] if classes else "".join(stated)
    return (words.strip().split("\n")[0] or RESVG).removesuffix(" License")
