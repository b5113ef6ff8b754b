"""What a student is told of a build before it counts."""

import gzip
import json

import numpy as np
import pytest
from build123d import Box, Pos, scale

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.formats.preview import Preview
from rigid_bench.core.grading.report.preview import preview_submission
from rigid_bench.core.grading.report.scene import scene_of_submission
from rigid_bench.core.wording.doubts import doubt_words
from rigid_bench.core.wording.saying import say
from rigid_bench.demo.modelling import Placed, assembly_bytes, step_bytes
from tests.core.kernel.test_mesh import stl
from tests.support import latch
from tests.support.shapes import TOLERANCE, inch_step

EXERCISE = read_exercise(latch.bundle())


def previewed(files: dict[str, bytes]) -> Preview:
    return preview_submission(EXERCISE, files, tolerance=TOLERANCE)[0]


def test_parts_counts_and_features_are_said() -> None:
    preview = previewed({"kit.step": latch.assembly()})
    rows = {
        part.taken_for: (part.name, part.count, part.wanted, [say(feature) for feature in part.features])
        for part in preview.parts
    }
    assert rows["Body"] == ("Body", 1, 1, ["2 × hole Ø4, through"])
    assert rows["Dowel"] == ("Dowel", 2, 2, ["boss Ø4, 12 long"])
    assert (preview.units, preview.instances, preview.missing, preview.mates) == (["millimetre"], 4, {}, None)


def test_what_is_missing_and_what_is_not_asked_for_are_said() -> None:
    extra = [Placed(name="Body", solid=latch.body()), Placed(name="Brick", solid=Pos(0, 0, 40) * Box(9, 8, 7))]
    preview = previewed({"kit.step": assembly_bytes(extra, "Kit")})
    assert preview.missing == {"Bolt": 1, "Dowel": 2}
    assert [(part.name, part.taken_for, part.wanted) for part in preview.parts] == [
        ("Body", "Body", 1),
        ("Brick", None, None),
    ]


def test_the_whole_build_is_drawn_where_its_parts_stand() -> None:
    _, submission = preview_submission(EXERCISE, {"kit.step": latch.assembly()}, tolerance=TOLERANCE)
    packed = scene_of_submission(submission)
    assert packed is not None
    scene = json.loads(gzip.decompress(packed))
    assert sorted(part["name"] for part in scene["parts"]) == sorted(own.name for own in submission.instances)
    assert scene["ghosts"] == []  # nothing of the reference is given away before the card
    corners = np.vstack([np.reshape(part["vertices"], (-1, 3)) for part in scene["parts"]])
    placed = np.vstack(
        [
            own.pose.point(submission.parts[own.part].features.corners)
            for own in submission.instances
            if own.part is not None
        ]
    )
    assert np.ptp(corners, axis=0) == pytest.approx(np.ptp(placed, axis=0), abs=0.05)
    assert scene["view"]["visible"]


def test_a_build_file_shows_its_mates_and_its_base() -> None:
    files = {"kit.step": latch.assembly(), "b.json": latch.build(latch.all_mates(), source="kit.step")}
    preview = previewed(files)
    assert (preview.mates, preview.grounded) == (len(latch.all_mates()), ["Body"])
    alone = previewed({"b.json": latch.build(latch.all_mates())})
    assert {part.taken_for: part.sizes for part in alone.parts} == {"Body": [], "Bolt": [], "Dowel": []}


@pytest.mark.parametrize(
    ("files", "unit", "is_mesh", "warning"),
    [
        ({"body.step": inch_step(latch.body(), "Body")}, "inch", False, ""),
        ({"body.stl": stl(latch.body())}, "unknown", True, "does not say its unit"),
    ],
)
def test_units_meshes_and_warnings_are_said(files: dict[str, bytes], unit: str, is_mesh: bool, warning: str) -> None:
    preview = previewed(files)
    assert (preview.units, [part.is_mesh for part in preview.parts]) == ([unit], [is_mesh])
    assert preview.parts[0].taken_for == "Body"
    assert any(warning in known_warning for known_warning in preview.warnings) or not warning


@pytest.mark.parametrize(
    ("files", "code", "number"),
    [
        ({"kit.step": latch.assembly()}, None, 0),
        ({"odd.step": step_bytes(Box(9, 8, 7) - Pos(0, 0, 3) * Box(2, 2, 9), "Brick")}, "other-exercise", 4),
        ({"body.step": step_bytes(latch.body(), "Body")}, "lone-part", 4),
        ({"body.step": step_bytes(scale(latch.body(), 25.4), "Body")}, "other-unit", 25.4),
    ],
)
def test_what_is_far_off_is_said_first(files: dict[str, bytes], code: str | None, number: float) -> None:
    doubt = previewed(files).doubt
    assert (doubt.code if doubt else None) == code
    if doubt:
        assert doubt.number == pytest.approx(number)
        assert doubt_words(doubt).endswith(".")
