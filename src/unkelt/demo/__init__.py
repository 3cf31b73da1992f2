"""Demonstration files of Hollin Quay, a made-up boatyard, made from the bundled faces."""

from unkelt.demo.hollin_quay import COMPOSED, DEMO_FILES, make_demo

__all__ = ["COMPOSED", "DEMO_FILES", "FOLDER", "make_demo"]

FOLDER = "Hollin Quay"
"""What the folder of the demonstration is called, among a person's documents."""
