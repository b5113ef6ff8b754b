"""A part's features in a few short lines, as a person would say them; sizes in mm."""

from collections import Counter
from collections.abc import Iterator, Sequence

from rigid_bench.core.formats.features import ConeReport, FeatureReport, HoleReport, PrismReport, SlotReport
from rigid_bench.core.part.recognition.round_surfaces import BELONGING

#: mm: a wall thinner than the part by less is the part's own thickness.
_WHOLE = 1e-3
_POLYGONS = {3: "triangle", 4: "square", 5: "pentagon", 6: "hexagon", 8: "octagon"}


def feature_lines(part: FeatureReport, extents: Sequence[float]) -> list[str]:
    """Say what was found on a part, like features together.

    Parameters
    ----------
    part
        Its features.
    extents
        Its overall sizes, mm: a wall as thick as the part is no news.

    Returns
    -------
    list of str
        Such as "4 × hole Ø8, through"; empty for a plain block.
    """
    lines = [f"{count} × {text}" if count > 1 else text for text, count in Counter(feature_list(part)).items()]
    lines += _patterns(part)
    lines += [f"{draft.count} walls drafted by {_n(draft.angle)}°" for draft in part.drafts]
    if part.least_wall and part.least_wall.thickness < min(extents) - _WHOLE:
        lines.append(f"least wall {_n(part.least_wall.thickness)}")
    return lines


def feature_list(part: FeatureReport) -> list[str]:
    """Say each feature of a part, like ones in the same words; patterns and walls left out."""
    return [text for texts in features_by_kind(part).values() for text in texts]


def features_by_kind(part: FeatureReport) -> dict[str, list[str]]:
    """Say each feature of a part, in the order of the report's lists; polygons are no pockets and bosses besides."""
    return {
        "hole": [_hole(hole) for hole in part.holes],
        "boss": [f"boss Ø{_n(boss.diameter)}, {_n(boss.height)} long" for boss in part.bosses],
        "slot": [_slot(slot) for slot in part.slots],
        "pocket": [_prism("pocket", pocket) for pocket in part.pockets if pocket.form != "polygon"],
        "prismatic boss": [
            _prism("boss", prismatic_boss)
            for prismatic_boss in part.prismatic_bosses
            if prismatic_boss.form != "polygon"
        ],
        "polygon": [
            f"{_POLYGONS.get(polygon.sides, f'{polygon.sides}-sided')} {'socket' if polygon.hollow else 'block'}, "
            f"{_n(polygon.across_flats)} across flats, {_n(polygon.depth)} {'deep' if polygon.hollow else 'high'}"
            for polygon in part.polygons
        ],
        "fillet": [f"rounded edge R{_n(fillet.radius)}" for fillet in part.fillets for _ in range(fillet.count)],
        "varying fillet": [
            f"rounded edge R{_n(small)} to R{_n(large)}"
            for small, large in (tuple(varying_fillet.radii) for varying_fillet in part.varying_fillets)
        ],
        "chamfer": [
            f"chamfer {' × '.join(map(_n, chamfer.legs))}" for chamfer in part.chamfers for _ in range(chamfer.count)
        ],
        "round wall": [
            f"{'half bore or saddle' if wall.hollow else 'round end'} R{_n(wall.radius)}, {_n(wall.sweep)}° round"
            for wall in part.round_walls
        ],
        "thread": [
            f"thread-like, {'inside' if thread.internal else 'outside'}: pitch {_n(thread.pitch)}, "
            f"Ø{_n(thread.major_diameter)} over Ø{_n(thread.minor_diameter)}, {_n(thread.length)} long, "
            f"{thread.hand}-handed"
            for thread in part.helical_threads
        ],
        "cone": [_cone(cone) for cone in part.cones if cone.name not in BELONGING],
        "ball": [f"{ball.name} Ø{_n(ball.diameter)}" for ball in part.spheres if ball.name not in BELONGING],
        "ring": [
            f"{ring.name} Ø{_n(ring.ring_diameter)}, Ø{_n(ring.tube_diameter)} round"
            for ring in part.tori
            if ring.name not in BELONGING
        ],
    }


def _n(value: float) -> str:
    return f"{round(value, 3):g}"


def _hole(hole: HoleReport) -> str:
    text = f"hole Ø{_n(hole.diameter)}, {'through' if hole.through else f'{_n(hole.depth)} deep'}"
    if hole.entry_diameter:
        text += f", {hole.entry} Ø{_n(hole.entry_diameter)}"
    return f"{text}, {_n(hole.slant)}° askew" if hole.slant else text


def _slot(slot: SlotReport) -> str:
    depth = "through" if slot.through else f"{_n(slot.depth)} deep"
    name = f"keyway in a {slot.keyway_in}" if slot.keyway_in else "T-slot" if slot.head_width else "slot"
    head = f", head {_n(slot.head_width)} × {_n(slot.head_height or 0)}" if slot.head_width else ""
    return f"{name} {_n(slot.length)} × {_n(slot.width)}, {depth}{head}, ends {' and '.join(slot.ends)}"


def _cone(cone: ConeReport) -> str:
    small, large = (_n(diameter) for diameter in sorted(cone.diameters))
    if cone.name == "countersunk head":
        return f"{cone.name} Ø{large}, {_n(2 * cone.half_angle)}°"
    return f"{cone.name} Ø{large} to Ø{small}, {_n(cone.length)} long"


def _prism(name: str, prism: PrismReport) -> str:
    depth = "through" if prism.through else f"{_n(prism.depth)} {'deep' if name == 'pocket' else 'high'}"
    if prism.form == "rectangle":
        corner = f", corners R{_n(prism.corner_radius)}" if prism.corner_radius else ""
        return f"{name} {_n(prism.length or 0)} × {_n(prism.width or 0)}, {depth}{corner}"
    if prism.form == "curved slot":
        return f"curved slot {_n(prism.width or 0)} wide on R{_n(prism.path_radius or 0)}, {depth}"
    return f"shaped {name} within {_n(prism.length or 0)} × {_n(prism.width or 0)}, {_n(prism.area)} mm², {depth}"


def _patterns(part: FeatureReport) -> Iterator[str]:
    for pattern in part.patterns:
        name = f"{pattern.count} {pattern.of}s"
        if pattern.kind == "circular":
            yield f"{name} on a circle Ø{_n(pattern.pitch_circle or 0)}"
        elif pattern.kind == "radial":
            yield f"{name} round an axis, {_n(pattern.step or 0)}° apart"
        elif pattern.kind == "rectangular":
            counts, pitches = " × ".join(map(str, pattern.counts)), " and ".join(map(_n, pattern.pitches))
            yield f"{name} in a grid of {counts}, {pitches} apart"
        else:
            yield f"{name} in a row, {_n(pattern.pitches[0])} apart"
