"""What is seen of an exercise's parts as plain data, so that drawings can be laid out without the kernel."""

from typing import Any, Literal

from pydantic import model_validator

from rigid_bench.core.formats.documents import Document

Polyline = list[list[float]]


class ViewModel(Document):
    """One view as polylines, mm, y upwards."""

    name: str
    visible: list[Polyline]
    hidden: list[Polyline]
    #: [[least x, y], [greatest x, y]]
    box: list[list[float]]


class PictureModel(Document):
    """The student's part with what is meant lit up, the right position as a ghost, and an arrow; mm, y upwards."""

    box: list[list[float]]
    visible: list[Polyline]
    hidden: list[Polyline] = []
    lit: list[Polyline] = []
    ghost: list[Polyline] = []
    #: From where it is to where it should be, or along what is measured.
    arrow: list[list[float]] | None = None
    label: str = ""


class RoundModel(Document):
    """Something round, from end to end of its axis, mm in the part's coordinates."""

    kind: Literal["hole", "boss", "round end", "ball"]
    start: list[float]
    end: list[float]
    diameter: float


class FlatsModel(Document):
    """A regular polygon that stands out or runs through, mm in the part's coordinates."""

    sides: int
    centre: list[float]
    direction: list[float]
    across_flats: float


class HoleCircleModel(Document):
    """The circle through the middles of like holes, mm in the part's coordinates."""

    centre: list[float]
    direction: list[float]
    diameter: float


class SectionModel(Document):
    """A part cut in two, seen as one of its views sees it."""

    #: The view whose sight it has, and a point of the cutting plane, mm in the part's coordinates.
    direction: str
    point: list[float]
    form: Literal["full", "half", "stepped"] = "full"
    #: Of a half or stepped one: the corners of the cut, mm in the part's coordinates.
    path: list[list[float]] = []
    view: ViewModel
    #: What is cut: of each area its outline, then its holes, mm in the view.
    areas: list[list[Polyline]]


class StockPiece(Document):
    """How a part is cut from a bought length, mm and degrees."""

    section: Literal["round", "square", "hexagon", "rectangle"]
    #: Diameter, across flats, or the two sides.
    sizes: list[float]
    #: From tip to tip.
    length: float
    #: How far each end leans from square.
    end_angles: list[float]
    #: mm3
    volume: float


class PartPictures(Document):
    """One part as it is seen."""

    #: Front, top, right side and pictorial view, then the left side, the back and the bottom.
    views: list[ViewModel]
    #: Where hidden lines alone would show what lies inside.
    section: SectionModel | None = None
    rounds: list[RoundModel] = []
    hole_circles: list[HoleCircleModel] = []
    flats: list[FlatsModel] = []
    #: None for a part that is not cut from a bought length.
    stock: StockPiece | None = None

    @model_validator(mode="before")
    @classmethod
    def _of_an_older_version(cls, given: Any) -> Any:
        """Exercises that were prepared before drawings had sections hold the views alone."""
        return {"views": given} if isinstance(given, list) else given


class SeenInstance(Document):
    """An instance in the assembly's view, with a point of an edge that is seen, mm in the view, or None."""

    instance: str
    part: str
    point: list[float] | None


class SectionedInstance(Document):
    """What of an instance is cut, mm in the section's view."""

    instance: str
    part: str
    areas: list[list[Polyline]]


class AssemblyFit(Document):
    """A round part in a hole of another that a check asks for, mm in the world."""

    check: str
    point: list[float]
    direction: list[float]
    #: Diameters.
    hole: float
    shaft: float
    #: Such as "H7/g6"; "" where a gap is asked.
    fit: str


class AssemblySection(Document):
    """The assembly cut where its fits lie."""

    #: The view whose sight it has, and a point of the cutting plane.
    direction: str
    point: list[float]
    view: ViewModel
    #: The view that shows where it is cut.
    beside: ViewModel
    cut: list[SectionedInstance]
    fits: list[AssemblyFit]


class AssemblyPictures(Document):
    """The solved assembly in its pictorial view."""

    view: ViewModel
    instances: list[SeenInstance]
    section: AssemblySection | None = None

    @model_validator(mode="before")
    @classmethod
    def _of_an_older_version(cls, given: Any) -> Any:
        return {"view": given, "instances": []} if isinstance(given, dict) and "visible" in given else given


class FreeMotion(Document):
    """A motion that is left: its kind, its direction, and for turns a point of its axis, mm in the world."""

    kind: Literal["rotation", "translation", "screw"]
    direction: list[float]
    point: list[float]


class AssemblyStep(Document):
    """One part put in its place, those before it standing already."""

    instance: str
    part: str
    #: Parts that it is mated with then.
    onto: list[str]
    #: Unit, the way in, in the world; None for the first.
    way: list[float] | None
    #: What it can still do then.
    motions: list[FreeMotion]


class ExplodedPictures(AssemblyPictures):
    """The assembly drawn apart."""

    #: From where a part belongs to where it is drawn, mm in the view.
    trails: list[Polyline]
    #: In the order in which it goes together.
    steps: list[AssemblyStep] = []


class AskedSize(Document):
    """What a dimension asks, in the exercise's unit."""

    nominal: float
    minus: float
    plus: float


class Sheet(Document):
    """All that is seen of an exercise."""

    #: By part id.
    parts: dict[str, PartPictures]
    #: None for an exercise of single parts.
    assembly: AssemblyPictures | None
    #: None where nothing comes apart.
    exploded: ExplodedPictures | None = None
