"""What all tests share: their order, the examples that are tried, and the fixtures of a running program."""

import gc
import os
import random
from pathlib import Path

import pytest
from hypothesis import settings as examples

import rigid_bench  # noqa: F401 (first: it sets how many threads numpy uses)
from rigid_bench.demo.graded import read_graded

# the same examples in every run, on no clock: a busy machine is no fault; HYPOTHESIS_PROFILE=new looks for others
examples.register_profile("same", derandomize=True, deadline=None)
examples.register_profile("new", deadline=None)
examples.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))
#: The core needs no running program.
_CORE = ("src/rigid_bench/core", "tests/core", "tests/test_layers.py")


def pytest_configure(config: pytest.Config) -> None:
    """Load the fixtures of a running program where tests are run that may need them."""
    if not all(argument.startswith(_CORE) for argument in config.args):
        config.pluginmanager.import_plugin("tests.support.running")


def pytest_ignore_collect(collection_path: Path, config: pytest.Config) -> bool | None:
    """Do not even load files of thorough tests where these are left out: what they load takes longer than the rest."""
    is_left_out = config.getoption("markexpr") == "not thorough" and collection_path.suffix == ".py"
    return True if is_left_out and "pytestmark = pytest.mark.thorough" in collection_path.read_text() else None


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files that drive a browser or run a worker come first: run beside each other, the longest must not come last.

    With `TEST_ORDER=7` files come in another order, and so do the tests of each: the same for the same number.
    """
    if order := os.environ.get("TEST_ORDER"):
        random.Random(order).shuffle(items)
        places = {path: place for place, path in enumerate(dict.fromkeys(item.path for item in items))}
        items.sort(key=lambda item: places[item.path])
        return

    def weight(item: pytest.Item) -> int:
        wanted = set(getattr(item, "fixturenames", ()))
        return -len(wanted & {"browser", "worker", "address"})

    by_file: dict[Path, int] = {}
    for item in items:
        by_file[item.path] = min(weight(item), by_file.get(item.path, 0))
    items.sort(key=lambda item: by_file[item.path])


@pytest.fixture(scope="session")
def seed_drawer() -> dict[str, bytes]:
    return dict(read_graded()[1].bundle)


def pytest_collection_finish() -> None:
    """What was imported until here stays: what the kernel's binding made is not looked through again and again."""
    gc.collect()
    gc.freeze()
