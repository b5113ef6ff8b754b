"""What features a part lacks and which it has besides: one that is there with another size is neither."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import lru_cache

from rigid_bench.core.formats.message import Message
from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.faces import Cone, Cylinder, Plane, Sphere, Torus
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import Inventory, inventory_of
from rigid_bench.core.part.recognition.prisms import Prism
from rigid_bench.core.part.recognition.round_surfaces import BELONGING
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.features import counted, features_by_kind


@dataclass(frozen=True, slots=True, kw_only=True)
class FeatureDifferences:
    """Like features together."""

    missing: list[Message]
    extra: list[Message]
    #: Of another size than the reference's, on faces that answer to the reference's.
    changed: list[Message]
    #: How many faces belong to no feature that is known, and answer to nothing of the reference.
    loose_faces: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Feature:
    name: Message
    #: As `features_by_kind` has it: one that changed is taken for one of its kind that is missing.
    kind: str
    #: Places in the part's surfaces.
    surfaces: frozenset[int]


@lru_cache(maxsize=32)
def feature_differences(registered: RegisteredPart, tolerance: Tolerance) -> FeatureDifferences:
    """Compare the features of a part with those of its reference.

    A blind hole that should go through has the right wall; what reads as a slot between two walls that were
    cut low has no face of its own. Neither is one thing missing and another there besides.
    """
    wanted, features = _features(registered.reference, tolerance), _features(registered.part, tolerance)
    missing, besides = _beyond(wanted, features), _beyond(features, wanted)
    changed, extra = [], []
    for feature in besides:
        like = next((other for other in missing if other.kind == feature.kind), None)
        answers = _is_known(registered, feature)
        if answers or (answers is None and like):
            changed.append(feature)
            if like:
                missing.remove(like)
        else:
            extra.append(feature)
    return FeatureDifferences(
        missing=_said(missing), extra=_said(extra), changed=_said(changed), loose_faces=_loose(registered, changed)
    )


def _beyond(own: Sequence[_Feature], other: Sequence[_Feature]) -> list[_Feature]:
    """Return what one part has that the other has not in the same words."""
    unmatched, kept = [feature.name for feature in other], []
    for feature in own:
        if feature.name in unmatched:
            unmatched.remove(feature.name)
        else:
            kept.append(feature)
    return kept


def _is_known(registered: RegisteredPart, feature: _Feature) -> bool | None:
    """Say whether most walls of a feature answer to the reference's; None for a cone or ring, of which none knows."""
    walls = [registered.part.surfaces[number] for number in feature.surfaces]
    faces = {face for wall in walls if isinstance(wall, Plane | Cylinder) for face in wall.faces}
    return 2 * len(faces & registered.unasked) < len(faces) if faces else None


def _loose(registered: RegisteredPart, changed: Sequence[_Feature]) -> int:
    """Count the faces without an answer that do not belong to a feature that changed, such as a new floor."""
    part = registered.part
    near = {number for feature in changed for number in feature.surfaces}
    near |= {beyond for number in tuple(near) for _, beyond in part.edges.neighbours(number)}
    return len(registered.unasked - {face for number in near for face in part.surfaces[number].faces})


def _features(part: PartFeatures, tolerance: Tolerance) -> list[_Feature]:
    inventory = inventory_of(part, tolerance)
    surfaces = _surfaces_by_kind(part, inventory)
    return [
        _Feature(name=name, kind=kind, surfaces=frozenset(numbers))
        for kind, names in features_by_kind(feature_report(part, inventory)).items()
        for name, numbers in zip(names, surfaces[kind], strict=True)
    ]


def _surfaces_by_kind(part: PartFeatures, inventory: Inventory) -> dict[str, list[Collection[int]]]:
    """List the surfaces of each feature in the order in which `features_by_kind` says them."""
    at = {face: number for number, surface in enumerate(part.surfaces) for face in surface.faces}
    # the report counts roundings and chamfers of one size together
    radii = list(dict.fromkeys(fillet.radius for fillet in inventory.fillets))
    sizes = list(dict.fromkeys((chamfer.legs, chamfer.angle) for chamfer in inventory.chamfers))
    fillets = sorted(inventory.fillets, key=lambda fillet: radii.index(fillet.radius))
    chamfers = sorted(inventory.chamfers, key=lambda chamfer: sizes.index((chamfer.legs, chamfer.angle)))
    named = [number for number, name in inventory.round_surfaces.items() if name not in BELONGING]
    return {
        "hole": [{at[face] for face in hole.cylinder.faces} for hole in inventory.holes],
        "boss": [{at[face] for face in boss.faces} for boss in inventory.bosses],
        "slot": [slot.surfaces for slot in inventory.slots],
        "pocket": [prism.walls for prism in inventory.pockets if not _is_polygon(prism)],
        "prismatic boss": [prism.walls for prism in inventory.prismatic_bosses if not _is_polygon(prism)],
        "polygon": [prism.walls for prism in inventory.polygons],
        "fillet": [{fillet.surface} for fillet in fillets],
        "varying fillet": [{varying_fillet.surface} for varying_fillet in inventory.varying_fillets],
        "chamfer": [{chamfer.surface} for chamfer in chamfers],
        "round wall": [{wall.surface} for wall in inventory.round_walls],
        "thread": [thread.surfaces for thread in inventory.threads],
        **{
            kind: [{number} for number in named if isinstance(part.surfaces[number], surface)]
            for kind, surface in (("cone", Cone), ("ball", Sphere), ("ring", Torus))
        },
    }


def _is_polygon(prism: Prism) -> bool:
    return bool(prism.outline.sides) and not prism.outline.rectangle


def _said(features: Sequence[_Feature]) -> list[Message]:
    return counted(feature.name for feature in features)
