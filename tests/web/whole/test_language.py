"""Every sentence of a page goes through the catalogue: in a made-up language what goes past it stands out."""

import json
import re
from collections.abc import Iterator
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, Page

from rigid_bench.demo.graded import read_graded
from rigid_bench.demo.people import Person
from rigid_bench.languages import PSEUDO
from rigid_bench.settings import Settings
from rigid_bench.store.class_settings import LANGUAGES
from rigid_bench.store.database import Database
from rigid_bench.web.words.languages import speak_on_pages
from tests.support import school as people
from tests.support.graded_builds import hand_in_sample
from tests.support.school import School
from tests.support.windows import window

#: Reads what stands outside the brackets of the made-up language: text, and what is read out; lettering of drawings
#: is made with the exercise.
READ = """() => {
  const found = [];
  let depth = 0;
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT | NodeFilter.SHOW_ELEMENT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    if (node.nodeType === Node.ELEMENT_NODE) {
      for (const name of ["aria-label", "title", "placeholder", "alt"]) {
        const words = (node.getAttribute(name) || "").replace(/⟦.*⟧/gs, "");
        if (depth === 0 && words) found.push(words);
      }
      continue;
    }
    let words = "";
    for (const letter of node.data) {
      if (letter === "⟦") depth += 1;
      else if (letter === "⟧") depth -= 1;
      else if (depth === 0) words += letter;
    }
    if (words.trim() && !node.parentElement.closest("script, style, template, textarea, code, kbd, svg, .typed")) {
      found.push(words.trim().replace(/\\s+/g, " "));
    }
  }
  return found;
}"""
#: Made by lot, from names of invented parts; read-only documents and files; what ends the visit.
_PASSED_OVER = re.compile(
    r"/practice/.+|/insight/teach|/tables/.+|\.(csv|xlsx|pdf|zip|svg|dxf|step|json|ics|stl|glb)$|/sign-out"
)
#: Units, ends of files, formats and standards, the same in every language; months, days and lists, which Babel says.
_NO_SENTENCE = re.compile(
    r"\b(mm|cm|in|g|min|h|s|kB|MB|UTC|Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec|Mon|Tue|Wed|Thu|Fri|Sat|Sun|STEP"
    r"|DXF|SVG|PDF|CSV|XLSX|OneRoster|ISO|ASME|DOF|XYZ|GLB|STL|3MF|URDF|glTF|Rigid Bench|deg|v\d+"
    r"|[A-Z0-9]{3}-[A-Z0-9]{3}|and|or)\b"
    r"|[\w.-]+\.(build\.json|json|step|stp|zip|csv)\b"
)
_WORD = re.compile(r"[A-Za-zÀ-ž]{2,}")


@pytest.fixture(scope="module")
def settings(database: Database) -> Iterator[Settings]:
    """The program speaks the made-up language."""
    yield Settings(database_url=database.url, language=PSEUDO)
    speak_on_pages("en")


def signed_in(browser: Browser, address: str, person: Person) -> Iterator[Page]:
    with window(browser) as page:
        page.goto(f"{address}/sign-in")
        page.fill("input[name=login]", person.login)
        page.fill("input[name=password]", person.password)
        page.click("main button")
        page.wait_for_url(f"{address}/")
        yield page


@pytest.fixture
def teacher(browser: Browser, address: str) -> Iterator[Page]:
    yield from signed_in(browser, address, people.TEACHER)


@pytest.fixture
def student(browser: Browser, address: str) -> Iterator[Page]:
    yield from signed_in(browser, address, people.STUDENT)


@pytest.fixture(scope="module")
def graded_build(database: Database, school: School) -> int:
    """A build of the seed drawer with slips in it, graded."""
    with database.session() as session:
        return hand_in_sample(session, school, "radius-for-diameter").id


def names_in(document: object) -> Iterator[str]:
    """Everything that a document says itself: names, titles, hints."""
    if isinstance(document, dict):
        for value in document.values():
            yield from names_in(value)
    elif isinstance(document, list):
        for value in document:
            yield from names_in(value)
    elif isinstance(document, str):
        yield document


def own_words() -> list[str]:
    """What people wrote: the longest first."""
    drawer = read_graded()[1]
    persons = [value for value in vars(people).values() if isinstance(value, Person)]
    written = {name for person in persons for name in (person.name, person.login)}
    # the format's own values, and the class's names
    written |= {"Class One", "Class Two", "as modelled", *LANGUAGES.values()}
    for document in (
        drawer.prepared,
        json.loads(drawer.bundle["exercise.json"]),
        *(sample.report for sample in drawer.samples.values()),
    ):
        written |= set(names_in(document))
    return sorted((words for words in written if len(words) > 1), key=len, reverse=True)


def missed(words: str, written: list[str]) -> bool:
    """Say whether a text holds a word that nobody wrote and that did not go through the catalogue."""
    for own in written:
        words = words.replace(own, " ")
    return bool(_WORD.search(_NO_SENTENCE.sub(" ", words)))


def visited(page: Page, address: str, first: str) -> dict[str, list[str]]:
    """Walk through all sorts of pages that links lead to; what each shows outside the catalogue."""
    todo, sorts, seen = [first], set(), dict[str, list[str]]()
    while todo:
        url = todo.pop(0)
        path = urlsplit(url).path
        sort = re.sub(r"\d+", "N", path)
        if sort in sorts or _PASSED_OVER.search(path):
            continue
        sorts.add(sort)
        answer = page.request.get(url)
        if "text/html" not in answer.headers.get("content-type", "") or answer.status != 200:
            continue
        page.goto(url, wait_until="load")
        seen[path] = page.evaluate(READ)
        links = page.eval_on_selector_all("a[href]", "links => links.map(link => link.href)")
        todo += [link for link in links if link.startswith(address)]
    return seen


@pytest.mark.parametrize("who", ["teacher", "student"])
def test_no_page_says_what_is_in_no_catalogue(
    who: str, request: pytest.FixtureRequest, address: str, graded_build: int
) -> None:
    page: Page = request.getfixturevalue(who)
    first = f"{address}/builds/{graded_build}{'/mark' if who == 'teacher' else ''}"
    pages = visited(page, address, first) | visited(page, address, f"{address}/")
    written = own_words()
    missing = {path: [words for words in said if missed(words, written)] for path, said in pages.items()}
    assert len(pages) > (20 if who == "teacher" else 10), sorted(pages)
    assert {path: words for path, words in missing.items() if words} == {}


def test_what_is_in_no_catalogue_stands_out(teacher: Page, address: str) -> None:
    teacher.goto(f"{address}/help")
    teacher.evaluate("document.body.insertAdjacentHTML('beforeend', '<p title=\"Nor this\">Nobody looked this up</p>')")
    assert {"Nobody looked this up", "Nor this"} <= set(teacher.evaluate(READ))
    assert all(map(missed, ("Nobody looked this up", "Nor this"), ([], [])))
