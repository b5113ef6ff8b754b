"""From a solved model to the draft of an exercise: its parts, the dimensions a drawing needs, how it goes together.

Of a part's many sizes those are proposed that a drawing needs, in the order in which people give
them: overall sizes, diameters, places of holes, depths, steps, roundings; each only if it fixes
something that the ones before leave free.
"""

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from rigid_bench.core.assembly.contact.clearance import clearances, place
from rigid_bench.core.assembly.contact.contacts import Contact, contact_build, find_contacts
from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.freedom_report import motion_report
from rigid_bench.core.exercise.authoring.bought_in import is_standard
from rigid_bench.core.exercise.authoring.process_advice import likely_process
from rigid_bench.core.exercise.authoring.propose_clearances import running_clearances
from rigid_bench.core.exercise.authoring.propose_sizes import dimensions
from rigid_bench.core.formats.build import Build, Instance
from rigid_bench.core.formats.documents import feature_document
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.kernel.step_writer import write_step
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Model
from rigid_bench.core.part.symmetry import is_same_shape, motions_between
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.errors import MeshCannotAnswer, UnreadableFile
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import N_, _

#: Relations and freedoms that are proposed at most; a teacher drops what is not wanted.
_MOST = 60


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Proposed:
    """A part of the draft."""

    id: str
    name: str
    features: PartFeatures
    #: The model's parts that have this shape, and how its coordinates lie in those of each.
    members: dict[str, Pose]
    is_bought: bool


def propose(data: bytes, *, name: str, title: str, tolerance: Tolerance) -> dict[str, bytes]:
    """Propose an exercise for a solved model.

    Parameters
    ----------
    data
        A STEP file: an assembly, or single parts.
    name
        Its name, for messages.
    title
        Of the exercise.
    tolerance
        For reading features and contacts.

    Returns
    -------
    dict of str to bytes
        An exercise bundle: everything measured is the nominal.

    Raises
    ------
    UnreadableFile, GeometryError
        The file cannot be used.
    MeshCannotAnswer
        It holds triangles and no solids.
    """
    model = read_model(data, name=name)
    parts = _parts(model, tolerance)
    if not parts:
        raise UnreadableFile(name, _("there is no solid in it"), _("Export the assembly as STEP with its solids"))
    if any(part.features.is_mesh for part in parts):
        raise MeshCannotAnswer(name, _("an exercise is made from solids, not from triangles"), _("Export it as STEP"))
    instances = _instances(model, parts)
    checks = [check for part in parts if not part.is_bought for check in dimensions(part.id, part.features, tolerance)]
    document: dict[str, Any] = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": slug(title),
        "title": title,
        "units": "mm",
        "parts": [
            {
                "id": part.id,
                "name": part.name,
                "file": f"{part.id}.step",
                "origin": "bought" if part.is_bought else "made",
                **({} if part.is_bought else {"process": likely_process(part.features)}),
                "count": max(1, sum(instance.part == part.id for instance in instances)),
            }
            for part in parts
        ],
        "flow": "either",
        "grounding": ["declared", "first", "origin"],
        "tolerance": "ISO 2768-m",
        "checks": checks,
    }
    files = {f"{part.id}.step": write_step(part.features.shape, name=part.name) for part in parts}
    if len(instances) > 1:
        shapes = {part.id: part.features for part in parts}
        contacts = find_contacts(
            [(shapes[instance.part], instance.pose) for instance in instances], tolerance=tolerance
        )
        held = contact_build(instances, contacts)
        document["reference"] = "reference.build.json"
        document["checks"] = checks + _assembly(held, contacts, parts, tolerance)
        files["reference.build.json"] = _json(_build(held, parts))
    document["stages"] = [{"name": _("Parts right"), "checks": [check["id"] for check in checks]}] if checks else []
    if len(instances) > 1:
        document["stages"].append({"name": _("Whole build"), "checks": ["*"]})
    return {"exercise.json": _json(document), **files}


def _json(document: Any) -> bytes:
    return json.dumps(document, indent=1, ensure_ascii=False).encode()


def _parts(model: Model, tolerance: Tolerance) -> list[_Proposed]:
    """Group the model's parts by shape; several products of one shape are one part in several copies."""
    proposals: list[_Proposed] = []
    taken: set[str] = set()
    for part in model.parts:
        if not part.solids:
            continue
        features = read_part(part.shape, tolerance=tolerance)
        same = next((own for own in proposals if is_same_shape(own.features, features, tolerance=tolerance)), None)
        if same is not None:
            same.members[part.id] = next(motions_between(same.features, features, tolerance=tolerance))
            continue
        part_id = unique(slug(part.name), taken)
        proposals.append(
            _Proposed(
                id=part_id,
                name=part.name or part_id,
                features=features,
                members={part.id: Pose.identity()},
                is_bought=is_standard(features),
            )
        )
    return proposals


def _instances(model: Model, parts: Sequence[_Proposed]) -> list[Instance]:
    """Place the parts; a copy whose shape stands otherwise in its own coordinates is carried over."""
    by_member = {member: part for part in parts for member in part.members}
    counts: dict[str, int] = {}
    instances: list[Instance] = []
    for instance in model.instances:
        part = by_member.get(instance.part)
        if part is None:
            continue
        counts[part.id] = counts.get(part.id, 0) + 1
        pose = instance.pose @ part.members[instance.part]
        instances.append(Instance(id=f"{part.id}-{counts[part.id]}", part=part.id, grounded=not instances, pose=pose))
    return instances


def _assembly(
    held: Build, contacts: Sequence[Contact], parts: Sequence[_Proposed], tolerance: Tolerance
) -> list[dict[str, Any]]:
    instances = held.instances
    names = {part.id: part.name for part in parts}
    checks: list[dict[str, Any]] = [
        {"id": "parts", "title": _("All parts"), "kind": "parts", "marks": 2},
        {"id": "base", "title": _("{names} grounded", names=names[instances[0].part]), "kind": "grounded", "marks": 1,
         "instance": instances[0].id},
    ]  # fmt: skip
    taken = {"parts", "base", "overlap"}
    checks += [_relation(contact, instances, names, taken) for contact in _largest(contacts)][:_MOST]
    free = freedom(held, tolerance=tolerance)
    back = instances[0].pose.inverse()
    for k, instance in enumerate(instances[1:], 1):
        motions = [motion.moved(back) for motion in free.motions(k, 0)]
        if len(motions) < 6:
            name = unique(f"{instance.id}.free", taken)
            title = _(N_("{name} moves as it should") if motions else N_("{name} held"), name=names[instance.part])
            asked = [motion_report(motion).model_dump(mode="json", exclude_none=True) for motion in motions]
            checks.append({"id": name, "title": title, "kind": "freedom", "marks": 2, "instance": instance.id,
                           "to": instances[0].id, "motions": asked})  # fmt: skip
    bought = {part.id for part in parts if part.is_bought}
    checks += running_clearances(free, contacts, instances, names, bought=bought, taken=taken)
    shapes = {part.id: part.features for part in parts}
    solids = [place(instance.id, shapes[instance.part], instance.pose) for instance in instances]
    expected = [
        {"a": clearance.a, "b": clearance.b, "why": _('as in the model'),
         "min": round(0.9 * clearance.overlap_mm3, 3), "max": round(1.1 * clearance.overlap_mm3, 3)}
        for clearance in clearances(solids, tolerance=tolerance)
        if clearance.state == "interfering"
    ]  # fmt: skip
    overlap = {
        "id": "overlap",
        "title": _("Nothing overlaps"),
        "kind": "interference",
        "marks": 2,
        "expected": expected,
    }
    return [*checks, overlap]


def _largest(contacts: Sequence[Contact]) -> Iterator[Contact]:
    """Yield one seat and one axis for each two instances: the ones that say where they are."""
    seen: set[tuple[int, int, str, tuple[float, ...]]] = set()
    for contact in contacts:
        if contact.kind == "meet" and contact.touches and isinstance(contact.feature_a, PlaneFeature):
            key = (contact.a, contact.b, "meet", tuple(np.round(contact.feature_a.normal, 3).tolist()))
        elif contact.kind == "seated":
            key = (contact.a, contact.b, "seated", ())
        else:
            continue
        if key not in seen:
            seen.add(key)
            yield contact


def _relation(
    contact: Contact, instances: Sequence[Instance], names: dict[str, str], taken: set[str]
) -> dict[str, Any]:
    a, b = instances[contact.a], instances[contact.b]
    is_seat = contact.kind == "meet"
    name = unique(f"{b.id}.{'seat' if is_seat else 'axis'}", taken)
    title = _(N_("{b} on {a}") if is_seat else N_("{b} in line with {a}"), b=names[b.part], a=names[a.part])
    sides = {
        side: {"instance": instance.id, **feature_document(feature)}
        for side, instance, feature in (("a", a, contact.feature_a), ("b", b, contact.feature_b))
    }
    more = {"relation": "coincident", "sense": "opposed"} if is_seat else {"relation": "coaxial"}
    return {"id": name, "title": title, "kind": "relation", "marks": 1, **more, **sides}


def _build(held: Build, parts: Sequence[_Proposed]) -> dict[str, Any]:
    """Write the reference build, held by what its own faces show."""
    mates = []
    for mate in held.mates:
        sides = {
            side: {"instance": held.instances[k].id, **feature_document(feature)}
            for side, k, feature in (("a", mate.a, mate.feature_a), ("b", mate.b, mate.feature_b))
        }
        value = {} if mate.value is None else {"value": round(mate.value, 6)}
        mates.append({"id": mate.id, "kind": mate.kind, "sense": mate.sense, **value, **sides})
    return {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [{"id": part.id, "name": part.name, "file": f"{part.id}.step"} for part in parts],
        "instances": [
            {
                "id": instance.id,
                "part": instance.part,
                "grounded": instance.grounded,
                "pose": {"position": instance.pose.position.tolist(), "quaternion": instance.pose.quaternion()},
            }
            for instance in held.instances
        ],
        "mates": mates,
    }
