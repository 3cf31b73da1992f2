"""The tickets of Hollin Quay's jobs."""

from __future__ import annotations

import tomlkit

KEY = {"cut": ["#0b5d4c"], "score": ["#8a6d1a"], "engrave": ["#20262b"]}
"""The yard's own colours, the same for all its jobs."""

OFFICE: dict[str, object] = {"format": "pdf"}
DESTINATIONS: dict[str, dict[str, dict[str, object]]] = {
    "film-knife": {
        "film plotter": {"format": "plt"},
        "sign shop": {"format": "svg", "reads": "seventy-two", "each": ["material"]},
        "office": OFFICE,
    },
    "laser": {
        "laser": {"format": "dxf", "curves": False},
        "school workshop": {"format": "svg", "reads": "ninety-six", "each": ["operation"]},
        "office": OFFICE,
    },
    "plasma": {
        "plasma table": {"format": "dxf", "each": ["material"]},
        "nesting": {"format": "svg", "reads": "strict"},
        "office": OFFICE,
    },
}
"""Where the yard's jobs go, by the machine that they are made on: each to three places."""


def ticket_text(
    name: str,
    profile: str,
    bed: tuple[str, str],
    *,
    width: str = "",
    of: str = "",
    chord: str = "",
    mirrored: bool = False,
) -> str:
    """A ticket as TOML; it says nothing of what is empty."""
    asked = {"width": width, "tolerance": "0.5 mm" if of else "", "of": of}
    machine = {"profile": profile, "bed": list(bed), "chord": chord}
    tables = {
        "job": {"name": name} | ({"mirrored": True} if mirrored else {}),
        "size": {field: value for field, value in asked.items() if value},
        "machine": {field: value for field, value in machine.items() if value},
        "key": KEY,
        "destination": DESTINATIONS[profile],
    }
    return tomlkit.dumps({name: table for name, table in tables.items() if table})
