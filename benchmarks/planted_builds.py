"""Slips planted in builds of a stand: right builds met, right checks alone, causes named, and named wrongly."""

from collections import Counter
from dataclasses import dataclass

from benchmarks.planted_slips import roots
from benchmarks.stand import SIZES, Stand, arm_on_base, exercise, fixed_arm, held_once_more, post_on_top
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.values.tolerance import Tolerance


@dataclass(frozen=True, slots=True, kw_only=True)
class PlantedBuild:
    """A build, the check that must tell its slip, and the causes that name it; "" and none for a right one."""

    name: str
    stand: Stand
    check: str = ""
    causes: tuple[str | None, ...] = ()


def _planted(name: str, stand: Stand, check: str = "", *causes: str | None) -> PlantedBuild:
    return PlantedBuild(name=name, stand=stand, check=check, causes=causes)


def _lacking(*mates: str) -> Stand:
    return Stand(lacks=mates)


_ALL = tuple(mate["id"] for mate in Stand().mates(SIZES))
BUILDS = (
    _planted("right", Stand()),
    _planted("nothing grounded", Stand(grounded=""), "grounded", "nothing-grounded"),
    _planted("post grounded", Stand(grounded="post-1"), "grounded", "wrong-part-grounded"),
    _planted(
        "arm fixed",
        Stand(lacks=("arm on post", "arm height"), others=(fixed_arm(),)),
        "arm free",
        "fixed-where-it-should-move",
    ),
    _planted("arm held once more", Stand(others=(held_once_more(),)), "arm free", "mate-too-many"),
    _planted("no height", _lacking("arm height"), "arm free", "mate-short"),
    _planted("pin without head", _lacking("pin head"), "pin free", "mate-short"),
    _planted("post without seat", _lacking("post seated"), "post free", "mate-short"),
    _planted("post not turned", _lacking("post turned"), "post free", "mate-short"),
    _planted("pin not mated", _lacking("pin head", "pin in arm"), "pin free", "placed-not-held"),
    _planted("another height", Stand(height=48.0), "arm height", "mate-value"),
    _planted("height forgotten", Stand(height=0.0, others=(arm_on_base(),)), "arm height", "offset-forgotten"),
    _planted("arm upside down", Stand(is_upside_down=True), "arm height", "turned-over"),
    _planted("pin in the next hole", Stand(hole=40.0), "pin in arm", "wrong-hole"),
    _planted("pin from behind", Stand(side=1), "pin head", "turned-over", "far-side"),
    _planted("no pin", Stand(without="pin"), "parts", "part-missing"),
    _planted("post on top", Stand(post_up=6.0, others=(post_on_top(),)), "post seated", "wrong-rim", "wrong-face"),
    _planted(
        "all at the origin",
        Stand(
            is_at_origin=True,
            lacks=_ALL,
        ),
        "post in base",
        "left-at-origin",
    ),
    _planted("post too thick", Stand(sizes={"post": 12.5}), "post post", None),
    _planted("post doubled", Stand(sizes={"post": 24.0}), "post post", "double"),
    _planted("pin doubled", Stand(sizes={"pin": 12.0}), "pin pin", "double"),
    _planted("bore halved", Stand(sizes={"bore": SIZES["bore"] / 2}), "arm bore", "radius-for-diameter"),
    _planted("thick base", Stand(sizes={"thick": 14.0}), "base thick", None),
)


def tried(asked: Exercise, build: PlantedBuild) -> tuple[dict[str, str | None], bool, bool]:
    """Return what fell by itself, whether that is the right check alone, and whether the cause is right."""
    fallen = roots(grade(asked, build.stand.files(), tolerance=Tolerance()))
    is_right = list(fallen) == ([build.check] if build.check else [])
    return fallen, is_right, not build.check or fallen.get(build.check, "") in build.causes


def main() -> None:
    """Print the table."""
    asked, counts = exercise(), Counter[str]()
    for build in BUILDS:
        fallen, is_right, is_named = tried(asked, build)
        counts["right"] += is_right
        counts["named"] += is_named
        print(f"{build.name:22} {'right check' if is_right else 'OTHER CHECKS':12} {fallen}", flush=True)
    print(f"{len(BUILDS)} builds: right checks alone {counts['right']}, cause as planted {counts['named']}")


if __name__ == "__main__":
    main()
