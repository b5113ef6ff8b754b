"""The shipped sample school is what the grader finds today, and the pictures and scenes in it are sound."""

import gzip
import json
import re
from collections.abc import Mapping

import numpy as np
import pytest

from rigid_bench.demo.graded import exercises, read_graded
from rigid_bench.demo.school import _OLDER, _YOUNGER
from rigid_bench.jobs.sandbox import Sandbox

CASES = [(0, "jig-radius-for-diameter"), (1, "too-wide"), (2, "bin-joint-short"), (3, "mast-lifted")]


@pytest.mark.parametrize(("place", "name"), CASES, ids=[name for _, name in CASES])
def test_the_shipped_state_is_what_the_grader_finds(sandbox: Sandbox, place: int, name: str) -> None:
    shipped = read_graded()[place]
    sample = shipped.samples[name]
    graded = sandbox.run("grading.grade_files", dict(shipped.bundle), dict(sample.files), name=name)
    now = json.loads(graded.report.model_dump_json())
    assert [(check["id"], check["verdict"], check["measured"]) for check in now["checks"]] == [
        (check["id"], check["verdict"], check["measured"]) for check in sample.report["checks"]
    ], "run: scripts/sample_school.py"


@pytest.mark.parametrize("place", range(4), ids=["jig", "drawer", "bin", "mast"])
def test_the_shipped_files_are_what_is_modelled_today(place: int) -> None:
    """Other tests take them as they are shipped."""
    module, shipped = exercises()[place], read_graded()[place]
    made = {"": module.bundle()} | {sample.name: sample.files() for sample in module.SAMPLES}
    files = {"": shipped.bundle} | {name: sample.files for name, sample in shipped.samples.items()}
    differing = [name for name, own in made.items() if without_counts(own) != without_counts(files[name])]
    assert differing == [], "run: scripts/sample_school.py"


def without_counts(files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Leave out how many occurrences the kernel has written in this process: names and line ends go by it."""
    return {name: re.sub(rb"(USAGE_OCCURRENCE\()'\d+'", rb"\1", b"".join(data.split())) for name, data in files.items()}


def test_every_sample_is_shipped_and_the_school_has_its_size() -> None:
    shipped = read_graded()
    assert [sorted(exercise.samples) for exercise in shipped] == [
        sorted(sample.name for sample in module.SAMPLES) for module in exercises()
    ], "run: scripts/sample_school.py"
    builds = [
        name for plan in (_YOUNGER, _OLDER) for work in plan.values() for names in work.values() for name in names
    ]
    assert len(builds) >= 75
    assert len({*_YOUNGER, *_OLDER}) + 2 == 24  # two have handed in nothing


def test_pictures_light_what_is_wrong_and_lie_in_their_boxes() -> None:
    pictures = [
        check["picture"]
        for exercise in read_graded()
        for sample in exercise.samples.values()
        for check in sample.report["checks"]
        if check["picture"]
    ]
    assert len(pictures) > 15
    for picture in pictures:
        low, high = np.array(picture["box"])
        for line in (*picture["visible"], *picture["ghost"]):
            points = np.array(line)
            assert np.all(points >= low - 0.02)
            assert np.all(points <= high + 0.02)
    assert sum(bool(picture["lit"]) for picture in pictures) > 12


def test_a_scene_shows_where_a_part_is_off_and_by_how_much() -> None:
    """The drawer 1 mm too wide: half a millimetre too much on each side, where it was laid over, or 1 on one."""
    scene = json.loads(gzip.decompress(read_graded()[1].samples["too-wide"].scene or b""))
    drawer = next(part for part in scene["parts"] if part["name"] == "Drawer")
    assert 0.45 < max(drawer["off"]) < 1.05
    assert len(drawer["vertices"]) == 3 * len(drawer["off"])
    assert all(part["off"] is None for part in scene["parts"] if part["name"] != "Drawer")
    assert max(drawer["triangles"]) < len(drawer["off"])
