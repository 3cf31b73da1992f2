"""Curves as arrays, and what can be computed from them. Numbers only: knows nothing of files, text or findings.

Here lies what is known of a path by itself: `path.py` first, then `measure.py`, `flatten.py` (curves as polylines),
`nesting.py` and `region.py` (what it encloses, by the second engine), `distance.py` (how far lines lie apart). What is
made of paths has rooms of its own, deep to shallow: `reduce/`, `edit/`, `trace/`, `boolean/`, `offset/`.
"""
