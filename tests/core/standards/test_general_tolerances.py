"""Published rows of ISO 2768-1:1989, table 1 (from memory)."""

import pytest

from rigid_bench.core.standards.general_tolerances import linear_tolerance
from rigid_bench.core.values.errors import InvalidDocument


@pytest.mark.parametrize(
    ("size", "f", "m", "c", "v"),
    [
        (3, 0.05, 0.1, 0.2, None),
        (6, 0.05, 0.1, 0.3, 0.5),
        (30, 0.1, 0.2, 0.5, 1.0),
        (30.1, 0.15, 0.3, 0.8, 1.5),
        (400, 0.2, 0.5, 1.2, 2.5),
        (1000, 0.3, 0.8, 2.0, 4.0),
        (2000, 0.5, 1.2, 3.0, 6.0),
        (4000, None, 2.0, 4.0, 8.0),
    ],
)
def test_the_rows_are_the_standards(size: float, f: float | None, m: float, c: float, v: float | None) -> None:
    for name, expected in (("f", f), ("m", m), ("c", c), ("v", v)):
        if expected is None:
            with pytest.raises(InvalidDocument, match="gives none"):
                linear_tolerance(size, f"ISO 2768-{name}")
        else:
            assert linear_tolerance(size, f"ISO 2768-{name}") == expected


@pytest.mark.parametrize("name", ["ISO 2768-x", "m", "ISO 286"])
def test_an_unknown_class_is_refused(name: str) -> None:
    with pytest.raises(InvalidDocument, match="no such tolerance class"):
        linear_tolerance(10, name)
