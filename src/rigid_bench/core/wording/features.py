"""A part's features in a few short lines, as a person would say them; sizes in mm."""

from collections.abc import Iterable, Sequence
from typing import Any

from rigid_bench.core.formats.features import (
    ConeReport,
    FeatureReport,
    HelicalThreadReport,
    HoleReport,
    PatternReport,
    PolygonReport,
    PrismReport,
    RoundWallReport,
    SlotReport,
    SphereReport,
    TorusReport,
)
from rigid_bench.core.formats.message import Message, alike, phrase
from rigid_bench.core.part.recognition.round_surfaces import BELONGING
from rigid_bench.core.wording.phrases import listed
from rigid_bench.core.wording.sentences.part_features import PART_FEATURES

#: mm: a wall thinner than the part by less is the part's own thickness.
_WHOLE = 1e-3
#: Decimals of a size, mm and degrees.
_DIGITS = 3


def feature_lines(part: FeatureReport, extents: Sequence[float]) -> list[Message]:
    """Say what was found on a part, like features together.

    Parameters
    ----------
    part
        Its features.
    extents
        Its overall sizes, mm: a wall as thick as the part is no news.

    Returns
    -------
    list of Message
        Such as "4 × hole Ø8, through"; empty for a plain block.
    """
    lines = counted(feature_list(part))
    lines += [_pattern(pattern) for pattern in part.patterns]
    lines += [_found("found.drafts", count=draft.count, angle=draft.angle) for draft in part.drafts]
    if part.least_wall and part.least_wall.thickness < min(extents) - _WHOLE:
        lines.append(_found("found.least-wall", thickness=part.least_wall.thickness))
    return lines


def counted(features: Iterable[Message]) -> list[Message]:
    """Put like features together, in the order in which they come first."""
    return [
        phrase("found.several", count=count, what=feature) if count > 1 else feature
        for feature, count in alike(features)
    ]


def feature_list(part: FeatureReport) -> list[Message]:
    """Say each feature of a part, like ones in the same words; patterns and walls left out."""
    return [feature for features in features_by_kind(part).values() for feature in features]


def features_by_kind(part: FeatureReport) -> dict[str, list[Message]]:
    """Say each feature of a part, in the order of the report's lists; polygons are no pockets and bosses besides."""
    return {
        "hole": [_hole(hole) for hole in part.holes],
        "boss": [_found("found.boss", diameter=boss.diameter, height=boss.height) for boss in part.bosses],
        "slot": [_slot(slot) for slot in part.slots],
        "pocket": [_prism("pocket", pocket) for pocket in part.pockets if pocket.form != "polygon"],
        "prismatic boss": [
            _prism("boss", prismatic_boss)
            for prismatic_boss in part.prismatic_bosses
            if prismatic_boss.form != "polygon"
        ],
        "polygon": [_polygon(polygon) for polygon in part.polygons],
        "fillet": [
            _found("found.fillet", radius=fillet.radius) for fillet in part.fillets for _ in range(fillet.count)
        ],
        "varying fillet": [
            _found("found.varying-fillet", small=small, large=large)
            for small, large in (tuple(varying_fillet.radii) for varying_fillet in part.varying_fillets)
        ],
        "chamfer": [
            _found("found.chamfer", legs=_by(chamfer.legs)) for chamfer in part.chamfers for _ in range(chamfer.count)
        ],
        "round wall": [_round_wall(wall) for wall in part.round_walls],
        "thread": [_thread(thread) for thread in part.helical_threads],
        "cone": [_cone(cone) for cone in part.cones if cone.name not in BELONGING],
        "ball": [_ball(ball) for ball in part.spheres if ball.name not in BELONGING],
        "ring": [_ring(ring) for ring in part.tori if ring.name not in BELONGING],
    }


def _by(sizes: Iterable[float | None]) -> Message:
    """Return sizes as "30 × 20"."""
    return phrase("by", items=[round(float(size or 0), _DIGITS) for size in sizes])


def _found(code: str, **values: Any) -> Message:
    """Return a phrase whose sizes are as near as they are said: two features that sound alike are alike."""
    return phrase(
        code, **{name: round(own, _DIGITS) if isinstance(own, float) else own for name, own in values.items()}
    )


def _reach(depth: float, *, is_through: bool, is_hollow: bool = True) -> Message:
    return _found("reach.through") if is_through else _found("reach.deep" if is_hollow else "reach.high", depth=depth)


def _hole(hole: HoleReport) -> Message:
    words = [_found("found.hole", diameter=hole.diameter), _reach(hole.depth, is_through=hole.through)]
    if hole.entry_diameter:
        words.append(_found(f"found.{hole.entry}", diameter=hole.entry_diameter))
    if hole.slant:
        words.append(_found("found.hole-askew", angle=hole.slant))
    return _found("beside", items=words)


def _slot(slot: SlotReport) -> Message:
    kind = f"keyway-in-a-{slot.keyway_in}" if slot.keyway_in else "t-slot" if slot.head_width else "slot"
    words = [_found(f"slot.{kind}", sizes=_by((slot.length, slot.width))), _reach(slot.depth, is_through=slot.through)]
    if slot.head_width:
        words.append(_found("found.slot-head", sizes=_by((slot.head_width, slot.head_height))))
    ends = listed(_found(f"slot-end.{end}") for end in slot.ends)
    return _found("beside", items=[*words, _found("found.slot-ends", ends=ends)])


def _polygon(polygon: PolygonReport) -> Message:
    own = f"polygon.{polygon.sides}"
    name = _found(own) if own in PART_FEATURES else _found("polygon.many", sides=polygon.sides)
    sizes = {"across": polygon.across_flats, "depth": polygon.depth}
    return _found("polygon.socket" if polygon.hollow else "polygon.block", polygon=name, **sizes)


def _prism(name: str, prism: PrismReport) -> Message:
    sizes = _by((prism.length, prism.width))
    reach = _reach(prism.depth, is_through=prism.through, is_hollow=name == "pocket")
    if prism.form == "rectangle":
        corners = [_found("prism.corners", radius=prism.corner_radius)] if prism.corner_radius else []
        return _found("beside", items=[_found(f"prism.{name}", sizes=sizes), reach, *corners])
    if prism.form == "curved slot":
        slot = _found("prism.curved-slot", width=prism.width or 0.0, radius=prism.path_radius or 0.0)
        return _found("beside", items=[slot, reach])
    return _found("beside", items=[_found(f"prism.shaped-{name}", sizes=sizes, area=prism.area), reach])


def _round_wall(wall: RoundWallReport) -> Message:
    return _found("found.saddle" if wall.hollow else "found.round-end", radius=wall.radius, sweep=wall.sweep)


def _thread(thread: HelicalThreadReport) -> Message:
    return _found(
        "found.thread-inside" if thread.internal else "found.thread-outside",
        pitch=thread.pitch,
        major=thread.major_diameter,
        minor=thread.minor_diameter,
        length=thread.length,
        hand=_found(f"hand.{thread.hand}"),
    )


def _form(name: str) -> str:
    """Return the code of a round surface by its name in the report."""
    return f"form.{name.replace(' ', '-')}"


def _cone(cone: ConeReport) -> Message:
    small, large = sorted(cone.diameters)
    if cone.name == "countersunk head":
        return _found(_form(cone.name), large=large, angle=2 * cone.half_angle)
    return _found(_form(cone.name), large=large, small=small, length=cone.length)


def _ball(ball: SphereReport) -> Message:
    return _found(_form(ball.name), diameter=ball.diameter)


def _ring(ring: TorusReport) -> Message:
    return _found(_form(ring.name), diameter=ring.ring_diameter, tube=ring.tube_diameter)


def _pattern(pattern: PatternReport) -> Message:
    by_kind: dict[str, dict[str, Any]] = {
        "circular": {"circle": pattern.pitch_circle or 0.0},
        "radial": {"step": pattern.step or 0.0},
        "rectangular": {"counts": _by(pattern.counts), "pitches": _found("list", items=pattern.pitches)},
        "linear": {"pitch": pattern.pitches[0] if pattern.pitches else 0.0},
    }
    of = _found(f"patterned.{pattern.of}")
    return _found(f"found.pattern-{pattern.kind}", count=pattern.count, of=of, **by_kind[pattern.kind])
