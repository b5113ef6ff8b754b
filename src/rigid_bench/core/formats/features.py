"""The features of a part in the published format. Loads no kernel."""

from typing import Literal

from rigid_bench.core.formats.documents import Document


class AxisReport(Document):
    """A line: a point on it, mm, and its direction."""

    point: list[float]
    direction: list[float]


class ThreadReport(Document):
    """A thread that a plain diameter may stand for."""

    designation: str
    #: "tapping drill", "minor diameter", "nominal", "clearance fine", "clearance medium" or "clearance coarse"
    size: str


class HoleReport(Document):
    """A hole, in its part's coordinates."""

    diameter: float
    depth: float
    through: bool
    entry: str
    position: list[float]
    direction: list[float]
    tip: float | None = None
    #: Of a counterbore or countersink, where it opens; the angle is a countersink's full one.
    entry_diameter: float | None = None
    entry_depth: float | None = None
    entry_angle: float | None = None
    #: Of a mesh: across the flats and the corners of its chords, never rounded inwards.
    diameter_band: list[float] | None = None
    #: Degrees from square to its face.
    slant: float | None = None
    threads: list[ThreadReport] | None = None


class BossReport(Document):
    """A round wall with the material inside."""

    diameter: float
    height: float
    position: list[float]
    direction: list[float]
    diameter_band: list[float] | None = None
    threads: list[ThreadReport] | None = None


class StepReport(Document):
    """One diameter of a shaft."""

    diameter: float
    length: float


class FlatReport(Document):
    """A flat along a shaft: how far from the axis, and across to the other side."""

    to_axis: float
    across: float
    length: float


class ShaftReport(Document):
    """A round bar with steps or flats, from one end to the other."""

    steps: list[StepReport]
    flats: list[FlatReport]
    position: list[float]
    direction: list[float]


class SlotReport(Document):
    """A slot, groove or keyway."""

    width: float
    length: float
    depth: float
    through: bool
    #: Each "round", "square" or "open".
    ends: list[str]
    position: list[float]
    direction: list[float]
    along: list[float]
    #: Of a keyway: "shaft" or "bore", and how far its floor is from that axis.
    keyway_in: str | None = None
    floor_to_axis: float | None = None
    #: Of a T-slot: the wider space behind its walls; `depth` goes down to its floor.
    head_width: float | None = None
    head_height: float | None = None


class SegmentReport(Document):
    """A line or arc of an outline: mm in the outline's own axes, from the feature's position."""

    start: list[float]
    end: list[float]
    centre: list[float] | None = None
    radius: float | None = None
    #: Degrees, counter-clockwise above 0.
    turn: float | None = None
    #: It runs into the next one without a kink.
    tangent: bool


class PrismReport(Document):
    """A pocket, window or boss with upright walls."""

    #: "rectangle", "polygon", "curved slot" or "outline"
    form: str
    depth: float
    through: bool
    position: list[float]
    direction: list[float]
    along: list[float]
    #: mm2 and mm, of the outline.
    area: float
    perimeter: float
    #: Of a rectangle, and of the smallest one round any other outline; of a curved slot its width alone.
    length: float | None = None
    width: float | None = None
    #: Of a rectangle.
    corner_radius: float | None = None
    #: Of a curved slot: the radius of its middle line, and the angle between the ends' centres, degrees.
    path_radius: float | None = None
    path_angle: float | None = None
    outline: list[SegmentReport]


class PolygonReport(Document):
    """A regular polygon of flat walls, such as a hexagon socket."""

    sides: int
    across_flats: float
    depth: float
    hollow: bool
    position: list[float]
    direction: list[float]


class FilletReport(Document):
    """Rounded edges of one radius."""

    radius: float
    count: int


class VaryingFilletReport(Document):
    """A rounded edge whose radius changes: at its two ends, the smaller first."""

    radii: list[float]


class ChamferReport(Document):
    """Chamfered edges of one size; the angle is that to the face of the longer leg, degrees."""

    legs: list[float]
    angle: float
    count: int


class RoundWallReport(Document):
    """A wall that is part round: a half bore, a saddle, a full-round end."""

    radius: float
    length: float
    #: Degrees that it goes round.
    sweep: float
    hollow: bool
    #: How many neighbours it runs into without a kink.
    tangent: int
    centre: list[float]
    direction: list[float]
    #: Of a mesh, as `diameter_band`.
    radius_band: list[float] | None = None


class ConeReport(Document):
    """A conical surface; the angle is that between axis and wall, degrees."""

    #: "taper", "tapered hole", "countersunk head", "conical pocket", "drill point", "countersink" or "chamfer".
    name: str
    half_angle: float
    diameters: list[float]
    length: float
    hollow: bool
    apex: list[float]
    direction: list[float]


class SphereReport(Document):
    """A part of a ball or of its socket."""

    #: "ball", "ball pocket", or "fillet" where it rounds a corner.
    name: str
    diameter: float
    hollow: bool
    centre: list[float]


class TorusReport(Document):
    """A part of a ring: the diameters of its middle circle and of its tube."""

    #: "ring", "ring groove", or "fillet" for a rounded round edge.
    name: str
    ring_diameter: float
    tube_diameter: float
    hollow: bool
    centre: list[float]
    direction: list[float]


class HelicalThreadReport(Document):
    """A modelled thread: free-form walls that wind about an axis; mm."""

    pitch: float
    major_diameter: float
    minor_diameter: float
    length: float
    hand: Literal["right", "left"]
    internal: bool
    position: list[float]
    direction: list[float]


class DraftReport(Document):
    """Flat walls that lean by one angle (degrees) to a pull direction, in which the part becomes narrower."""

    angle: float
    direction: list[float]
    count: int


class PlaneReport(Document):
    """A flat surface: the centre of its area, the normal out of the material, mm2."""

    point: list[float]
    normal: list[float]
    area: float


class PatternReport(Document):
    """Like features at equal distances; `members` count from 0 in the list named by `of`."""

    kind: str
    of: str
    count: int
    #: Along each direction; two numbers for a rectangular pattern.
    counts: list[int]
    pitches: list[float]
    pitch_circle: float | None = None
    #: Degrees between neighbours on the pitch circle.
    step: float | None = None
    centre: list[float]
    direction: list[float]
    members: list[int]


class WallReport(Document):
    """The thinnest wall between flat or round surfaces, and where."""

    thickness: float
    at: list[float]


class TurnReport(Document):
    """A turn that lays the part over itself: by 360 / order degrees."""

    axis: AxisReport
    order: int


class SymmetryReport(Document):
    """How the part lies over itself."""

    #: The axis about which it may turn by any angle.
    spin: AxisReport | None = None
    ball: bool
    turns: list[TurnReport]
    #: How many ways it lies over itself, as it stands included; not counting a spin.
    ways: int
    #: Holes, counted from 0, that such turns take to each other.
    interchangeable_holes: list[list[int]]


class FeatureReport(Document):
    """The features of a part."""

    holes: list[HoleReport]
    bosses: list[BossReport]
    shafts: list[ShaftReport]
    slots: list[SlotReport]
    pockets: list[PrismReport]
    prismatic_bosses: list[PrismReport]
    polygons: list[PolygonReport]
    fillets: list[FilletReport]
    chamfers: list[ChamferReport]
    round_walls: list[RoundWallReport]
    cones: list[ConeReport]
    spheres: list[SphereReport]
    tori: list[TorusReport]
    varying_fillets: list[VaryingFilletReport] = []
    drafts: list[DraftReport] = []
    helical_threads: list[HelicalThreadReport] = []
    planes: list[PlaneReport]
    patterns: list[PatternReport]
    least_wall: WallReport | None = None
    symmetry: SymmetryReport
