"""The tickets of Hollin Quay's jobs."""

from __future__ import annotations

import tomlkit

KEY = {"cut": ["#0b5d4c"], "score": ["#8a6d1a"], "engrave": ["#20262b"]}
"""The yard's own colours, the same for all its jobs."""


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
    }
    return tomlkit.dumps({name: table for name, table in tables.items() if table})
