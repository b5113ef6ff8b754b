"""Write the table of measures, what each gives and which features it takes, from the code into docs/checks.md."""

from pathlib import Path

from rigid_bench.core.measurement.measure import MEASURES
from rigid_bench.core.measurement.measure_request import MeasureKind

PAGE = Path(__file__).parents[1] / "docs" / "checks.md"
_BEGIN, _END = "<!-- measures: made by scripts/measure_table.py -->\n", "<!-- end of measures -->\n"
_HEAD = "| measure | gives | features: cylinders and countersinks serve as an axis |"


def table() -> str:
    """Return the table in Markdown."""
    rows = [f"| `{name}` | {_said(kind)} | {_taken(kind)} |" for name, kind in MEASURES.items()]
    return "\n".join([_HEAD, "| --- | --- | --- |", *rows, ""])


def page() -> str:
    """Return the page with the table as it should be."""
    before, _, rest = PAGE.read_text(encoding="utf-8").partition(_BEGIN)
    return before + _BEGIN + "\n" + table() + "\n" + _END + rest.partition(_END)[2]


def _said(kind: MeasureKind) -> str:
    return (kind.find.__doc__ or "").splitlines()[0].rstrip(".").removeprefix("Measure ").removeprefix("Return ")


def _taken(kind: MeasureKind) -> str:
    return "; ".join(" + ".join(names) for names in kind.takes) or "the whole part"


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
