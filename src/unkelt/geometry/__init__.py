"""Curves as arrays and what can be computed from them. Only numbers: no files, text or findings.

Facts about single paths come first: `path.py`, then `measure.py`, `flatten.py` (polylines), `nesting.py` and
`region.py` (areas, by GEOS), `distance.py`. `cache.py` keeps answers that took long. The rooms below make new paths,
deep to shallow: `reduce/`, `edit/`, `trace/`, `boolean/`, `offset/`.
"""
