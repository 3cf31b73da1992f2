"""What a person chose for all jobs: kept as TOML in the user's settings."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from pathlib import Path

import tomlkit

from unkelt.formats.files import write_whole
from unkelt.session.screens import LEAST, MOST

CHOICES = {
    "theme": ("system", "light", "dark"),
    "unit": ("mm", "in"),
    "snap": ("yes", "no"),
    "text": ("system", "100", "115", "130", "150", "175", "200"),
}


@dataclass(frozen=True, slots=True)
class Settings:
    """What a person chose for all jobs; each is one of `CHOICES`, where these name it."""

    theme: str = "system"
    unit: str = "mm"
    snap: str = "yes"
    text: str = "system"
    """The size of the interface's text in per cent of its own, or as the system has it."""
    screens: Mapping[str, float] = field(default_factory=dict)
    """Pixels a millimetre of screens that were measured, by what they are called."""


def text_step(now: str, system: float, step: int) -> str:
    """The next larger or smaller size of text that can be chosen, from what is chosen or from the system's own."""
    sizes = [int(each) for each in CHOICES["text"][1:]]
    at = 100 * system if now == "system" else int(now)
    near = min(range(len(sizes)), key=lambda index: abs(sizes[index] - at))
    return str(sizes[min(max(near + step, 0), len(sizes) - 1)])


def read_settings(path: Path) -> Settings:
    """What was kept; what is missing, unknown or damaged is as it is at first."""
    try:
        said = tomllib.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return Settings()
    screens = said.get("screens")
    known = {
        name: float(value)
        for name, value in (screens.items() if isinstance(screens, dict) else ())
        if isinstance(value, (int, float)) and LEAST <= value <= MOST
    }
    return Settings(**{name: said[name] for name, values in CHOICES.items() if said.get(name) in values}, screens=known)


def keep_settings(path: Path, settings: Settings) -> None:
    """Raises InputError."""
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, tomlkit.dumps(asdict(settings)).encode())
