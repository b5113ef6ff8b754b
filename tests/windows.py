"""Browser windows for tests: one that was used is cleared and used again, as opening one takes a second of work."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from urllib.parse import urlsplit

from playwright.sync_api import Browser, BrowserContext, Page

from tests.patience import patient_context

_free: dict[str, list[BrowserContext]] = {}


@contextmanager
def window(browser: Browser, **options: Any) -> Iterator[Page]:
    """Lend a page of a context with these options that knows nothing of who had it before.

    Who changes more of the context than cookies, storage, connection and permissions takes one of his own.
    """
    wanted = {"viewport": {"width": 1280, "height": 800}, **options}
    free = _free.setdefault(json.dumps(wanted, sort_keys=True), [])
    context = free.pop() if free else patient_context(browser, **wanted)
    page = context.new_page()
    try:
        yield page
    finally:
        _forget(context, page)
        free.append(context)


def _forget(context: BrowserContext, page: Page) -> None:
    address = urlsplit(page.url)
    if address.netloc:
        origin = f"{address.scheme}://{address.netloc}"
        developer_tools = context.new_cdp_session(page)
        developer_tools.send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": "local_storage"})
    for open_page in context.pages:
        open_page.close()
    context.clear_cookies()
    context.clear_permissions()
    context.set_offline(False)
