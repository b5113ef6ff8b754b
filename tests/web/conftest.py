"""What the tests of pages share: a teacher and a student who are signed in, and a class that works on the mast."""

from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

from rigid_bench.demo.graded import read_graded
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import exercise_queries
from rigid_bench.store.versions import keep_version
from tests.support import school as people
from tests.support.program import new_database, serving
from tests.support.school import School, sign_in
from tests.support.windows import window


@pytest.fixture
def empty_settings(cluster_url: str, template: str) -> Settings:
    """A migrated database in which nobody is yet."""
    return Settings(database_url=new_database(cluster_url, template=template))


@pytest.fixture
def empty_address(empty_settings: Settings) -> Iterator[str]:
    """A program on a database in which nobody is yet."""
    with serving(empty_settings) as address:
        yield address


@pytest.fixture
def teacher(browser: Browser, address: str) -> Iterator[Page]:
    with window(browser) as page:
        sign_in(page, address, people.TEACHER)
        yield page


@pytest.fixture(scope="module")
def with_mast(database: Database, school: School) -> School:
    """The class works on the weather mast, too."""
    graded = read_graded()[3]
    with database.session() as session:
        version = keep_version(session, graded.bundle, graded.prepared)
        exercise_queries.assign(session, class_id=school.class_id, version_id=version.id)
    return school


@pytest.fixture
def student(browser: Browser, address: str) -> Iterator[Page]:
    with window(browser) as page:
        sign_in(page, address, people.STUDENT)
        yield page


@pytest.fixture(scope="module")
def examined(sandbox: Sandbox, seed_drawer: dict[str, bytes]) -> dict[str, Any]:
    """What is found of the seed drawer, as a draft keeps it."""
    examined: dict[str, Any] = sandbox.run("authoring.examine_exercise", seed_drawer, name="drawer").model_dump(
        mode="json"
    )
    return examined
