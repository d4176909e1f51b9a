"""A keyboard and a mouse as the window system has them: events come from the X server, by its XTEST extension.

Source: X Consortium, "X Test Extension Protocol", 1992; key names by X11/keysymdef.h.
"""

import ctypes
import os

WHEEL_UP, WHEEL_DOWN, LEFT = 4, 5, 1


class RealHands:
    """Moves, clicks, turns the wheel and types; whatever the window system gives it to has it."""

    def __init__(self) -> None:
        self._x, self._test = ctypes.CDLL("libX11.so.6"), ctypes.CDLL("libXtst.so.6")
        self._x.XOpenDisplay.restype = ctypes.c_void_p
        self._x.XStringToKeysym.restype = ctypes.c_ulong
        self._x.XKeysymToKeycode.argtypes = (ctypes.c_void_p, ctypes.c_ulong)
        self._x.XFlush.argtypes = self._x.XSync.argtypes = (ctypes.c_void_p, ctypes.c_int)
        self._x.XInitThreads()
        self._display = ctypes.c_void_p(self._x.XOpenDisplay(os.environ["DISPLAY"].encode()))
        assert self._display, "no display"

    def key(self, name: str) -> None:
        """Press and release a key by its name in X."""
        code = self._x.XKeysymToKeycode(self._display, self._x.XStringToKeysym(name.encode()))
        assert code, f"no key {name}"
        for down in (1, 0):
            self._test.XTestFakeKeyEvent(self._display, code, down, 0)
        self._x.XSync(self._display, 0)

    def move(self, x: int, y: int) -> None:
        """Put the pointer somewhere on the screen."""
        self._test.XTestFakeMotionEvent(self._display, -1, x, y, 0)
        self._x.XSync(self._display, 0)

    def click(self, button: int = LEFT) -> None:
        """Press and release a button of the mouse, or turn its wheel by a notch."""
        for down in (1, 0):
            self._test.XTestFakeButtonEvent(self._display, button, down, 0)
        self._x.XSync(self._display, 0)
