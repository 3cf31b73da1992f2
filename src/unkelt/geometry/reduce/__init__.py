"""Fewer nodes for the same line. Begin with `reduce.py`; `fit.py` fits cubics, `certificate.py` bounds how far they
stray, `merge.py` takes segments of almost no length.
"""
