"""A drill as plain data, in the published format (`docs/schemas/practice.json`)."""

from typing import Any, Literal

from rigid_bench.core.formats.documents import Document

Form = Literal["rose", "choice", "number", "point"]


class Choice(Document):
    """One answer that is offered."""

    id: str
    text: str
    #: The id of a mate of the build that could go, a mate that could be added, or ids that cannot hold together.
    mate: str | dict[str, Any] | list[str] | None = None
    instance: str | None = None
    feature: dict[str, Any] | None = None
    #: A dimension that the sheet could have.
    check: dict[str, Any] | None = None
    #: Motions, as in a freedom report.
    motions: list[dict[str, Any]] | None = None
    #: What is drawn for it: polylines, mm.
    lines: list[list[list[float]]] | None = None


class Near(Document):
    """A number that a usual slip gives, and the slip, in a sentence."""

    value: float
    text: str


class Step(Document):
    """One question with its answer."""

    question: str
    form: Form
    choices: list[Choice] = []
    #: Every right choice is to be taken; else any one of them will do.
    many: bool = False
    #: Ids of choices, open petals, or one number.
    answer: list[Any]
    unit: str | None = None
    tolerance: float | None = None
    near: list[Near] = []
    explanation: str


class Drill(Step):
    """A drill: the same for the same kind, seed, level and version."""

    kind: str
    seed: int
    level: int
    #: What is needed to check the answer by another road.
    given: dict[str, Any]
    #: A second step, such as naming the slip.
    then: Step | None = None
    #: The cause code of the fault that was planted.
    slip: str | None = None
    #: What is drawn, by instance: blocks, rods and balls, mm in the part's coordinates; not part of the answer.
    shapes: dict[str, list[dict[str, Any]]] = {}
    #: By mate of the build: what it joins, and how.
    mates: dict[str, str] = {}


#: In the order of the published format.
ORDER = (
    "kind", "seed", "level", "question", "given", "form", "choices", "many", "answer", "unit", "tolerance", "near",
    "then", "explanation", "slip", "shapes", "mates",
)  # fmt: skip


def drill_json(drill: Drill) -> dict[str, Any]:
    """Return a drill as JSON, its fields in the order of the format."""
    own = drill.model_dump(mode="json")
    return {name: own[name] for name in ORDER}
