"""Each test of this folder has a school, a server and a worker of its own: what one changes, no other sees."""

from collections.abc import Iterator

import pytest

from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from tests.support.program import migrated_database, serving, usual_settings, working
from tests.support.school import School, make_school


@pytest.fixture
def database(cluster_url: str, template: str) -> Iterator[Database]:
    with migrated_database(cluster_url, template) as own:
        yield own


@pytest.fixture
def school(database: Database) -> School:
    return make_school(database)


@pytest.fixture
def settings(database: Database) -> Settings:
    return usual_settings(database)


@pytest.fixture
def address(settings: Settings, school: School) -> Iterator[str]:
    with serving(settings) as own:
        yield own


@pytest.fixture
def worker(settings: Settings, database: Database, sandbox: Sandbox) -> Iterator[None]:
    with working(settings, database, sandbox):
        yield
