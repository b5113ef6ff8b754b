"""Who may end a draft, an account, a password or a class does so in a school of its own."""

import pytest

from rigid_bench.store.database import Database
from rigid_bench.store.queries import draft_queries
from tests.support.school import School
from tests.web.security.test_access import ALLOWED, ENDINGS, assert_let_in, signed_in, values_of


@pytest.mark.parametrize(("route", "visitor"), [(route, who) for route in sorted(ENDINGS) for who in ALLOWED[route]])
def test_who_may_end_something_is_let_in(
    address: str, school: School, database: Database, route: str, visitor: str
) -> None:
    with database.session() as session:
        draft = draft_queries.add_draft(
            session, teacher_id=school.teacher_id, title="Draft", source_name="a.step", source=b""
        )
        change = draft_queries.add_change(session, teacher_id=school.teacher_id, version_id=school.version_id, sizes=[])
        values = values_of(school, build_id=0, draft_id=draft.id, bench_id=0, change_id=change.id)
    assert_let_in(signed_in(address, visitor), route, values, may=True)
