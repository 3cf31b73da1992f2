"""Unkelt checks, repairs and proves lettering files before they go to a cutting machine.

The glossary is at the head of `unkelt/sheet/model.py`. Start reading in `unkelt/recipe.py`; docs/architecture.md shows
the rooms. As a library: `from unkelt import api`.
"""

__version__ = "0.2.0"
