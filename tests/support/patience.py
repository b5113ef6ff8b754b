"""How long tests wait for what must come. On a machine that is busy otherwise all may take ten times as long;
who waits for what comes loses nothing.
"""

import time
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Browser, BrowserContext

PATIENCE_S = 240


def wait_until(condition: Callable[[], bool]) -> None:
    """Return as soon as the condition holds."""
    deadline = time.monotonic() + PATIENCE_S
    while not condition():
        assert time.monotonic() < deadline, "waited too long"
        time.sleep(0.1)


def patient_context(browser: Browser, **options: Any) -> BrowserContext:
    """Open a context of a browser whose pages are given their time; nobody looks at them: a quarter is drawn."""
    context = browser.new_context(**{"device_scale_factor": 0.5, **options})
    context.set_default_timeout(PATIENCE_S * 1000)
    return context
