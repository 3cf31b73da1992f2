"""What the stand-ins for importing software are called: those that come with the product, the plain one first."""

from __future__ import annotations

from importlib.resources import files

FOLDER = files("unkelt") / "proof" / "standins"
"""A TOML file for each."""

PLAIN = "plain"

STAND_INS = tuple(
    sorted(
        (entry.name.removesuffix(".toml") for entry in FOLDER.iterdir() if entry.name.endswith(".toml")),
        key=lambda name: (name != PLAIN, name),
    )
)
