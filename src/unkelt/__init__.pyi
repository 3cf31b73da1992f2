from unkelt.library import mend as mend
from unkelt.library import proof as proof
from unkelt.library import read as read
from unkelt.library import recipe as recipe
from unkelt.library import run as run
from unkelt.library import survey as survey
from unkelt.library import ticket as ticket
from unkelt.library import write as write

__version__: str
