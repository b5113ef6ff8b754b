"""Write the JSON Schema of every document from its model into docs/schemas."""

import json
from pathlib import Path

from rigid_bench.core.assembly.freedom.freedom_report import FreedomReport
from rigid_bench.core.assembly.solve.solve_report import SolveReport
from rigid_bench.core.drawing.report import DrawingReport
from rigid_bench.core.exercise.bundle import ExerciseModel
from rigid_bench.core.formats.audit import AuditReport
from rigid_bench.core.formats.build import BuildModel
from rigid_bench.core.formats.clearance import ClearanceReport
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.measure import MeasureReport
from rigid_bench.core.grading.checks import KINDS
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.practice.drill import Drill

FOLDER = Path(__file__).parents[1] / "docs" / "schemas"


def schemas() -> dict[str, str]:
    """Return the text of every schema, by file name."""
    models: dict[str, type[Document]] = {
        "build": BuildModel,
        "exercise": ExerciseModel,
        "measure-report": MeasureReport,
        "freedom-report": FreedomReport,
        "solve-report": SolveReport,
        "clearance-report": ClearanceReport,
        "grade-report": Report,
        "audit-report": AuditReport,
        "drawing-report": DrawingReport,
        "practice": Drill,
        **{f"check-{name}": kind.fields for name, kind in KINDS.items()},
    }
    return {f"{name}.json": _text(model, "report" in name) for name, model in models.items()}


def _text(model: type[Document], is_written: bool) -> str:
    schema = model.model_json_schema(mode="serialization" if is_written else "validation")
    return json.dumps(schema, indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, text in schemas().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
