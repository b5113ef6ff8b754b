"""The seed drawer: a given housing, a drawer that slides in it, a knob that is held in its front.

One parametric model gives the reference and every sample build; a wrong build differs in
one known way, and says which checks its slip reaches.
"""

from dataclasses import dataclass, field
from typing import Any

from rigid_bench.demo.complete import complete
from rigid_bench.demo.drawer_mates import BACK, DOWN, FRONT, LEFT, RIGHT, UP, fixing_mate, knob_mates, sliding_mates
from rigid_bench.demo.drawer_parts import GAP, SPACE, Sizes, drawer, housing, knob
from rigid_bench.demo.modelling import (
    Placed,
    assembly_bytes,
    cylinder,
    json_bytes,
    on,
    plane,
    step_bytes,
)


def _placed(sizes: Sizes, *, has_knob: bool, gap: float = GAP) -> list[Placed]:
    parts = [
        Placed(name="Housing", solid=housing()),
        Placed(name="Drawer", solid=drawer(sizes), position=(0, gap, 0)),
    ]
    front = (0, gap + sizes.hole_from_side, sizes.hole_height)
    return [*parts, Placed(name="Knob", solid=knob(sizes), position=front)] if has_knob else parts


def build_file(
    sizes: Sizes,
    *,
    grounded: str | None = "housing-1",
    is_fixed: bool = False,
    has_knob: bool = True,
    gap: float = GAP,
    by_edge: bool = False,
    lacks: str = "",
    source: str | None,
) -> dict[str, Any]:
    """Write the build file of an assembly.

    Parameters
    ----------
    sizes
        Where the mates' faces are.
    grounded
        The instance that is grounded, or None.
    is_fixed
        The drawer is fixed instead of sliding.
    has_knob
        Whether there is a knob.
    gap
        Between the drawer and the housing's left wall, mm.
    by_edge
        An edge of the drawer was picked for its bottom.
    lacks
        A mate that was not confirmed.
    source
        The STEP assembly with the parts; None names a file for each part.
    """
    names = ["Housing", "Drawer", "Knob"][: 3 if has_knob else 2]
    positions = {instance.name: instance.position for instance in _placed(sizes, has_knob=has_knob, gap=gap)}
    mates = [fixing_mate()] if is_fixed else sliding_mates(gap, by_edge=by_edge)
    mates = [mate for mate in mates + (knob_mates(sizes) if has_knob else []) if mate["id"] != lacks]
    document: dict[str, Any] = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [
            {"id": name.lower(), "name": name, **({"part": name} if source else {"file": f"{name.lower()}.step"})}
            for name in names
        ],
        "instances": [
            {
                "id": f"{name.lower()}-1",
                "part": name.lower(),
                "grounded": grounded == f"{name.lower()}-1",
                "pose": {"position": positions[name], "quaternion": [1, 0, 0, 0]},
            }
            for name in names
        ],
        "mates": mates,
    }
    return {**document, "source": source} if source else document


def _dimension(name: str, title: str, marks: float, measure: str, nominal: float | str, **more: Any) -> dict[str, Any]:
    part = name.split(".")[0]
    return {
        "id": name,
        "title": title,
        "kind": "dimension",
        "marks": marks,
        "part": part,
        "measure": measure,
        "nominal": nominal,
        "tolerance": {"minus": 0.1, "plus": 0.1},
        "near": {"factor": 2, "share": 0.5},
        **more,
    }


def _dimensions(s: Sizes) -> list[dict[str, Any]]:
    """The sizes that are asked for."""
    hole = cylinder((0, s.hole_from_side, s.hole_height), BACK, s.hole / 2)
    spigot = cylinder((0, 0, 0), BACK, s.spigot / 2)
    pilot = cylinder((s.spigot_length, 0, 0), BACK, s.pilot / 2)
    corner = cylinder((s.length - s.corner, s.corner, 0), UP, s.corner)
    knob_side = plane((-5, 8, 0), RIGHT)
    front, back = plane((0, 5, 5), FRONT), plane((s.length, 30, 5), BACK)
    left, right = plane((40, 0, 15), LEFT), plane((40, s.width, 15), RIGHT)
    bottom, top = plane((40, 30, 0), DOWN), plane((40, 1, s.height), UP)
    return [
        _dimension("drawer.length", "Drawer length", 2, "length", s.length, between=[front, back]),
        _dimension(
            "drawer.width",
            "Drawer width",
            3,
            "length",
            "66.8 - 2*3 - 2*0.4",
            between=[left, right],
            hint="The housing outside, less its two walls, less the gap on both sides.",
        ),
        _dimension("drawer.height", "Drawer height", 2, "length", s.height, between=[bottom, top]),
        _dimension("drawer.wall", "Side wall", 2, "thickness", s.wall, between=[left, plane((40, s.wall, 15), RIGHT)]),
        _dimension("drawer.floor", "Floor", 2, "thickness", s.floor, between=[bottom, plane((40, 30, s.floor), UP)]),
        _dimension("drawer.corners", "Rounded corners", 1, "fillets", 2, tolerance={"minus": 0, "plus": 0}),
        _dimension("drawer.corner", "Corner radius", 1, "radius", s.corner, of=corner),
        _dimension("drawer.hole", "Hole for the knob", 2, "diameter", s.hole, of=hole),
        _dimension("drawer.hole.height", "Hole above the bottom", 1, "position", s.hole_height, between=[hole, bottom]),
        _dimension("drawer.hole.side", "Hole from the side", 1, "position", s.hole_from_side, between=[hole, left]),
        _dimension("drawer.hole.front", "Hole in the front only", 1, "pierces", 1, of=hole),
        _dimension("knob.head", "Knob head", 1, "length", s.head, between=[plane((-5, -8, 0), LEFT), knob_side]),
        _dimension("knob.spigot", "Spigot", 2, "diameter", s.spigot, of=spigot),
        _dimension(
            "knob.spigot.length",
            "Spigot length",
            1,
            "length",
            s.spigot_length,
            between=[plane((0, 6, 6), BACK), plane((s.spigot_length, 3, 0), BACK)],
        ),
        _dimension("knob.pilot", "Pilot hole", 2, "diameter", s.pilot, of=pilot),
        _dimension("knob.pilot.depth", "Pilot hole depth", 1, "depth", s.pilot_depth, of=pilot),
    ]


def _gap(name: str, title: str, housing_face: dict[str, Any], drawer_face: dict[str, Any]) -> dict[str, Any]:
    return {
        "id": name,
        "title": title,
        "kind": "gap",
        "marks": 1,
        "a": "housing-1",
        "b": "drawer-1",
        "min": 0.3,
        "max": 0.6,
        "between": [housing_face, drawer_face],
    }


def _freedom(name: str, title: str, marks: float, to: str, *motions: dict[str, Any], hint: str = "") -> dict[str, Any]:
    return {
        "id": name,
        "title": title,
        "kind": "freedom",
        "marks": marks,
        "instance": f"{name.split('.')[0]}-1",
        "to": to,
        "motions": list(motions),
        "hint": hint,
    }


def _assembly_checks(s: Sizes) -> list[dict[str, Any]]:
    slide = {"kind": "translation", "direction": BACK}
    come_out = "It should come out towards you, and do nothing else."
    right_wall, right_side = plane((40, SPACE[1], 15), LEFT), plane((40, s.width, 15), RIGHT)
    return [
        {"id": "parts", "title": "All parts", "kind": "parts", "marks": 1},
        {"id": "knob.body", "title": "Knob in one piece", "kind": "bodies", "marks": 1, "part": "knob"},
        {"id": "base", "title": "Housing grounded", "kind": "grounded", "marks": 1, "instance": "housing-1"},
        {
            "id": "drawer.seat",
            "title": "Drawer on the floor",
            "kind": "relation",
            "marks": 2,
            "relation": "coincident",
            "sense": "opposed",
            "a": on("housing-1", plane((40, 30, 0), UP)),
            "b": on("drawer-1", plane((40, 30, 0), DOWN)),
        },
        _freedom("drawer.free", "Drawer slides", 3, "housing-1", slide, hint=come_out),
        _freedom("knob.free", "Knob held", 2, "drawer-1"),
        _gap("gap.left", "Gap on the left", plane((40, 0, 15), RIGHT), plane((40, 0, 15), LEFT)),
        _gap("gap.right", "Gap on the right", right_wall, right_side),
        {"id": "overlap", "title": "Nothing overlaps", "kind": "interference", "marks": 2},
    ]


def bundle() -> dict[str, bytes]:
    """Make the exercise bundle: its files by name."""
    sizes = Sizes()
    dimensions = _dimensions(sizes)
    exercise = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "seed-drawer",
        "title": "Seed drawer",
        "intro": "Model the drawer and its knob for the given housing. The drawer slides with 0.4 mm a side; "
        "the knob is held in its front.",
        "units": "mm",
        "parts": [
            {"id": "housing", "name": "Housing", "file": "housing.step", "origin": "supplied", "process": "printed"},
            {"id": "drawer", "name": "Drawer", "file": "drawer.step", "origin": "made", "process": "printed"},
            {
                "id": "knob",
                "name": "Knob",
                "file": "knob.step",
                "origin": "made",
                "process": "milled",
                "symmetric": [plane((0, 0, 0), RIGHT), plane((0, 0, 0), UP)],
            },
        ],
        "reference": "reference.build.json",
        "flow": "required",
        "grounding": ["declared"],
        "checks": dimensions + _assembly_checks(sizes),
        "stages": [
            {"name": "Parts right", "checks": [dimension["id"] for dimension in dimensions]},
            {"name": "Assembly right", "checks": ["*"]},
        ],
    }
    return complete(
        {
            "exercise.json": json_bytes(exercise),
            "reference.build.json": json_bytes(build_file(sizes, source=None)),
            "housing.step": step_bytes(housing(), "Housing"),
            "drawer.step": step_bytes(drawer(sizes), "Drawer"),
            "knob.step": step_bytes(knob(sizes), "Knob"),
        }
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SampleBuild:
    """A sample build with the slip in it, and the checks that the slip reaches."""

    name: str
    #: What was done wrong, in a few words.
    slip: str
    sizes: Sizes = field(default_factory=Sizes)
    grounded: str | None = "housing-1"
    is_fixed: bool = False
    has_knob: bool = True
    #: Whether a build file was handed in beside the STEP assembly.
    has_build: bool = True
    #: Of the drawer to the left wall, mm.
    gap: float = GAP
    by_edge: bool = False
    #: A mate that was not confirmed.
    lacks: str = ""
    #: Only the drawer was handed in.
    is_one_part: bool = False
    #: Checks that fall, with the code of the cause where one is to be named.
    falls: tuple[tuple[str, str | None], ...] = ()
    #: Checks that cannot be made.
    unchecked: tuple[str, ...] = ()

    def files(self) -> dict[str, bytes]:
        """Make the files that the student hands in."""
        if self.is_one_part:
            return {"drawer.step": step_bytes(drawer(self.sizes), "Drawer")}
        placed = _placed(self.sizes, has_knob=self.has_knob, gap=self.gap)
        files = {"drawer.step": assembly_bytes(placed, "Seed drawer")}
        if self.has_build:
            document = build_file(
                self.sizes,
                grounded=self.grounded,
                is_fixed=self.is_fixed,
                has_knob=self.has_knob,
                gap=self.gap,
                by_edge=self.by_edge,
                lacks=self.lacks,
                source="drawer.step",
            )
            files["drawer.build.json"] = json_bytes(document)
        return files


_KNOB_SIZES = ("knob.head", "knob.spigot", "knob.spigot.length", "knob.pilot", "knob.pilot.depth")

SAMPLES = (
    SampleBuild(name="right", slip="none"),
    SampleBuild(
        name="radius-for-diameter",
        slip="the pilot hole's radius typed for its diameter",
        sizes=Sizes(pilot=2.0),
        falls=(("knob.pilot", "radius-for-diameter"),),
    ),
    SampleBuild(
        name="too-wide",
        slip="the drawer 1 mm too wide, so that it cuts into the housing",
        sizes=Sizes(width=61.0),
        falls=(("drawer.width", None), ("gap.right", "follows"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="nothing-grounded",
        slip="nothing grounded",
        grounded=None,
        falls=(("base", "nothing-grounded"),),
    ),
    SampleBuild(
        name="fixed",
        slip="the drawer fixed so that it cannot slide",
        is_fixed=True,
        falls=(("drawer.free", "fixed-where-it-should-move"),),
    ),
    SampleBuild(
        name="no-knob",
        slip="the knob missing",
        has_knob=False,
        falls=(
            *((check, "follows") for check in _KNOB_SIZES),
            ("parts", "part-missing"),
            ("knob.body", "follows"),
            ("knob.free", "follows"),
        ),
    ),
    SampleBuild(
        name="thin-wall",
        slip="the side wall 2 instead of 3",
        sizes=Sizes(wall=2.0),
        falls=(("drawer.wall", None),),
    ),
    SampleBuild(
        name="a-shade-wide",
        slip="the drawer 0.15 mm too wide: near, and its gap on one side too tight",
        sizes=Sizes(width=60.15),
        falls=(("drawer.width", None), ("gap.right", "follows")),
    ),
    SampleBuild(
        name="one-gap-only",
        slip="the gap taken off once and not on both sides",
        sizes=Sizes(width=60.4),
        falls=(("drawer.width", None), ("gap.right", "follows")),
    ),
    SampleBuild(
        name="thin-floor",
        slip="the floor 0.15 mm too thin: near",
        sizes=Sizes(floor=2.85),
        falls=(("drawer.floor", None),),
    ),
    SampleBuild(
        name="edge-for-centre",
        slip="the hole placed by its edge and not by its middle",
        sizes=Sizes(hole_from_side=34.2),
        falls=(("drawer.hole.side", "edge-for-centre"),),
    ),
    SampleBuild(
        name="decimal-point",
        slip="the pilot hole's depth with the point in the wrong place",
        sizes=Sizes(pilot_depth=0.8),
        falls=(("knob.pilot.depth", "decimal-point"),),
    ),
    SampleBuild(
        name="wall-outward",
        slip="the walls grown outward: two walls too wide",
        sizes=Sizes(width=66.0),
        falls=(("drawer.width", "wall"), ("gap.right", "follows"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="step-only",
        slip="the STEP file alone, without its build file",
        has_build=False,
        unchecked=("base", "drawer.free", "knob.free"),
    ),
    SampleBuild(
        name="rounded-before-hollowing",
        slip="rounded before it was hollowed: the corners inside are round as well",
        sizes=Sizes(inner_corner=2.0),
        falls=(("drawer.corners", "edges"),),
    ),
    SampleBuild(
        name="through-both",
        slip="the hole cut through front and back, where one was meant",
        sizes=Sizes(through_back=True),
        falls=(("drawer.hole.front", None),),
    ),
    SampleBuild(
        name="centre-to-flat",
        slip="the knob's head from its middle to a flat, where across the flats was asked",
        sizes=Sizes(head=8.0),
        falls=(("knob.head", "half"),),
    ),
    SampleBuild(
        name="unjoined",
        slip="head and spigot of the knob left apart by 0.5 mm",
        sizes=Sizes(split_knob=0.5),
        has_build=False,
        falls=(
            ("knob.spigot", "feature-missing"),
            *((check, "follows") for check in _KNOB_SIZES[2:]),
            *(("parts", "part-extra"), ("knob.body", "several-bodies")),
        ),
        unchecked=("base", "drawer.free", "knob.free"),
    ),
    SampleBuild(
        name="offset-forgotten",
        slip="the gap beside the drawer forgotten",
        gap=0.0,
        falls=(("gap.left", None), ("gap.right", None)),
    ),
    SampleBuild(
        name="offset-sign",
        slip="the gap beside the drawer with the wrong sign",
        gap=-GAP,
        falls=(("gap.left", None), ("gap.right", None), ("overlap", "follows")),
    ),
    SampleBuild(
        name="edge-for-face",
        slip="an edge of the drawer mated where its bottom was meant",
        by_edge=True,
        falls=(("drawer.free", "mate-short"),),
    ),
    SampleBuild(
        name="not-confirmed",
        slip="the mate beside the wall previewed and not confirmed: placed, not held",
        lacks="drawer beside wall",
        falls=(("drawer.free", "mate-short"),),
    ),
    SampleBuild(
        name="one-part",
        slip="the drawer alone handed in where the assembly was asked",
        is_one_part=True,
        falls=tuple(
            (check, "part-missing" if check == "parts" else "follows")
            for check in (
                *_KNOB_SIZES,
                *("parts", "knob.body", "base", "drawer.seat", "drawer.free", "knob.free", "gap.left", "gap.right"),
            )
        ),
    ),
)
