"""Union, difference and intersection of outlines; curves stay curves.

Begin with `weld.py` (one cluster), `weld_many.py` (many at once) and `combine.py`. `engine.py` asks skia-pathops, and
`judge.py` compares its answer with GEOS's. `redrawing.py` draws GEOS's answer along the sources' curves as a fallback.
`touching.py` finds what touches; `chords.py` and `stretches.py` replace what nothing comes near by chords.
"""
