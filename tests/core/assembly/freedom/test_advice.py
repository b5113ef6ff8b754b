"""Sufficient and needless: which motion is too many or missing, and the one step that puts it right."""

from dataclasses import replace

import numpy as np
import pytest

from rigid_bench.core.assembly.freedom.advice import advise
from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.states import state_of
from rigid_bench.core.formats.build import Build
from rigid_bench.core.values.datums import AxisFeature, PlaneFeature
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE

SPIN = Motion(kind="rotation", direction=np.array(m.Z), point=np.zeros(3))
SLIDE = Motion(kind="translation", direction=np.array(m.Z), point=np.zeros(3))
FLOOR = PlaneFeature(np.zeros(3), np.array(m.Z))
FOOT = PlaneFeature(np.zeros(3), -np.array(m.Z))


def freedom_of(*joints: m.Joint) -> Freedom:
    return freedom(m.mechanism(*joints), tolerance=TOLERANCE)


def test_a_pin_that_slides_out_is_given_a_face_to_sit_on() -> None:
    pin = freedom_of(m.Joint(kind="cylindrical", bodies=(0, 1)))
    advice = advise(pin, 1, None, [SPIN], features=([FOOT], [FLOOR]))
    assert ([motion.kind for motion in advice.too_many], advice.missing) == (["translation"], ())
    assert advice.add
    assert advice.add.kind == "coincident"
    more = Build(parts=(), instances=pin.system.build.instances, mates=(*pin.system.build.mates, advice.add))
    assert freedom(more, tolerance=TOLERANCE).mobility == 1


def test_the_features_that_mates_use_already_are_enough_to_hold_it() -> None:
    """A plate on a floor slides two ways: its own joint's axis and plane hold it."""
    advice = advise(freedom_of(m.Joint(kind="cylindrical", bodies=(0, 1), along=m.Z)), 1, None, [SPIN])
    assert advice.add
    assert advice.add.kind == "coincident"


def test_a_wheel_that_is_fixed_is_let_turn() -> None:
    advice = advise(freedom_of(m.Joint(kind="fixed", bodies=(0, 1))), 1, None, [SPIN])
    assert [motion.kind for motion in advice.missing] == ["rotation"]
    assert advice.loosen == ("m0", "revolute")
    assert advise(freedom_of(m.Joint(kind="fixed", bodies=(0, 1))), 1, None, [SLIDE]).loosen == ("m0", "prismatic")


def test_the_mate_that_holds_too_much_is_named() -> None:
    stuck = freedom_of(m.Joint(kind="revolute", bodies=(0, 1)), m.Joint(kind="revolute", bodies=(0, 1), at=(20, 0, 0)))
    assert advise(stuck, 1, None, [SPIN]).drop == "m1"


def test_what_is_right_needs_nothing() -> None:
    advice = advise(freedom_of(m.Joint(kind="revolute", bodies=(0, 1))), 1, None, [SPIN])
    assert (advice.too_many, advice.missing, advice.add, advice.drop, advice.loosen) == ((), (), None, None, None)


@pytest.mark.parametrize(
    ("joints", "state"),
    [
        ([m.Joint(kind="planar", bodies=(0, 1))], "loose"),
        ([m.Joint(kind="revolute", bodies=(0, 1))], "guided"),
        ([m.Joint(kind="fixed", bodies=(0, 1))], "held"),
        ([m.Joint(kind="fixed", bodies=(0, 1))] * 2, "over-held"),
    ],
)
def test_states(joints: list[m.Joint], state: str) -> None:
    own = freedom_of(*joints)
    assert state_of(own, 1, own.degrees(1)) == state
    assert state_of(own, 1, own.degrees(1), allowed=1) == state.replace("over-held", "held")


def test_a_mate_that_does_not_hold_clashes() -> None:
    build = m.mechanism(m.Joint(kind="fixed", bodies=(0, 1)))
    moved = [build.instances[0], replace(build.instances[1], pose=Pose(np.eye(3), np.array([1.0, 0, 0])))]
    own = freedom(replace(build, instances=tuple(moved)), tolerance=TOLERANCE)
    assert state_of(own, 1, 0) == "clashing"


def test_a_nut_that_slides_on_its_thread_is_given_the_screw_joint_with_its_pitch() -> None:
    winding = Motion(kind="screw", direction=np.array(m.Z), point=np.zeros(3), pitch=1.25)
    nut = freedom_of(m.Joint(kind="cylindrical", bodies=(0, 1)))
    advice = advise(nut, 1, None, [winding])
    assert advice.add
    assert (advice.add.kind, advice.add.pitch) == ("screw", 1.25)
    assert advice.build
    assert freedom(advice.build, tolerance=TOLERANCE).motions(1, None)[0].pitch == pytest.approx(1.25)


def test_a_plate_that_turns_about_one_hole_is_mated_by_its_second_hole_and_not_by_faces_that_never_meet() -> None:
    plate = freedom_of(m.Joint(kind="revolute", bodies=(0, 1)))
    groove, end = (PlaneFeature(np.array([x, 0.0, 0]), np.array([1.0, 0, 0])) for x in (5.0, 40.0))
    hole = AxisFeature(np.array([30.0, 0, 0]), np.array(m.Z))
    assert (nearest := advise(plate, 1, None, [], features=([groove], [end])).add)
    assert nearest.kind != "coaxial"
    assert (second := advise(plate, 1, None, [], features=([groove, hole], [end, hole])).add)
    assert second.kind == "coaxial"
