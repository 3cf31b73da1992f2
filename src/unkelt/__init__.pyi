from unkelt.scripting import mend as mend
from unkelt.scripting import proof as proof
from unkelt.scripting import read as read
from unkelt.scripting import recipe as recipe
from unkelt.scripting import run as run
from unkelt.scripting import survey as survey
from unkelt.scripting import ticket as ticket
from unkelt.scripting import write as write

__version__: str
