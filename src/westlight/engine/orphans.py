"""Processes that must not outlive the one that started them."""

from __future__ import annotations

import os
import threading
import time

_LOOK_S = 1.0


def die_with_parent() -> None:
    """End this process soon after its parent has ended, however that ended."""
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(_LOOK_S)
        os._exit(1)

    threading.Thread(target=watch, name="orphan", daemon=True).start()
