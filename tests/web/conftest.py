"""What the tests of pages share: a teacher who is signed in."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page

from tests import school as people
from tests.school import sign_in


@pytest.fixture
def teacher(browser: Browser, address: str) -> Iterator[Page]:
    context = browser.new_context()
    page = context.new_page()
    sign_in(page, address, people.TEACHER)
    yield page
    context.close()
