"""Browser windows for tests, each of its own: what one test left in it no other sees."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from playwright.sync_api import Browser, Page

from tests.support.patience import patient_context


@contextmanager
def window(browser: Browser, **options: Any) -> Iterator[Page]:
    """Open a page in a context of its own, and close it afterwards.

    A context that is cleared and used again would save half a second, and now and then opens no page any more.
    """
    with patient_context(browser, **{"viewport": {"width": 1280, "height": 800}, **options}) as context:
        yield context.new_page()
