"""Makes `src/unkelt/assets/prints.npz`: what the letters of the bundled faces look like.

Run it after a bundled face changed, or what is remembered of a shape: `python docs/make_prints.py`.
"""

from unkelt.lettering.prints import write_shipped
from unkelt.lettering.shelves import bundled_faces

if __name__ == "__main__":
    write_shipped(bundled_faces())
