"""Twenty faces of all kinds: the bundled ones, and open ones that Debian carries (`dev` installs them)."""

from pathlib import Path

import pytest

from unkelt.lettering.faces import Shelf
from unkelt.lettering.index import faces_in
from unkelt.lettering.shelves import bundled_faces

DEBIAN = [
    "opentype/cantarell/Cantarell-Thin.otf",
    "opentype/cantarell/Cantarell-ExtraBold.otf",
    "truetype/comfortaa/Comfortaa-Regular.ttf",
    "truetype/dejavu/DejaVuSans.ttf",
    "truetype/dejavu/DejaVuSerif-Bold.ttf",
    "opentype/ebgaramond/EBGaramond12-Regular.otf",
    "opentype/lobstertwo/LobsterTwo-Regular.otf",
    "truetype/vollkorn/Vollkorn-Regular.ttf",
    "truetype/vollkorn/Vollkorn-BlackItalic.ttf",
]


def shelf_of_many() -> Shelf:
    paths = [Path("/usr/share/fonts") / name for name in DEBIAN]
    missing = [path.name for path in paths if not path.is_file()]
    if missing:
        pytest.skip(f"these faces are not installed: {missing}", allow_module_level=True)
    return Shelf([*bundled_faces(), *(face for path in paths for face in faces_in(path))])
