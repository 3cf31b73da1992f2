"""Shapes changed on purpose: nodes by hand (`edit.py`), corners rounded, spikes cut off."""
