"""Processes that end with the one that started them."""

import ctypes
import signal
from collections.abc import Callable

#: The number of prctl's PR_SET_PDEATHSIG (linux/prctl.h).
_DIE_WITH_PARENT = 1


def ending_with_parent(how: signal.Signals = signal.SIGKILL) -> Callable[[], None]:
    """Return what a new process runs first, so that a killed parent leaves it not behind (prctl(2))."""

    def confine() -> None:
        ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, how)

    return confine
