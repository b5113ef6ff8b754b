"""The tables of the trade: every table with its source, searched as one types."""

import pytest
from playwright.sync_api import Page, expect

from rigid_bench.core.standards.tables import all_tables
from tests.support import school as people
from tests.support.school import Visitor, sign_in


def test_every_table_has_a_source_and_full_rows() -> None:
    for table in all_tables():
        assert table.source
        assert table.rows
        assert {len(row) for row in table.rows} == {len(table.columns)}, table.id
    assert len({table.id for table in all_tables()}) == len(all_tables())


@pytest.mark.usefixtures("school")
@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("M8 coarse", "6.8"),
        ("608", "22"),
        ("acrylic", "1.19"),
        ("1/4-20", "6.35"),
        ("nothing like this", "No row has all of these words"),
        ("<b>", "&lt;b&gt;"),
    ],
)
def test_a_search_shows_the_rows_with_its_words(address: str, words: str, says: str) -> None:
    answer = Visitor(address, people.STUDENT).get(f"/tables?q={words.replace(' ', '+')}")
    assert says in answer.text


@pytest.mark.usefixtures("school")
def test_typing_narrows_the_tables(page: Page, address: str) -> None:
    sign_in(page, address, people.STUDENT)
    page.get_by_role("link", name="Tables").click()
    expect(page.get_by_role("link", name="Ball bearings").first).to_be_visible()
    page.keyboard.type("608")  # the search is in focus
    expect(page.get_by_role("row", name="608 8 22 7")).to_be_visible()
    expect(page.get_by_role("heading", name="Metric threads")).to_have_count(0)
    page.get_by_role("heading", name="Ball bearings").get_by_role("link").click()
    expect(page).to_have_url(f"{address}/tables/ball-bearings")


@pytest.mark.usefixtures("school")
def test_each_table_has_an_address_of_its_own(address: str) -> None:
    student = Visitor(address, people.STUDENT)
    for table in all_tables():
        text = student.get(f"/tables/{table.id}").text
        assert text.count("<tbody>") == 1
        assert f">{table.title}</h2>" in text
    assert "metric-threads" in {table.id for table in all_tables()}
    missing = student.get("/tables/no-such")
    assert missing.status_code == 404
    assert "there is no table" in missing.text
