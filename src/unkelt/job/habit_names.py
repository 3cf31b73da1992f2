"""What the habits of importing software are called: those that come with the product, the plain ones first."""

from __future__ import annotations

from importlib.resources import files

FOLDER = files("unkelt") / "job" / "habits"
"""A TOML file for each."""

PLAIN = "plain"

HABITS = tuple(
    sorted(
        (entry.name.removesuffix(".toml") for entry in FOLDER.iterdir() if entry.name.endswith(".toml")),
        key=lambda name: (name != PLAIN, name),
    )
)
