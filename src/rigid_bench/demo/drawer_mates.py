"""The mates of the seed drawer: sliding or fixed, with the knob in its front."""

from typing import Any

from rigid_bench.demo.drawer_parts import GAP, Sizes
from rigid_bench.demo.modelling import Vector, axis, frame, on, plane

FRONT: Vector = (-1, 0, 0)
BACK: Vector = (1, 0, 0)
LEFT: Vector = (0, -1, 0)
RIGHT: Vector = (0, 1, 0)
UP: Vector = (0, 0, 1)
DOWN: Vector = (0, 0, -1)


def sliding_mates(gap: float, *, by_edge: bool) -> list[dict[str, Any]]:
    """The drawer on the floor (or only an edge of it) and beside the left wall: it slides."""
    floor = {
        "id": "drawer on floor",
        "kind": "coincident",
        "sense": "opposed",
        "a": on("housing-1", plane((40, 30, 0), UP)),
        "b": on("drawer-1", plane((40, 30, 0), DOWN)),
    }
    edge = {"a": floor["a"], "b": on("drawer-1", axis((0, 0, 0), RIGHT))}
    return [
        {"id": "drawer on floor", "kind": "coincident", **edge} if by_edge else floor,
        {
            "id": "drawer beside wall",
            "kind": "distance",
            "value": gap,
            "sense": "opposed",
            "a": on("housing-1", plane((40, 0, 15), RIGHT)),
            "b": on("drawer-1", plane((40, 0, 15), LEFT)),
        },
    ]


def fixing_mate() -> dict[str, Any]:
    """The drawer fixed where it should slide."""
    return {
        "id": "drawer fixed",
        "kind": "fixed",
        "sense": "aligned",
        "a": on("housing-1", frame((0, GAP, 0), UP, BACK)),
        "b": on("drawer-1", frame((0, 0, 0), UP, BACK)),
    }


def knob_mates(sizes: Sizes) -> list[dict[str, Any]]:
    """The knob held in the drawer's front, upright."""
    hole = (0, sizes.hole_from_side, sizes.hole_height)
    return [
        {
            "id": "knob on front",
            "kind": "coincident",
            "sense": "opposed",
            "a": on("drawer-1", plane((0, 5, 5), FRONT)),
            "b": on("knob-1", plane((0, 6, 6), BACK)),
        },
        {
            "id": "knob in hole",
            "kind": "coaxial",
            "a": on("drawer-1", axis(hole, BACK)),
            "b": on("knob-1", axis((0, 0, 0), BACK)),
        },
        {
            "id": "knob upright",
            "kind": "parallel",
            "sense": "aligned",
            "a": on("drawer-1", plane((40, 1, sizes.height), UP)),
            "b": on("knob-1", plane((-5, 0, 8), UP)),
        },
    ]
