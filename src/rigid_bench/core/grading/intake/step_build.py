"""The joints that STEP files declare become a build of what was read from them."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from rigid_bench.core.assembly.mates.registry import check_mate
from rigid_bench.core.formats.build import Build, Mate
from rigid_bench.core.formats.content.step_text import length_unit_mm
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.intake.submitted_parts import SubmittedInstance, SubmittedPart
from rigid_bench.core.grading.intake.table_build import declared_build
from rigid_bench.core.interchange.step_mechanism import read_mechanism
from rigid_bench.core.interchange.step_occurrences import Named


def build_of_mechanisms(
    files: Mapping[str, bytes], parts: Sequence[SubmittedPart], instances: Sequence[SubmittedInstance]
) -> tuple[Build | None, list[Message]]:
    """Return the build that the mechanisms of STEP files declare, and what was noticed of them.

    Parameters
    ----------
    files
        By name; those that are no STEP file declare nothing.
    parts, instances
        What was read from them, where it stands; instances keep their order.

    Returns
    -------
    Build or None
        None where no file has joints between two of the instances.
    """
    mates, bases, notices = list[Mate](), set[int](), list[Message]()
    for name, data in files.items():
        own, named = list[int](), list[Named]()
        for index, instance in enumerate(instances):
            part = None if instance.part is None else parts[instance.part]
            if part and part.file == name:
                own.append(index)
                named.append(Named(part=part.name, name=instance.name, pose=instance.pose))
        mechanism = read_mechanism(data, named, mm=length_unit_mm(data))
        if mechanism is None:
            continue
        mates += [replace(mate, a=own[mate.a], b=own[mate.b]) for mate in mechanism.mates]
        bases |= {own[base] for base in mechanism.bases}
        notices += [phrase(message.code, **message.params, file=name) for message in mechanism.notices]
    for mate in mates:
        check_mate(mate)
    if not mates:
        return None, notices
    notices.append(phrase("mechanism-read", count=len(mates)))
    return declared_build(mates, bases, parts, instances), notices
