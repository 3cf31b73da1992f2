"""Curves as arrays, and what can be computed from them. Numbers only: knows nothing of files, text or findings."""
