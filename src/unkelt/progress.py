"""How long work tells how far it has come."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[float, str], None]
"""Called now and then with the share that is done, from 0 to 1, and what is being done. It may raise to stop the work.
"""
