"""Slips planted in single sizes of six parts: right checks, causes named, named wrongly, and named by chance.

Every size in its turn is halved, doubled, given without its decimal point, given as another size of its sort or as
nothing that means anything; and what else goes wrong with such a part. A slip that takes a feature away, or another
with it, is left out. Nothing here is shared with the grader.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from build123d import Pos, Rot

from benchmarks.sized_parts import PARTS, SizedPart, Sizes
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.modelling import step_bytes

_ACROSS = ("diameter", "pitch_circle")
_RADII = ("radius", "tube_radius")


@dataclass(frozen=True, slots=True, kw_only=True)
class Planted:
    """One slip, the check that must tell it, and the causes that name it; none for a value that means nothing."""

    name: str
    changes: Sizes
    check: str
    causes: tuple[str, ...] = ()
    #: It changes sizes alone: no face comes or goes.
    keeps_faces: bool = True


def planted(part: SizedPart) -> Iterator[Planted]:
    """Yield the slips of a part."""
    sizes = part.sizes
    rows = [(name, measure) for name, measure, size, _ in part.rows(sizes) if isinstance(sizes[str(size)], float)]
    for name, measure in rows:
        value = sizes[name]
        halved = "radius-for-diameter" if measure in _ACROSS else "half"
        doubled = ("diameter-for-radius", "double") if measure in _RADII else ("double",)
        yield Planted(name=f"{name} halved", changes={name: value / 2}, check=name, causes=(halved,))
        yield Planted(name=f"{name} doubled", changes={name: value * 2}, check=name, causes=doubled)
        yield Planted(name=f"{name} a tenth", changes={name: value / 10}, check=name, causes=("decimal-point",))
        odd = round(value * 1.1731 + 0.1371 / part.mm, 4)
        yield Planted(name=f"{name} anything", changes={name: odd}, check=name)
    diameters = [name for name, measure in rows if measure == "diameter"]
    for name, other in zip(diameters, diameters[1:] + diameters[:1], strict=True):
        causes = ("neighbours-value", "misread-digit", "radius-for-diameter", "half", "double")
        yield Planted(name=f"{name} as {other}", changes={name: sizes[other]}, check=name, causes=causes)
    for times in (25.4, 0.1):
        yield Planted(name=f"{times} times as large", changes={"scale": times}, check="*", causes=("unit-of-part",))
    yield from _OF_THEIR_OWN[part.name]


def _of_bracket() -> Iterator[Planted]:
    def slip(name: str, value: object, *causes: str, check: str = "") -> Planted:
        changes = {name: value}
        keeps = isinstance(value, float)
        return Planted(name=f"{name} {value}", changes=changes, check=check or name, causes=causes, keeps_faces=keeps)

    for value in (71 - 3.3, 71 + 3.3):
        yield slip("hole_along", value, "edge-for-centre")
    yield slip("hole_in", 13 - 3.3, "edge-for-centre")
    yield slip("hole_along", 90 - 71.0, "from-other-side")
    yield slip("bore_up", 64 - 41.0, "from-other-side")
    for name, value in (("hole_along", 79.0), ("long", 98.0), ("bore_up", 47.0), ("high", 70.0), ("high", 58.0)):
        yield slip(name, value, "wall")
    yield slip("holes", 1, "wrong-count", "feature-missing")
    yield slip("rib", 0, "feature-missing")
    yield slip("more", True, "feature-extra", check="extras")
    yield Planted(name="mirrored", changes={"mirror": True}, check="*", causes=("mirrored",))


def _of_spindle() -> Iterator[Planted]:
    for name in ("cross", "groove", "rounding"):
        yield Planted(name=f"no {name}", changes={name: 0}, check=name, causes=("feature-missing",), keeps_faces=False)
    yield Planted(
        name="through", changes={"bore_deep": 400.0}, check="bore_deep", causes=("through",), keeps_faces=False
    )
    yield Planted(name="no bevel", changes={"bevel": 0}, check="volume", keeps_faces=False)
    yield Planted(
        name="cross to its edge", changes={"cross_along": 13.75}, check="cross_along", causes=("edge-for-centre",)
    )
    yield Planted(
        name="cross from the step", changes={"cross_along": 10.0}, check="cross_along", causes=("from-other-side",)
    )


def _of_cover() -> Iterator[Planted]:
    for count in (4, 6):
        yield Planted(
            name=f"{count} of 5", changes={"round": count}, check="round", causes=("wrong-count",), keeps_faces=False
        )
    yield Planted(
        name="a screw short", changes={"screws": 3}, check="screws", causes=("wrong-count",), keeps_faces=False
    )
    yield Planted(name="none sunk", changes={"sunk": 0}, check="sunk", causes=("feature-missing",), keeps_faces=False)
    yield Planted(
        name="square corners", changes={"corner": 0}, check="corner", causes=("feature-missing",), keeps_faces=False
    )
    yield Planted(
        name="edge to edge", changes={"apart_long": 4.5 - 0.257}, check="apart_long", causes=("edge-for-centre",)
    )


def _of_case() -> Iterator[Planted]:
    yield Planted(name="inside for outside", changes={"long": 84 + 4.8}, check="long", causes=("wall",))
    yield Planted(name="port from above", changes={"port_up": 12.0}, check="port_up", causes=("from-other-side",))
    yield Planted(name="port from the floor", changes={"port_up": 22.2}, check="port_up", causes=("wall",))


def _of_lever() -> Iterator[Planted]:
    yield Planted(name="bore to its edge", changes={"reach": 78 - 8.0}, check="reach", causes=("edge-for-centre",))
    yield Planted(name="bores edge to edge", changes={"reach": 78 - 12.2}, check="reach", causes=("edge-for-centre",))
    yield Planted(name="bosses from the web", changes={"big_high": 24.0}, check="big_high", causes=("wall",))


def _of_rail() -> Iterator[Planted]:
    for count in (4, 6):
        yield Planted(
            name=f"{count} of 5", changes={"holes": count}, check="holes", causes=("wrong-count",), keeps_faces=False
        )
    yield Planted(
        name="no notch", changes={"notch": 0.0}, check="notch", causes=("feature-missing",), keeps_faces=False
    )
    yield Planted(
        name="groove from behind", changes={"groove_in": 18.0}, check="groove_in", causes=("from-other-side",)
    )
    yield Planted(name="holes from behind", changes={"hole_in": 33.0}, check="hole_in", causes=("from-other-side",))
    yield Planted(name="whole length for pitch", changes={"pitch": 23 / 4}, check="pitch", causes=("pattern-length",))
    yield Planted(name="first to its edge", changes={"first": 15.5 - 2.8}, check="first", causes=("edge-for-centre",))


_OF_THEIR_OWN = {
    "bracket": tuple(_of_bracket()),
    "spindle": tuple(_of_spindle()),
    "cover": tuple(_of_cover()),
    "case": tuple(_of_case()),
    "lever": tuple(_of_lever()),
    "rail": tuple(_of_rail()),
}


def handed_in(part: SizedPart, slip: Planted) -> bytes | None:
    """Return the STEP file with a slip, turned and moved; None where the slip makes no part, or another one."""
    try:
        solid = part.made(slip.changes)
    except (ValueError, RuntimeError, IndexError):  # no such solid, or no edge to round
        return None
    is_one = len(solid.solids()) == 1 and solid.is_valid
    if not is_one or (slip.keeps_faces and len(solid.faces()) != len(part.made({}).faces())):
        return None
    return step_bytes(Pos(12, -7, 30) * Rot(15, 25, -40) * solid, "Mine")


def roots(report: Report) -> dict[str, str | None]:
    """Return the checks that a report holds for wrong in themselves, each with its cause."""
    fallen = [check for check in report.checks if check.verdict in ("near", "missed") and not check.follows]
    return {check.id: check.cause.code if check.cause else None for check in fallen}


def tried(part: SizedPart, exercise: Exercise, slip: Planted) -> tuple[dict[str, str | None], bool, str | None] | None:
    """Return what fell by itself, whether that is the right check alone, and the cause; None where nothing is made."""
    data = handed_in(part, slip)
    if data is None:
        return None
    fallen = roots(grade(exercise, {"mine.step": data}, tolerance=Tolerance()))
    is_right = len(fallen) == 1 and slip.check in (*fallen, "*")
    return fallen, is_right, fallen.get(slip.check, next(iter(fallen.values()), None))


def main() -> None:
    """Print the table, and each slip that was not told as it should."""
    total: Counter[str] = Counter()
    odd = []
    print("part      builds right  to name named wrong  means nothing named")
    for part in PARTS:
        exercise, counts = part.exercise(), Counter[str]()
        for slip in planted(part):
            if (result := tried(part, exercise, slip)) is None:
                continue
            fallen, is_right, cause = result
            counts["builds"] += 1
            counts["right"] += is_right
            counts["to name" if slip.causes else "nothing"] += 1
            counts["named"] += bool(slip.causes) and cause in slip.causes
            counts["wrong"] += bool(slip.causes) and cause is not None and cause not in slip.causes
            counts["by chance"] += not slip.causes and cause is not None
            if not is_right or (slip.causes and cause not in slip.causes):
                odd.append(f"{part.name}: {slip.name}: {fallen}")
        total += counts
        print(_line(part.name, counts), flush=True)
    print(_line("all", total))
    print("\n".join(["not as they should:", *odd]))


def _line(name: str, counts: Counter[str]) -> str:
    columns = ("builds", "right", "to name", "named", "wrong", "nothing", "by chance")
    widths = (6, 5, 8, 5, 5, 14, 5)
    return f"{name:9} " + " ".join(f"{counts[column]:{width}}" for column, width in zip(columns, widths, strict=True))


if __name__ == "__main__":
    main()
