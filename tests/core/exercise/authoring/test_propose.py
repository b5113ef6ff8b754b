"""From a solved model to an exercise: rigid, nothing said twice, and the model itself earns full marks."""

import json
from functools import cache
from types import ModuleType
from typing import Any

import pytest
from build123d import Box, Compound, Cylinder, Pos, Rot

from rigid_bench.core.drawing.audit.exercise_audit import audit_exercise
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.authoring.propose_sizes import dimensions
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.exercise.review.examine import examine
from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.kernel.step_writer import write_step
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from rigid_bench.demo.modelling import Placed, assembly_bytes, step_bytes
from tests.core.kernel.test_mesh import stl
from tests.support.samples import files_of
from tests.support.shapes import TOLERANCE, features, plate_with_four_holes

pytestmark = pytest.mark.thorough

MODULES = (drill_jig, seed_drawer, pedal_bin, weather_mast)


@cache
def proposed(module: ModuleType) -> dict[str, bytes]:
    right = next(sample for sample in module.SAMPLES if sample.slip == "none")
    model = next(data for name, data in files_of(right).items() if name.endswith(".step"))
    return propose(model, name="model.step", title="A new one", tolerance=TOLERANCE)


@pytest.mark.parametrize(
    "module", MODULES, ids=[sample_module.__name__.rsplit(".", 1)[-1] for sample_module in MODULES]
)
def test_the_draft_of_a_solved_model_is_sound(module: ModuleType) -> None:
    bundle = proposed(module)
    examined = examine(read_exercise(bundle), bundle, tolerance=TOLERANCE)
    assert {
        name: (part.missing, part.redundant) for name, part in examined.audit.parts.items() if part.verdict != "rigid"
    } == {}
    assert [(own_mark.id, own_mark.measured) for own_mark in examined.missed] == []
    assert examined.awarded == examined.available > 15
    assert examined.is_sound


def test_parts_are_counted_by_shape_and_standard_items_are_bought_in() -> None:
    document = json.loads(proposed(weather_mast)["exercise.json"])
    parts = {part["name"]: part for part in document["parts"]}
    assert (parts["Screw M5 x 16"]["count"], parts["Dowel"]["count"]) == (4, 2)
    bought = {part["name"] for part in document["parts"] if part["origin"] == "bought"}
    assert bought == {"Bearing 608", "Screw M5 x 16", "Dowel"}
    assert {name: part.get("process") for name, part in parts.items() if name not in bought} == {
        "Base": "printed", "Mast": "turned", "Collar": "printed", "Vane": "printed", "Rotor": "printed",
    }  # fmt: skip
    overlap = next(check for check in document["checks"] if check["id"] == "overlap")
    assert len(overlap["expected"]) == 4  # four screws in their threads


@pytest.mark.parametrize(
    ("module", "clearances"),
    [
        (seed_drawer, {"Knob and Drawer": (0.15, 0.25), "Drawer and Housing": (0.3, 0.5)}),
        (drill_jig, {}),  # its dowels are bought in, and its bush sits fast
        (pedal_bin, dict.fromkeys(
            ["Pedal and Side plate", "Lid arm and Side plate", "Rod and Pedal", "Lid arm and Rod"], (0.07, 0.13)
        )),
    ],
    ids=["drawer", "jig", "bin"],
)  # fmt: skip
def test_a_clearance_is_asked_for_each_two_parts_that_run_on_each_other(
    module: ModuleType, clearances: dict[str, tuple[float, float]]
) -> None:
    checks = json.loads(proposed(module)["exercise.json"])["checks"]
    gaps = {check["title"]: (check["min"], check["max"]) for check in checks if check["kind"] == "gap"}
    assert gaps == {f"Running clearance of {pair}": limits for pair, limits in clearances.items()}


@pytest.mark.parametrize("turn", [(0, 0, 0), (0, 0, 30), (20, 35, -50)], ids=["square", "turned", "askew"])
def test_a_part_drawn_askew_takes_as_many_dimensions(turn: tuple[float, float, float]) -> None:
    shape = Rot(*turn) * (Box(60, 40, 8) - [Pos(x, y, 0) * Cylinder(4, 50) for x, y in ((-20, -10), (15, 5))])
    part = dimensions("p", features(shape), TOLERANCE)
    notes = [dimension["measure"] for dimension in part if dimension["measure"] in ("count", "pierces")]
    # three overall, one diameter for both holes ("2 x", through), two places each
    assert (len(part) - len(notes), notes) == (8, ["count", "pierces"])


def test_a_single_part_has_no_assembly() -> None:
    bundle = propose(step_bytes(plate_with_four_holes(), "Plate"), name="p.step", title="Plate", tolerance=TOLERANCE)
    document = json.loads(bundle["exercise.json"])
    assert "reference" not in document
    assert {check["kind"] for check in document["checks"]} == {"dimension"}
    assert audit_exercise(read_exercise(bundle), tolerance=TOLERANCE).parts["plate"].verdict == "rigid"


def test_copies_that_are_products_of_their_own_are_one_part() -> None:
    pin = Cylinder(3, 20)
    placed = [
        Placed(name="Block", solid=Box(40, 40, 10) - Pos(10, 0, 0) * Cylinder(3, 50) - Pos(-10, 0, 0) * Cylinder(3, 50))
    ]
    placed += [
        Placed(name=f"Pin {k}", solid=Pos(0, 0, 5 * k) * pin, position=(x, 0, -5 * k)) for k, x in ((0, 10), (1, -10))
    ]
    bundle = propose(assembly_bytes(placed, "Kit"), name="k.step", title="Kit", tolerance=TOLERANCE)
    examined = examine(read_exercise(bundle), bundle, tolerance=TOLERANCE)
    assert (json.loads(bundle["exercise.json"])["parts"][1]["count"], examined.missed) == (2, [])


def test_what_is_written_is_read_back() -> None:
    solid = plate_with_four_holes().solid()
    (part,) = read_step(write_step(solid.wrapped, name="Plate"), name="x.step").parts
    assert (part.name, round(features(solid).volume, 6)) == ("Plate", round(features(Compound(part.shape)).volume, 6))


@pytest.mark.parametrize("data", [b"ISO-10303-21;", stl(Box(5, 5, 5))], ids=["broken", "triangles"])
def test_a_model_that_cannot_be_used_says_why(data: Any) -> None:
    with pytest.raises(RigidBenchError):
        propose(data, name="model.step", title="X", tolerance=TOLERANCE)
