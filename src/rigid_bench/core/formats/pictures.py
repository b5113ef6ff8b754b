"""The pictures of an exercise sheet as plain data, so that pages can draw them without the kernel."""

from rigid_bench.core.formats.documents import Document

Polyline = list[list[float]]


class ViewModel(Document):
    """One view as polylines, mm, y upwards."""

    name: str
    visible: list[Polyline]
    hidden: list[Polyline]
    #: [[least x, y], [greatest x, y]]
    box: list[list[float]]


class Sheet(Document):
    """All views of an exercise."""

    #: part id -> front, top, side and pictorial view.
    parts: dict[str, list[ViewModel]]
    #: The solved assembly, or None for an exercise of single parts.
    assembly: ViewModel | None
