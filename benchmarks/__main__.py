"""`python -m benchmarks [PART ...]` prints ours beside the raw libraries, as ratios, from one run. The parts: reading,
welding, reducing, offsets, surveying, lettering, growth, window, answering, commanding, load, accounting, faces,
starting, sheets.
"""

import sys

from benchmarks import (
    accounting,
    answering,
    commanding,
    faces,
    growth,
    lettering,
    load,
    offsets,
    reading,
    reducing,
    sheets,
    starting,
    surveying,
    welding,
    window,
)
from benchmarks.timing import print_rows

PARTS = {
    "reading": reading,
    "welding": welding,
    "reducing": reducing,
    "offsets": offsets,
    "surveying": surveying,
    "lettering": lettering,
    "growth": growth,
    "window": window,
    "answering": answering,
    "commanding": commanding,
    "load": load,
    "accounting": accounting,
    "faces": faces,
    "starting": starting,
    "sheets": sheets,
}

if __name__ == "__main__":
    wanted = [name for name in sys.argv[1:] if not name.endswith((".otf", ".ttf"))] or list(
        PARTS
    )  # faces: for `reducing`
    print_rows([row for name in wanted for row in PARTS[name].rows()])
