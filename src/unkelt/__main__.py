"""`python -m unkelt`"""

import sys

from unkelt.cli import main

sys.exit(main())
