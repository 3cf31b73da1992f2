"""`python -m unkelt.demo FOLDER` writes the demonstration files."""

import sys
from pathlib import Path

from unkelt.demo.hollin_quay import make_demo

for path in make_demo(Path(sys.argv[1] if len(sys.argv) > 1 else "demo-out")):
    print(path)
