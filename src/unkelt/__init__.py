"""Unkelt checks, repairs and proves lettering files before they go to a cutting machine.

Glossary, used alike in code, window, messages and docs:

path        one or more subpaths; the shape of an outline
subpath     one run of segments, closed or open
segment     a line, quadratic or cubic piece between two nodes
node        an on-curve point where segments meet; handle: an off-curve control point
ring        a closed subpath seen as the boundary of an area; counter: a ring that is a hole
piece       one connected region of material: an outer ring with its counters
sheet       what a file holds; outline, lettering, picture, group: its items
lettering   live text; once outlined it is the outline's origin
ticket      what the job asks for: size, machine, key of colours to operations
finding     what the survey reports; step: what cures it; recipe: the steps in order
evidence    what a step changed and what it guarantees, in numbers

As a library: `from unkelt import api`.
"""

__version__ = "0.1.0"
