"""Workers on machines of their own come and go while builds wait: each build is graded once."""

from benchmarks.machines import with_a_death
from rigid_bench.store.database import Database


def test_one_is_killed_and_one_joins_and_each_build_is_graded_once(database: Database) -> None:
    """As the benchmark does with two hundred; each worker has folders of its own and knows the database alone."""
    _, counts = with_a_death(database, 12)
    assert counts == {"graded once": 12, "graded twice": 0, "lost": 0}
