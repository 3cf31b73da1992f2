"""`python -m unkelt.cli`"""

import sys

from unkelt.cli import main

sys.exit(main())
