"""What is found of an exercise before it is released, as pages have it."""

from typing import Any

from rigid_bench.core.exercise.authoring.check_factory import PlacedInstance
from rigid_bench.core.exercise.authoring.kind_form import FormField
from rigid_bench.core.formats.audit import AuditReport
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import OnceSentence
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.grading.report.models import Prepared


class OwnMark(Document):
    """A check that the exercise's own model does not meet."""

    id: str
    title: str
    verdict: str
    measured: OnceSentence
    required: OnceSentence


class Examined(Document):
    """What is found of an exercise."""

    prepared: Prepared
    audit: AuditReport
    #: The marks that the reference earns when it is graded against its own exercise.
    awarded: float
    available: float
    #: Where it loses some.
    missed: list[OwnMark]
    #: What is likely to be wrong with what is drawn; advice.
    faults: list[str] = []
    #: By part: what can be pointed at in its views.
    pointable: dict[str, list[Pointable]] = {}
    #: By part: the places among these of what is still loose, and the dimensions that would fix it.
    loose: dict[str, list[int]] = {}
    offered: dict[str, list[dict[str, Any]]] = {}
    #: The reference build, by instance.
    places: dict[str, PlacedInstance] = {}
    #: By check: the places among these of what a dimension speaks of.
    speaks_of: dict[str, list[int]] = {}
    #: By kind of check: what its form asks.
    forms: dict[str, list[FormField]] = {}

    @property
    def is_sound(self) -> bool:
        """The reference earns full marks, and every size is on the sheet once."""
        return not self.missed and all(part.complete and not part.redundant for part in self.audit.parts.values())
