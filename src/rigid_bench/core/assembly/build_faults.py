"""Everything that is wrong with a build file, not only the first of it: for whoever writes an exporter."""

from collections.abc import Iterator

from pydantic import ValidationError

from rigid_bench.core.assembly.mates.registry import check_mate
from rigid_bench.core.formats.build import FORMAT, BuildModel, make_mate, read_build
from rigid_bench.core.formats.documents import document_errors, read_json
from rigid_bench.core.values.errors import InvalidDocument, RigidBenchError
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import _


def build_faults(data: bytes, *, name: str) -> list[RigidBenchError]:
    """Find the faults of a build file.

    Parameters
    ----------
    data
        The file's bytes.
    name
        Its name, for messages.

    Returns
    -------
    list of RigidBenchError
        Each with its place in the file; empty for a build that can be used.
    """
    try:
        document = read_json(data, name=name)
    except InvalidDocument as exc:
        return [exc]
    if document.get("format") != FORMAT:
        problem = _('this is not a build file: "format" is not "{format}"', format=FORMAT)
        return [
            InvalidDocument(
                _("{name}, at format", name=name), problem, _('Write "format": "{format}", "version": 1', format=FORMAT)
            )
        ]
    try:
        model = BuildModel.model_validate(document)
    except ValidationError as exc:
        return list(document_errors(name, exc))
    of_mates = list(_mate_faults(model, name))
    if of_mates:
        return of_mates
    try:
        read_build(data, name=name)
    except RigidBenchError as exc:
        return [exc]
    return []


def _mate_faults(model: BuildModel, name: str) -> Iterator[RigidBenchError]:
    places = {instance.id: number for number, instance in enumerate(model.instances)}
    for number, own in enumerate(model.mates):
        where = f"{name}, at mates[{number}]"
        try:
            check_mate(make_mate(own, MM_PER_UNIT[model.units], places, where))
        except RigidBenchError as exc:
            is_placed = exc.where.startswith(where)
            yield exc if is_placed else InvalidDocument(f"{where}, {exc.where}", exc.problem, exc.next_step)
