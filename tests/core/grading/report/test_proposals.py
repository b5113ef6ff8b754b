"""Mates that are proposed from where parts stand: as few as give the freedom asked, and no more than is shown."""

import json
from functools import cache
from typing import Any

import numpy as np
import pytest
from build123d import Pos
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from rigid_bench.core.assembly.contact.contacts import Contact, contact_build, find_contacts
from rigid_bench.core.assembly.contact.propose_mates import propose_mates
from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.formats.build import Build, Instance, read_build
from rigid_bench.core.formats.preview import ProposedBuild
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.intake.submission import read_submission
from rigid_bench.core.grading.report.preview import preview_submission
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.saying import say
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from rigid_bench.demo.modelling import Placed, assembly_bytes, json_bytes
from tests.core.kernel.test_mesh import stl
from tests.support import latch
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

Vector = NDArray[np.float64]
MODULES = {"drawer": seed_drawer, "bin": pedal_bin, "jig": drill_jig, "mast": weather_mast}


@cache
def asked(name: str) -> tuple[Exercise, Any]:
    """An exercise, and the build of it that is right."""
    return read_exercise(bundle_of(MODULES[name])), MODULES[name].SAMPLES[0]


def positions(sample: Any) -> dict[str, bytes]:
    """Return what a student hands in whose program writes no mates."""
    return {name: data for name, data in files_of(sample).items() if not name.endswith(".build.json")}


def proposed(exercise: Exercise, files: dict[str, bytes]) -> ProposedBuild | None:
    return preview_submission(exercise, files, tolerance=TOLERANCE)[0].proposed


def confirmed(exercise: Exercise, files: dict[str, bytes]) -> tuple[ProposedBuild, bytes]:
    build = proposed(exercise, files)
    assert build is not None
    return build, build.confirmed(range(len(build.proposals)))


def mobility(build: Build) -> int:
    return freedom(build, tolerance=TOLERANCE).mobility


@pytest.mark.parametrize("name", MODULES)
def test_they_leave_what_the_reference_leaves_and_none_of_them_can_go(name: str) -> None:
    exercise, sample = asked(name)
    assert exercise.reference is not None
    build, data = confirmed(exercise, positions(sample))
    made = read_build(data, name="confirmed")
    left = mobility(made)
    assert left == mobility(exercise.reference) + build.too_many
    # nothing shows how the drawer's knob is held from turning, and the reference says that it is
    assert build.too_many == (1 if name == "drawer" else 0)
    for k in range(len(made.mates)):
        fewer = Build(parts=made.parts, instances=made.instances, mates=made.mates[:k] + made.mates[k + 1 :])
        assert mobility(fewer) > left, made.mates[k]


@pytest.mark.parametrize("name", ["bin", "jig", "mast"])
def test_a_right_build_is_met_once_they_are_confirmed_and_the_card_says_so(name: str) -> None:
    exercise, sample = asked(name)
    files = positions(sample)
    build, data = confirmed(exercise, files)
    report = grade(exercise, {**files, "confirmed.build.json": data}, tolerance=TOLERANCE)
    assert [check.id for check in report.checks if check.verdict != "met" and check.kind != "judged"] == []
    mates = len(build.proposals) - 1
    assert [said.params for said in report.notices if said.code == "mates-confirmed"] == [
        {"confirmed": mates, "mates": mates}
    ]
    declared = grade(exercise, files_of(sample), tolerance=TOLERANCE)
    assert not [said for said in declared.notices if said.code == "mates-confirmed"]


def test_what_is_not_confirmed_is_left_out() -> None:
    exercise, sample = asked("jig")
    build, _ = confirmed(exercise, positions(sample))
    made = read_build(build.confirmed([1, 2]), name="confirmed")
    assert [mate.id for mate in made.mates] == ["mate-1", "mate-2"]
    assert not any(instance.grounded for instance in made.instances)
    assert read_build(build.confirmed([0]), name="confirmed").instances[0].grounded


def test_a_part_that_only_happens_to_touch_is_not_held_by_it() -> None:
    """The drawer is pushed in until it meets the housing's back: it slides, as is asked, and is not held there."""
    reference = asked("drawer")[0].reference
    assert reference is not None
    way = freedom(reference, tolerance=TOLERANCE).motions(1)[0].direction
    shapes = shapes_of("drawer")
    ahead = [end for end in ends_of(shapes, way, within_mm=200) if end.gap_mm > 1]
    pushed = -min(ahead, key=lambda end: end.gap_mm).gap_mm * normal(ahead[0], shapes)
    shapes[1:] = [(part, Pose(pose.rotation, pose.position + pushed)) for part, pose in shapes[1:]]
    stops = [end for end in ends_of(shapes, way) if end.touches]
    assert stops, "it must touch, or nothing is tried"
    contacts = find_contacts(shapes, tolerance=TOLERANCE)
    made = propose_mates(standing(shapes), contacts, reference.mates, tolerance=TOLERANCE)
    assert made is not None
    assert made.left.mobility == mobility(reference) + made.too_many
    assert not [
        contact for _, contact in made.mates if {contact.a, contact.b} == {0, 1} and is_along(contact, shapes, way)
    ]


def ends_of(shapes: list[tuple[PartFeatures, Pose]], way: Vector, *, within_mm: float = 1.0) -> list[Contact]:
    """Return the faces of the first two parts that look at each other along a way."""
    contacts = find_contacts(shapes[:2], tolerance=TOLERANCE, within_mm=within_mm)
    return [own for own in contacts if own.kind == "meet" and is_along(own, shapes, way)]


def is_along(contact: Contact, shapes: list[tuple[PartFeatures, Pose]], way: Vector) -> bool:
    return isinstance(contact.feature_a, PlaneFeature) and abs(float(normal(contact, shapes) @ way)) > 0.99


def normal(contact: Contact, shapes: list[tuple[PartFeatures, Pose]]) -> Vector:
    assert isinstance(contact.feature_a, PlaneFeature)
    return shapes[contact.a][1].direction(contact.feature_a.normal)


def standing(shapes: list[tuple[PartFeatures, Pose]]) -> list[Instance]:
    return [Instance(id=f"i{k}", part="", grounded=k == 0, pose=pose) for k, (_, pose) in enumerate(shapes)]


@pytest.mark.parametrize("name", MODULES)
def test_without_anything_asked_they_leave_what_the_contacts_leave(name: str) -> None:
    shapes = shapes_of(name)
    contacts = find_contacts(shapes, tolerance=TOLERANCE)
    made = propose_mates(standing(shapes), contacts, None, tolerance=TOLERANCE)
    assert made is not None
    assert made.left.mobility == mobility(contact_build(standing(shapes), contacts))
    assert len(made.mates) < len(contacts)
    assert made.too_many == 0


def shapes_of(name: str) -> list[tuple[PartFeatures, Pose]]:
    submission = read_submission(positions(asked(name)[1]), tolerance=TOLERANCE)
    return [(submission.parts[own.part].features, own.pose) for own in submission.instances if own.part is not None]


@pytest.mark.parametrize("seed", range(4))
def test_they_are_the_same_wherever_the_whole_stands(seed: int) -> None:
    shapes = shapes_of("jig")
    random = np.random.default_rng(seed)
    world = Pose(Rotation.random(random_state=random).as_matrix(), random.uniform(-300, 300, 3))

    def kinds(placed: list[tuple[PartFeatures, Pose]]) -> list[tuple[int, int, str]]:
        contacts = find_contacts(placed, tolerance=TOLERANCE)
        made = propose_mates(standing(placed), contacts, None, tolerance=TOLERANCE)
        assert made is not None
        return [(mate.a, mate.b, mate.kind) for mate, _ in made.mates]

    assert kinds([(part, world @ pose) for part, pose in shapes]) == kinds(shapes)


def test_a_part_in_the_wrong_place_is_proposed_where_it_stands() -> None:
    """A dowel in the bolt's hole instead of the body's: that is what its place shows, and it gives nothing away."""
    placed = [
        Placed(name="Body", solid=latch.body()),
        Placed(name="Bolt", solid=latch.bolt(), position=(5, 14.4, 4)),
        Placed(name="Dowel", solid=latch.pin(), position=(*latch.PIN_PLACES[0], 0)),
        Placed(name="Dowel", solid=latch.pin(), position=(25, 20, 4)),
    ]
    build = proposed(read_exercise(latch.bundle()), {"kit.step": assembly_bytes(placed, "Latch")})
    assert build is not None
    words = [say(own.said) for own in build.proposals]
    assert "share an axis: Dowel 2 in Bolt, Ø4 in Ø4.2, 0.1 mm all round" in words
    assert "share an axis: Dowel 1 in Body, Ø4 in Ø4, no room" in words


def test_what_no_place_shows_is_said() -> None:
    """Nothing guides the latch's bolt: two of its motions are left that the exercise does not ask for."""
    exercise = read_exercise(latch.bundle())
    build = proposed(exercise, {"kit.step": latch.assembly()})
    assert build is not None
    assert build.too_many == 2
    assert [say(own.said) for own in build.proposals][:3] == [
        "stands still, and the rest goes onto it: Body",
        "share an axis: Dowel 1 in Body, Ø4 in Ø4, no room",
        "faces level: Body and Dowel 1",
    ]


@pytest.mark.parametrize("field", [{"flow": "position only"}, {"suggestions": False}])
def test_nothing_is_proposed_where_the_exercise_does_not_want_it(field: dict[str, Any]) -> None:
    files = latch.bundle()
    exercise = read_exercise({**files, "exercise.json": changed(files["exercise.json"], field)})
    assert proposed(exercise, {"kit.step": latch.assembly()}) is None


def changed(document: bytes, fields: dict[str, Any]) -> bytes:
    return json_bytes({**json.loads(document), **fields})


def test_nothing_is_proposed_where_no_check_needs_mates() -> None:
    files = latch.bundle()
    document = json.loads(files["exercise.json"])
    checks = [check for check in document["checks"] if check["kind"] in ("dimension", "parts", "interference")]
    fewer = {"checks": checks, "stages": []}
    exercise = read_exercise({**files, "exercise.json": changed(files["exercise.json"], fewer)})
    assert proposed(exercise, {"kit.step": latch.assembly()}) is None


def test_more_than_anybody_goes_through_is_not_proposed() -> None:
    shapes = shapes_of("jig")
    contacts = find_contacts(shapes, tolerance=TOLERANCE)
    made = propose_mates(standing(shapes), contacts, None, tolerance=TOLERANCE)
    assert made is not None
    count = len(made.mates)
    assert propose_mates(standing(shapes), contacts, None, tolerance=TOLERANCE, most=count) is not None
    assert propose_mates(standing(shapes), contacts, None, tolerance=TOLERANCE, most=count - 1) is None


def test_nothing_is_proposed_to_a_build_that_declares_mates_or_has_no_shapes() -> None:
    exercise = read_exercise(latch.bundle())
    assert proposed(exercise, {"b.json": latch.build(latch.all_mates())}) is None
    assert proposed(exercise, {"k.step": latch.assembly(), "b.json": latch.build([], source="k.step")}) is None


def test_pictures_show_both_parts_lit_and_a_small_part_from_near() -> None:
    exercise, sample = asked("mast")
    build = proposed(exercise, positions(sample))
    assert build is not None
    screw = next(own for own in build.proposals if "Screw" in str(own.said.params))
    whole = build.proposals[1]
    for own in (screw, whole):
        assert own.picture.visible
        assert own.picture.lit
    height = [box[1][1] - box[0][1] for box in (screw.picture.box, whole.picture.box)]
    assert height[0] < height[1] / 2


def test_meshes_in_one_place_are_mated_too() -> None:
    exercise = read_exercise(latch.bundle())
    solids = {"body.stl": latch.body(), "bolt.stl": Pos(5, 14.4, 4) * latch.bolt()}
    solids |= {f"dowel-{k}.stl": Pos(x, y, 0) * latch.pin() for k, (x, y) in enumerate(latch.PIN_PLACES)}
    files = {name: stl(solid) for name, solid in solids.items()}
    build, data = confirmed(exercise, files)
    assert [own.mate.kind for own in build.proposals if own.mate].count("coaxial") == 2
    report = grade(exercise, {**files, "confirmed.build.json": data}, tolerance=TOLERANCE)
    verdicts = {check.id: check.verdict for check in report.checks}
    assert verdicts["base"] == "met"
    assert all(own.picture.visible for own in build.proposals)


@pytest.mark.parametrize("name", MODULES)
def test_what_stands_in_for_a_refused_one_holds_as_much(name: str) -> None:
    exercise, sample = asked(name)
    build = proposed(exercise, positions(sample))
    assert build is not None
    every = range(len(build.proposals))
    whole = mobility(read_build(build.confirmed(every), name="b"))
    tried = [k for k in every if build.proposals[k].instead]
    assert tried or name not in ("drawer", "mast")
    for number in tried:
        others = [k for k in every if k != number]
        own, other = build.proposals[number].mate, build.proposals[number].instead
        assert own is not None
        assert other is not None
        assert other.mate is not None
        assert {own.a.instance, own.b.instance} == {other.mate.a.instance, other.mate.b.instance}
        assert mobility(read_build(build.confirmed(others), name="b")) > whole
        assert mobility(read_build(build.confirmed(others, {number}), name="b")) == whole
