"""The drill jig: a plate that guides a drill, with two dowels that locate it and a screw from the tables.

One part is made, so that this exercise is about sizes; two dowels on one plate teach why a
location needs two of them and no more. A wrong build differs in one known way, and says
which checks its slip reaches.
"""

import math
from dataclasses import dataclass, field, replace
from typing import Any

from build123d import Align, Axis, Box, Cylinder, Part, Plane, Pos, RegularPolygon, chamfer, extrude, fillet, mirror

from rigid_bench.core.grading.intake.statements import FILE as STATEMENTS
from rigid_bench.core.grading.intake.statements import write_statements
from rigid_bench.core.standards.fasteners import SOCKET
from rigid_bench.core.standards.threads import clearance_hole
from rigid_bench.demo.complete import complete
from rigid_bench.demo.modelling import Placed, assembly_bytes, axis, cylinder, json_bytes, on, plane, step_bytes

_MIN = (Align.MIN, Align.MIN, Align.MIN)
_UPRIGHT = (Align.CENTER, Align.CENTER, Align.MIN)
_SCREW = SOCKET[6]
#: M6: clearance hole of the medium series.
_CLEARANCE = (clearance_hole(6) or (0.0, 0.0, 0.0))[1]
_DOWEL, _DOWEL_LENGTH, _SHANK = 6.0, 18.0, 16.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizes:
    """All sizes of the jig, mm."""

    length: float = 70.0
    width: float = 40.0
    thickness: float = 10.0
    dowel: float = 6.0
    #: From the left edge and the front edge to the first dowel's bore, and on to the second.
    dowel_from_left: float = 10.0
    dowel_from_front: float = 28.0
    dowel_pitch: float = 50.0
    guide: float = 5.0
    guide_from_left: float = 22.0
    guide_from_front: float = 12.0
    guide_pitch: float = 15.0
    guides: int = 3
    #: How far above the bottom the guides end; 0 goes through.
    guide_floor: float = 0.0
    sink: float = 11.0
    sink_depth: float = 6.5
    #: The recess is in the bottom.
    sink_below: bool = False
    corner: float = 5.0
    corners: int = 4
    #: The chamfer along the lower left edge, where chips go: its height (0 leaves it out), its angle to the bottom.
    chip: float = 2.0
    chip_angle: float = 30.0
    #: The head's recess is drawn as a polygon of so many corners; 0 as round.
    facets: int = 0
    mirrored: bool = False


def jig(sizes: Sizes) -> Part:
    """The jig, a corner at the origin; the screw's bore is in the middle between the dowels."""
    s = sizes
    block = Box(s.length, s.width, s.thickness, align=_MIN)
    if s.chip:
        edge = block.edges().filter_by(Axis.Y).sort_by(Axis.Z)[:2].sort_by(Axis.X)[0]
        block = chamfer(edge, s.chip, _along(s), reference=block.faces().sort_by(Axis.X)[0])
    block = fillet(block.edges().filter_by(Axis.Z)[: s.corners], s.corner) if s.corners else block
    holes = [_bore(s.dowel_from_left + k * s.dowel_pitch, s.dowel_from_front, s.dowel) for k in range(2)]
    for k in range(s.guides):
        place = Pos(0, 0, s.guide_floor)
        holes.append(place * _bore(s.guide_from_left + k * s.guide_pitch, s.guide_from_front, s.guide))
    x, y = _middle(s)
    sink = extrude(RegularPolygon(s.sink / 2, s.facets), 100) if s.facets else _bore(0, 0, s.sink)
    sink = Pos(x, y, s.sink_depth - 100 if s.sink_below else s.thickness - s.sink_depth) * sink
    own: Part = block - [*holes, _bore(x, y, _CLEARANCE), sink]
    return mirror(own, about=Plane.YZ.offset(s.length / 2)) if s.mirrored else own


def _bore(x: float, y: float, diameter: float) -> Part:
    return Pos(x, y, 0) * Cylinder(diameter / 2, 100, align=_UPRIGHT)


def _middle(s: Sizes) -> tuple[float, float]:
    return s.dowel_from_left + s.dowel_pitch / 2, s.dowel_from_front


def dowel() -> Part:
    """A dowel pin, its foot at the origin."""
    return Cylinder(_DOWEL / 2, _DOWEL_LENGTH, align=_UPRIGHT)


def screw() -> Part:
    """A socket head screw without thread and drive, the seat of its head at the origin, its shank down."""
    head = Cylinder(_SCREW.head / 2, _SCREW.height, align=_UPRIGHT)
    return head + Pos(0, 0, -_SHANK) * Cylinder(_SCREW.nominal / 2, _SHANK, align=_UPRIGHT)


#: How far the dowels stand out below.
_STAND_OUT = 8.0


def _places(s: Sizes) -> dict[str, tuple[float, float, float]]:
    x, y = _middle(s)
    return {
        "jig-1": (0, 0, 0),
        "dowel-1": (s.dowel_from_left, s.dowel_from_front, -_STAND_OUT),
        "dowel-2": (s.dowel_from_left + s.dowel_pitch, s.dowel_from_front, -_STAND_OUT),
        "screw-1": (x, y, s.thickness - s.sink_depth),
    }


_UP, _DOWN = (0, 0, 1), (0, 0, -1)
_NAMES = {"jig": "Jig", "dowel": "Dowel", "screw": "Screw M6 x 16"}


def _pin_mates(s: Sizes, instance: str, *, is_seated: bool = True) -> list[dict[str, Any]]:
    x, y, z = _places(s)[instance]
    bore = {
        "id": f"{instance} in its bore",
        "kind": "coaxial",
        "a": on("jig-1", axis((x, y, 0), _UP)),
        "b": on(instance, axis((0, 0, 0), _UP)),
    }
    if instance == "screw-1":
        seat: dict[str, Any] = {"kind": "coincident", "sense": "opposed", "a": on("jig-1", plane((x + 4, y, z), _UP))}
        seat["b"] = on(instance, plane((4, 0, 0), _DOWN))
    else:
        seat = {"kind": "distance", "value": _STAND_OUT, "sense": "aligned", "a": on("jig-1", plane((x, y, 0), _DOWN))}
        seat["b"] = on(instance, plane((0, 0, 0), _DOWN))
    return [bore, {"id": f"{instance} seated", **seat}] if is_seated else [bore]


def build_file(sizes: Sizes, *, instances: tuple[str, ...], loose: str | None, source: str | None) -> dict[str, Any]:
    """Write the build file of the instances that were brought in; one may lack its seat."""
    places = _places(sizes)
    used = list(dict.fromkeys(name.split("-")[0] for name in instances))
    document: dict[str, Any] = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": "mm",
        "parts": [
            {"id": part, "name": _NAMES[part], **({"part": _NAMES[part]} if source else {"file": f"{part}.step"})}
            for part in used
        ],
        "instances": [
            {
                "id": name,
                "part": name.split("-")[0],
                "grounded": name == "jig-1",
                "pose": {"position": places[name], "quaternion": [1, 0, 0, 0]},
            }
            for name in instances
        ],
        "mates": [mate for name in instances[1:] for mate in _pin_mates(sizes, name, is_seated=name != loose)],
    }
    return {**document, "source": source} if source else document


def _dimension(name: str, title: str, measure: str, nominal: float | str, **more: Any) -> dict[str, Any]:
    fields = {"id": name, "title": title, "kind": "dimension", "marks": 1, "part": "jig", "measure": measure}
    return {**fields, "nominal": nominal, **more}


def _along(s: Sizes) -> float:
    """How far the edge for the chips reaches along the bottom."""
    return s.chip / math.tan(math.radians(s.chip_angle))


def _dimensions(s: Sizes) -> list[dict[str, Any]]:
    left, right = plane((0, 20, 5), (-1, 0, 0)), plane((s.length, 20, 5), (1, 0, 0))
    front, back = plane((35, 0, 5), (0, -1, 0)), plane((35, s.width, 5), (0, 1, 0))
    bottom, top = plane((35, 35, 0), _DOWN), plane((35, 35, s.thickness), _UP)
    x, y = _middle(s)
    first = cylinder((s.dowel_from_left, y, 0), _UP, s.dowel / 2)
    second = cylinder((s.dowel_from_left + s.dowel_pitch, y, 0), _UP, s.dowel / 2)
    guide = cylinder((s.guide_from_left, s.guide_from_front, 0), _UP, s.guide / 2)
    slope = math.radians(s.chip_angle)
    slant = plane((_along(s) / 2, s.width / 2, s.chip / 2), (-math.sin(slope), 0, -math.cos(slope)))
    corner = cylinder((s.corner, s.corner, 0), _UP, s.corner)
    bore, sink = cylinder((x, y, 0), _UP, _CLEARANCE / 2), cylinder((x, y, s.thickness), _UP, s.sink / 2)
    return [
        _dimension("jig.length", "Length", "length", s.length, between=[left, right]),
        _dimension("jig.width", "Width", "length", s.width, between=[front, back]),
        _dimension("jig.thickness", "Thickness", "thickness", s.thickness, between=[bottom, top]),
        _dimension("jig.dowel", "Dowel bore", "diameter", s.dowel, of=first, tolerance="H7"),
        _dimension("jig.dowel.left", "First dowel from the left", "position", s.dowel_from_left, between=[first, left]),
        _dimension("jig.dowel.front", "Dowels from the front", "position", "40 - 12", between=[first, front]),
        _dimension("jig.dowel.pitch", "Between the dowels", "position", s.dowel_pitch, between=[first, second]),
        _dimension("jig.guide", "Guide bore", "diameter", s.guide, of=guide),
        _dimension("jig.guide.left", "Guide from the left", "position", s.guide_from_left, between=[guide, left]),
        _dimension("jig.guide.front", "Guides from the front", "position", s.guide_from_front, between=[guide, front]),
        _dimension("jig.guide.pitch", "Between the guides", "pitch", s.guide_pitch, of=guide),
        _dimension("jig.guide.count", "Number of guides", "pattern_count", s.guides, of=guide),
        _dimension("jig.bore", "Screw clearance", "diameter", _CLEARANCE, of=bore, tolerance="ISO 2768-m"),
        _dimension("jig.sink", "Head recess", "diameter", s.sink, of=sink, tolerance="ISO 2768-m"),
        _dimension(
            "jig.sink.depth", "Recess depth", "depth", s.sink_depth, of=sink, value="assumed", sane={"min": 6, "max": 9}
        ),
        _dimension("jig.guide.depth", "Guides go through", "depth", s.thickness, of=guide),
        _dimension("jig.chip", "Edge for the chips", "chamfer", s.chip, of=slant),
        _dimension("jig.chip.angle", "Angle of that edge", "chamfer_angle", s.chip_angle, of=slant),
        _dimension("jig.corners", "Rounded corners", "fillets", s.corners, marks=1),
        _dimension("jig.corner", "Corner radius", "radius", s.corner, of=corner, value="free"),
    ]


def _assembly_checks(s: Sizes) -> list[dict[str, Any]]:
    x, y = _middle(s)
    seat = s.thickness - s.sink_depth
    return [
        {"id": "parts", "title": "All parts", "kind": "parts", "marks": 1},
        {"id": "base", "title": "Jig grounded", "kind": "grounded", "marks": 1, "instance": "jig-1"},
        {
            "id": "screw.seat",
            "title": "Screw head seated",
            "kind": "relation",
            "marks": 1,
            "relation": "coincident",
            "sense": "opposed",
            "a": on("jig-1", plane((x + 4, y, seat), _UP)),
            "b": on("screw-1", plane((4, 0, 0), _DOWN)),
        },
        *(
            {
                "id": f"{name}.free",
                "title": title,
                "kind": "freedom",
                "marks": 1,
                "instance": name,
                "to": "jig-1",
                "motions": [],
                "hint": "A round part may turn about itself; it must not slide out.",
            }
            for name, title in (("dowel-1", "First dowel held"), ("dowel-2", "Second dowel held"))
        ),
        {"id": "overlap", "title": "Nothing overlaps", "kind": "interference", "marks": 1},
    ]


_ALL = ("jig-1", "dowel-1", "dowel-2", "screw-1")


def bundle() -> dict[str, bytes]:
    """Make the exercise bundle: its files by name."""
    sizes = Sizes()
    dimensions = _dimensions(sizes)
    exercise = {
        "format": "rigid-bench/exercise",
        "version": 1,
        "id": "drill-jig",
        "title": "Drill jig",
        "intro": "Model the jig to the sheet; the model is exact. Two dowels locate it, a screw M6 x 16 holds it. "
        "The corner radius is yours to choose. The sheet leaves open how deep the screw head sits: decide, and say so.",
        "units": "mm",
        "parts": [
            {"id": "jig", "name": "Jig", "file": "jig.step", "origin": "made", "process": "milled"},
            {"id": "dowel", "name": "Dowel", "file": "dowel.step", "origin": "bought", "count": 2},
            {"id": "screw", "name": _NAMES["screw"], "file": "screw.step", "origin": "bought"},
        ],
        "reference": "reference.build.json",
        "flow": "required",
        "grounding": ["declared"],
        "tolerance": "as modelled",
        "checks": dimensions + _assembly_checks(sizes),
        "stages": [
            {"name": "Jig right", "checks": [dimension["id"] for dimension in dimensions]},
            {"name": "Assembly right", "checks": ["*"]},
        ],
    }
    return complete(
        {
            "exercise.json": json_bytes(exercise),
            "reference.build.json": json_bytes(build_file(sizes, instances=_ALL, loose=None, source=None)),
            "jig.step": step_bytes(jig(sizes), "Jig"),
            "dowel.step": step_bytes(dowel(), "Dowel"),
            "screw.step": step_bytes(screw(), _NAMES["screw"]),
        }
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SampleBuild:
    """A sample build with the slip in it, and the checks that the slip reaches."""

    name: str
    #: What was done wrong, in a few words.
    slip: str
    sizes: Sizes = field(default_factory=Sizes)
    instances: tuple[str, ...] = _ALL
    #: An instance that lacks its seat.
    loose: str | None = None
    #: Checks that fall, with the code of the cause where one is to be named.
    falls: tuple[tuple[str, str | None], ...] = ()
    unchecked: tuple[str, ...] = ()
    #: What the student says beside it, by check.
    statements: tuple[tuple[str, str], ...] = ()

    def files(self) -> dict[str, bytes]:
        """Make the files that the student hands in."""
        solids = {"jig": jig(self.sizes), "dowel": dowel(), "screw": screw()}
        places = _places(self.sizes)
        placed = [
            Placed(name=_NAMES[name.split("-")[0]], solid=solids[name.split("-")[0]], position=places[name])
            for name in self.instances
        ]
        document = build_file(self.sizes, instances=self.instances, loose=self.loose, source="jig.step")
        said = {STATEMENTS: write_statements(dict(self.statements))} if self.statements else {}
        return {"jig.step": assembly_bytes(placed, "Drill jig"), "jig.build.json": json_bytes(document), **said}


_S = Sizes()
SAMPLES = (
    SampleBuild(name="jig-right", slip="none"),
    SampleBuild(name="jig-own-corners", slip="none: the corner radius is free", sizes=replace(_S, corner=4.0)),
    SampleBuild(
        name="jig-own-depth",
        slip="none: the depth that the sheet leaves open was decided and stated",
        sizes=replace(_S, sink_depth=7.0),
        statements=(("jig.sink.depth", "7 mm: the head is 6 high and should not stick out"),),
    ),
    SampleBuild(
        name="jig-unstated-depth",
        slip="a depth of one's own that was not stated",
        sizes=replace(_S, sink_depth=7.0),
        falls=(("jig.sink.depth", None),),
    ),
    SampleBuild(
        name="jig-radius-for-diameter",
        slip="the guide bore's radius typed for its diameter",
        sizes=replace(_S, guide=2.5),
        falls=(("jig.guide", "radius-for-diameter"),),
    ),
    SampleBuild(
        name="jig-edge-for-centre",
        slip="the first dowel measured to the edge of its bore",
        sizes=replace(_S, dowel_from_left=7.0),
        falls=(("jig.dowel.left", "edge-for-centre"),),
    ),
    SampleBuild(
        name="jig-three-corners",
        slip="one corner left sharp",
        sizes=replace(_S, corners=3),
        falls=(("jig.corners", "edges"),),
    ),
    SampleBuild(
        name="jig-one-dowel",
        slip="the second dowel forgotten",
        instances=("jig-1", "dowel-1", "screw-1"),
        falls=(("parts", "part-missing"), ("dowel-2.free", "follows")),
    ),
    SampleBuild(
        name="jig-dowel-slides",
        slip="the second dowel without its seat",
        loose="dowel-2",
        falls=(("dowel-2.free", "mate-short"),),
    ),
    SampleBuild(
        name="jig-pattern-length",
        slip="the pitch of the guides taken for the whole length of their row",
        sizes=replace(_S, guide_pitch=7.5),
        falls=(("jig.guide.pitch", "pattern-length"),),
    ),
    SampleBuild(
        name="jig-four-guides",
        slip="one guide too many",
        sizes=replace(_S, guides=4),
        falls=(("jig.guide.count", "wrong-count"),),
    ),
    SampleBuild(
        name="jig-blind-guides",
        slip="the guides end 3 mm above the bottom",
        sizes=replace(_S, guide_floor=3.0),
        falls=(("jig.guide.depth", "not-through"),),
    ),
    SampleBuild(
        name="jig-guides-at-edge",
        slip="the guides so near the front that they break its edge",
        sizes=replace(_S, guide_from_front=1.2),
        falls=(("jig.guide.front", "decimal-point"),),
    ),
    SampleBuild(
        name="jig-recess-below",
        slip="the head's recess cut into the bottom: the wrong side",
        sizes=replace(_S, sink_below=True),
        falls=(("screw.seat", "feature-missing"), ("overlap", None)),
    ),
    SampleBuild(
        name="jig-faceted", slip="none: the head's recess is a ring of 48 facets", sizes=replace(_S, facets=48)
    ),
    SampleBuild(
        name="jig-mirrored",
        slip="drawn as its mirror image",
        sizes=replace(_S, mirrored=True),
        falls=(
            ("jig.chip", "mirrored"),
            ("jig.chip.angle", "follows"),
            ("parts", "follows"),
            ("screw.seat", "feature-missing"),
        ),
    ),
    SampleBuild(
        name="jig-misread",
        slip="12 read as 15, which is another size of the sheet",
        sizes=replace(_S, guide_from_front=15.0),
        falls=(("jig.guide.front", "misread-digit"),),
    ),
    SampleBuild(
        name="jig-neighbour",
        slip="the dowels' bores drawn with the diameter of the guides",
        sizes=replace(_S, dowel=5.0),
        falls=(("jig.dowel", "neighbours-value"), ("overlap", "follows")),
    ),
    SampleBuild(
        name="jig-no-chip-edge",
        slip="the edge for the chips forgotten",
        sizes=replace(_S, chip=0.0),
        falls=(("jig.chip", "feature-missing"), ("jig.chip.angle", "follows")),
    ),
    SampleBuild(
        name="jig-chip-45",
        slip="the edge for the chips at 45 where 30 was asked",
        sizes=replace(_S, chip_angle=45.0),
        falls=(("jig.chip.angle", None),),
    ),
)
