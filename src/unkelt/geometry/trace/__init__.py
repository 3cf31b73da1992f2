"""Boundaries drawn again along the exact lines that they were made from. Begin with `trace.py`; `rails.py` has those
lines.
"""
