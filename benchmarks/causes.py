"""How often a slip is named: planted slips of a part with twenty sizes, and random wrong values.

Slips are planted in the model and found in its STEP file; nothing here is shared with `causes.py`.
"""

import random
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.modelling import cylinder, json_bytes, plane, step_bytes

_HOLES, _LENGTH, _WIDTH, _THICK = 6, 137.0, 83.0, 9.0
_EACH = 12


@dataclass
class Made:
    """The sizes of a plate with holes of different sizes."""

    length: float
    width: float
    thick: float
    diameters: list[float]
    places: list[tuple[float, float]]


def sizes(rng: random.Random) -> Made:
    """Sizes with two decimals that no simple sum connects."""
    places = [
        (15.0 + 19.37 * k + round(rng.uniform(0, 3), 2), 20 + round(rng.uniform(0, 40), 2)) for k in range(_HOLES)
    ]
    return Made(_LENGTH, _WIDTH, _THICK, [round(rng.uniform(5, 9), 2) for _ in range(_HOLES)], places)


def part(made: Made) -> Any:
    """The plate, a corner at the origin."""
    block = Pos(made.length / 2, made.width / 2, made.thick / 2) * Box(made.length, made.width, made.thick)
    return block - [Pos(x, y, 0) * Cylinder(d / 2, 100) for d, (x, y) in zip(made.diameters, made.places, strict=True)]


def exercise(made: Made) -> Exercise:
    """Twenty-one sizes at 0.3 mm either way."""
    limits = {"minus": 0.3, "plus": 0.3}
    base = {"kind": "dimension", "marks": 1, "part": "plate", "tolerance": limits}
    left, front, bottom = (plane((0, 0, 0), normal) for normal in ((-1, 0, 0), (0, -1, 0), (0, 0, -1)))
    right, back = plane((made.length, 0, 0), (1, 0, 0)), plane((0, made.width, 0), (0, 1, 0))

    def size(name: str, measure: str, nominal: float, **features: Any) -> dict[str, Any]:
        return {**base, "id": name, "title": f"Size {name}", "measure": measure, "nominal": nominal, **features}

    checks = [
        size("length", "length", made.length, between=[left, right]),
        size("width", "length", made.width, between=[front, back]),
        size("thick", "thickness", made.thick, between=[bottom, plane((0, 0, made.thick), (0, 0, 1))]),
    ]
    for k, (diameter, (x, y)) in enumerate(zip(made.diameters, made.places, strict=True)):
        wall = cylinder((x, y, 0), (0, 0, 1), diameter / 2)
        checks.append(size(f"d{k}", "diameter", diameter, of=wall))
        checks.append(size(f"x{k}", "position", x, between=[wall, left]))
        checks.append(size(f"y{k}", "position", y, between=[wall, front]))
    document = {"format": "rigid-bench/exercise", "version": 1, "id": "plate", "title": "Plate", "checks": checks}
    bundle = json_bytes({**document, "parts": [{"id": "plate", "name": "Plate", "file": "plate.step"}]})
    return read_exercise({"exercise.json": bundle, "plate.step": step_bytes(part(made), "Plate")})


def radius_typed(made: Made, k: int, rng: random.Random) -> str:
    """The radius where the diameter was asked."""
    made.diameters[k] /= 2
    return f"d{k}"


def to_the_edge(made: Made, k: int, rng: random.Random) -> str:
    """A hole placed by its edge."""
    x, y = made.places[k]
    made.places[k] = (x - made.diameters[k] / 2, y)
    return f"x{k}"


def other_side(made: Made, k: int, rng: random.Random) -> str:
    """A hole placed from the back."""
    x, y = made.places[k]
    made.places[k] = (x, made.width - y)
    return f"y{k}"


def neighbours(made: Made, k: int, rng: random.Random) -> str:
    """The diameter of another hole."""
    made.diameters[k] = made.diameters[(k + 1) % _HOLES]
    return f"d{k}"


def double(made: Made, k: int, rng: random.Random) -> str:
    """A plate twice as thick."""
    made.thick *= 2
    return "thick"


def anything(made: Made, k: int, rng: random.Random) -> str:
    """A random wrong diameter: no slip at all."""
    made.diameters[k] += rng.choice((-1, 1)) * rng.uniform(0.4, 3)
    return f"d{k}"


_SLIPS: tuple[Callable[[Made, int, random.Random], str], ...] = (
    radius_typed, to_the_edge, other_side, neighbours, double, anything,
)  # fmt: skip


def main() -> None:
    """Print the table."""
    print("slip            builds  named  codes")
    for slip in _SLIPS:
        named: Counter[str] = Counter()
        for seed in range(_EACH):
            rng = random.Random(seed)
            asked = exercise(sizes(random.Random(seed)))
            made = sizes(random.Random(seed))
            check = slip(made, seed % _HOLES, rng)
            data = step_bytes(Pos(30, 20, 10) * Rot(10, 20, 30) * part(made), "Mine")
            report = grade(asked, {"mine.step": data}, tolerance=Tolerance())
            result = next(candidate for candidate in report.checks if candidate.id == check)
            if result.cause:
                named[result.cause.code] += 1
        codes = ", ".join(f"{code} {count}" for code, count in named.items())
        print(f"{slip.__name__:15} {_EACH:6} {sum(named.values()):6}  {codes}", flush=True)


if __name__ == "__main__":
    main()
