"""What a bench holds as one STEP file: each part once, its instances where they stand."""

from collections.abc import Mapping

from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.kernel.step_writer import Component, write_assembly
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _


def step_of_bench(state: BenchState, shapes: Mapping[str, PartFeatures], names: Mapping[str, str]) -> bytes:
    """Return a STEP file (AP214, mm) of what is placed.

    Parameters
    ----------
    state
        The bench.
    shapes, names
        Of its parts, by their ids there.

    Raises
    ------
    FormRejected
        Nothing is placed.
    GeometryError
        The kernel cannot write it.
    """
    if not state.placed:
        raise FormRejected(_("bench"), _("no part is placed yet"), _("Bring in the base first"))
    used = dict.fromkeys(instance.part for instance in state.placed)
    return write_assembly(
        {part: (names[part], shapes[part].shape) for part in used},
        [Component(name=instance.id, part=instance.part, pose=instance.pose) for instance in state.placed],
    )
