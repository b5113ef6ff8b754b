"""Files measured: runs in the sandbox, files in, reports out."""

from rigid_bench.core.formats.measure import MeasureReport
from rigid_bench.core.measurement.measure_report import measure_file
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.jobs.geometry.progress import noting


def measure_step(data: bytes, name: str, unit: str | None, note: str) -> MeasureReport:
    """Measure one file of parts; a `unit` for a mesh that says none."""
    noting(note)(f"Measuring {name}")
    return measure_file(data, name=name, tolerance=Tolerance(), unit=unit)
