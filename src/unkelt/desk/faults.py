"""A fault of ours that nothing caught: it is logged and told, and the window goes on."""

from __future__ import annotations

import sys
import traceback
from types import TracebackType

from PySide6.QtCore import QTimer

from unkelt.desk.common.bars import MessageBar
from unkelt.messages import say
from unkelt.session.log import LOG


def tell_faults(message: MessageBar) -> None:
    """From now on faults in what Qt calls are said in the message bar, too."""

    def tell(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        if not issubclass(kind, Exception):  # Ctrl+C in a terminal
            sys.__excepthook__(kind, fault, trace)
            return
        LOG.error("a fault in the window", exc_info=(kind, fault, trace))
        traceback.print_exception(kind, fault, trace)
        words = say(
            "Unkelt has a fault: {kind}: {fault}. Your last action may not have worked. Your job is kept.",
            kind=kind.__name__,
            fault=fault,
        )
        # Not at once: the fault may have come up while something was being painted.
        QTimer.singleShot(0, message, lambda: message.say(words))

    sys.excepthook = tell
