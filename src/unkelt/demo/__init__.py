"""Demonstration files of Hollin Quay, a made-up boatyard, made from the bundled faces."""

from unkelt.demo.hollin_quay import DEMO_FILES, make_demo

__all__ = ["DEMO_FILES", "make_demo"]
