"""A whole school presses at one moment: all wait their turn, and none is turned away."""

from concurrent.futures import ThreadPoolExecutor

from tests.support import school as people
from tests.support.school import School, Visitor

#: More than a process has threads and connections to the database together.
_AT_ONCE = 100


def test_more_requests_than_connections_are_all_answered(address: str, school: School) -> None:
    """What waits holds no connection that another, which has a thread, waits for."""
    visitor = Visitor(address, people.TEACHER)
    path = f"/classes/{school.class_id}"
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        answers = list(pool.map(lambda _: visitor.get(path).status_code, range(_AT_ONCE)))
    assert answers == [200] * _AT_ONCE
