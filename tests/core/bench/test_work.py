"""The bench: parts brought in, grounded and put back; what is still free after each mate."""

import json
import math

import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.values.errors import FormRejected
from tests.core.bench.mast import STEPS, assembled, loose, mated
from tests.support.shapes import TOLERANCE


def test_parts_come_as_many_as_are_asked_for_and_stand_apart() -> None:
    state = BenchState()
    for _ in range(4):
        state = work.place(state, loose(), "screw")
    assert [instance.id for instance in state.placed] == ["screw-1", "screw-2", "screw-3", "screw-4"]
    assert np.diff([instance.position[0] for instance in state.placed]).min() > 8.5 + 9
    assert work.left_over(state, loose())["screw"] == 0
    with pytest.raises(FormRejected, match="none of it is left"):
        work.place(state, loose(), "screw")


def test_each_mate_takes_away_what_the_core_says() -> None:
    state = work.ground(work.place(BenchState(), loose(), "base"), "base-1")
    seen = []
    for part, a, b, doing in STEPS:
        if part:
            state = work.place(state, loose(), part)
        state = mated(state, a, b, doing)
        answer = work.answer(state, tolerance=TOLERANCE)
        seen.append(answer.instances[b[0]].degrees)
        report = freedom_report(
            read_build(json.dumps(state.build_document(loose())).encode(), name="b"), tolerance=TOLERANCE
        )
        assert {k: v.degrees for k, v in answer.instances.items()} == {
            k: v.degrees for k, v in report.instances.items()
        }
        assert report.satisfied
    assert seen == [2, 1, 0, 2, 2, 2]
    assert answer.mobility == 3


def test_taking_a_part_away_takes_its_mates() -> None:
    state = work.take_away(assembled(), "collar-1")
    assert all("collar-1" not in (mate.a.instance, mate.b.instance) for mate in state.mates)
    assert work.left_over(state, loose())["collar"] == 1
    with pytest.raises(FormRejected):
        work.take_away(state, "collar-1")
    assert not any(instance.grounded for instance in work.ground(assembled(), "base-1").placed)


def test_triangles_know_the_feature_that_they_belong_to() -> None:
    parts = loose()
    mast = next(part for part in parts.parts if part.id == "mast")
    points = np.array(mast.vertices).reshape(-1, 3)[np.array(mast.triangles).reshape(-1, 3)]
    shaft = next(k for k, feature in enumerate(mast.features) if feature.words == "Ø20 round, x = 0, y = 0")
    own = points[np.array(mast.faces) == shaft].reshape(-1, 3)
    assert np.allclose(np.hypot(own[:, 0], own[:, 1]), 10, atol=0.01)
    assert math.isclose(own[:, 2].max(), 200, abs_tol=1e-3)
    assert -1 not in mast.faces
