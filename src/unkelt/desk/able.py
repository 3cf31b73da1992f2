"""Whether a window can be shown here at all: asked before Qt is, which would end the program without a word of ours."""

from __future__ import annotations

import ctypes
import os

from unkelt.errors import InputError

WINDOW = "the window"
NEEDED = {
    "libEGL.so.1": "libegl1",
    "libX11.so.6": "libx11-6",
    "libfreetype.so.6": "libfreetype6",
    "libGL.so.1": "libgl1",
    "libfontconfig.so.1": "libfontconfig1",
    "libdbus-1.so.3": "libdbus-1-3",
    "libglib-2.0.so.0": "libglib2.0-0",
    "libxkbcommon.so.0": "libxkbcommon0",
}
"""Libraries that Qt needs wherever it draws, and the Debian packages that hold them."""

NEEDED_ON_X = {
    "libX11-xcb.so.1": "libx11-xcb1",
    "libxcb.so.1": "libxcb1",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-render.so.0": "libxcb-render0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-shm.so.0": "libxcb-shm0",
    "libxcb-sync.so.1": "libxcb-sync1",
    "libxcb-util.so.1": "libxcb-util1",
    "libxcb-xfixes.so.0": "libxcb-xfixes0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
}
"""And those that it needs besides on an X server."""

ON_A_SCREEN = ("xcb", "wayland")


def refuse_without_parts() -> None:
    """Raises InputError, in one sentence with the way out, where there is no screen or a library is missing."""
    platform = os.environ.get("QT_QPA_PLATFORM", "").split(";")[0].split(":")[0].split("-")[0]
    x, wayland = os.environ.get("DISPLAY"), os.environ.get("WAYLAND_DISPLAY")
    on_screen = not platform or platform in ON_A_SCREEN
    if on_screen and not x and not wayland:
        raise InputError(WINDOW, "needs a screen, and there is none here (neither DISPLAY nor WAYLAND_DISPLAY is set)")
    on_x = on_screen and bool(x) and not (wayland and platform != "xcb")
    needed = NEEDED | (NEEDED_ON_X if on_x else {})
    missing = [package for library, package in needed.items() if not _loads(library)]
    if missing:
        packages = " ".join(missing)
        raise InputError(WINDOW, f"needs libraries that are missing here: sudo apt-get install {packages}")
    if on_x and not _answers():
        raise InputError(WINDOW, f"can't reach the screen {x} (DISPLAY)")


def _loads(library: str) -> bool:
    try:
        ctypes.CDLL(library)
    except OSError:
        return False
    return True


def _answers() -> bool:
    """Whether the X server that DISPLAY names lets us in (libxcb, xcb_connect)."""
    xcb = ctypes.CDLL("libxcb.so.1")
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connect.argtypes = [ctypes.c_char_p, ctypes.POINTER(ctypes.c_int)]
    xcb.xcb_connection_has_error.argtypes = [ctypes.c_void_p]
    xcb.xcb_disconnect.argtypes = [ctypes.c_void_p]
    connection = xcb.xcb_connect(None, None)
    failed = xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    return not failed
