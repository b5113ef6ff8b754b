"""The sample exercises and builds as they are shipped, so that no test models them anew.

`tests/demo/test_graded.py` holds that their modules make the same files today.
"""

from functools import cache
from types import ModuleType
from typing import Protocol

from rigid_bench.demo.graded import exercises, read_graded

#: The modules of the sample exercises, in the order in which they are taught.
_TAUGHT = ("drill_jig", "seed_drawer", "pedal_bin", "weather_mast")


class Named(Protocol):
    """A sample build of any of the modules."""

    @property
    def name(self) -> str:
        """What it is shipped as."""


def bundle_of(module: ModuleType) -> dict[str, bytes]:
    """Return the files of a sample exercise."""
    return dict(read_graded()[_TAUGHT.index(module.__name__.rpartition(".")[2])].bundle)


def files_of(sample: Named) -> dict[str, bytes]:
    """Return the files that are handed in of a sample build, as it is shipped: one that was changed makes its own."""
    assert sample == _all_samples()[sample.name]
    return dict(_all_files()[sample.name])


@cache
def _all_samples() -> dict[str, Named]:
    return {sample.name: sample for module in exercises() for sample in module.SAMPLES}


@cache
def _all_files() -> dict[str, dict[str, bytes]]:
    return {name: dict(sample.files) for exercise in read_graded() for name, sample in exercise.samples.items()}
