"""Every feature that a report may hold is said in words of its own: reports made by hand, no kernel."""

from typing import Any

import pytest

from rigid_bench.core.formats import features
from rigid_bench.core.formats.message import Message, alike, phrase
from rigid_bench.core.part.recognition.round_surfaces import BELONGING
from rigid_bench.core.wording.features import counted, features_by_kind
from rigid_bench.core.wording.manner import Manner
from rigid_bench.core.wording.saying import can_say, say

PLACE: dict[str, Any] = {"position": [0.0, 0, 0], "direction": [0.0, 0, 1]}
CENTRE: dict[str, Any] = {"centre": [0.0, 0, 0], "direction": [0.0, 0, 1]}


def hole(**own: Any) -> features.HoleReport:
    return features.HoleReport(**{"diameter": 8.0, "depth": 12.0, "through": False, "entry": "plain", **PLACE, **own})


def slot(**own: Any) -> features.SlotReport:
    usual = {"width": 6.0, "length": 26.0, "depth": 4.0, "through": False, "ends": ["round", "open"]}
    return features.SlotReport(**{**usual, "along": [1.0, 0, 0], **PLACE, **own})


def prism(form: str, **own: Any) -> features.PrismReport:
    usual = {"form": form, "depth": 3.0, "through": False, "along": [1.0, 0, 0], "area": 240.0, "perimeter": 64.0}
    return features.PrismReport(**{**usual, "length": 20.0, "width": 12.0, "outline": [], **PLACE, **own})


def polygon(sides: int, *, hollow: bool) -> features.PolygonReport:
    return features.PolygonReport(sides=sides, across_flats=10.0, depth=5.0, hollow=hollow, **PLACE)


def round_wall(*, hollow: bool) -> features.RoundWallReport:
    return features.RoundWallReport(radius=5.0, length=9.0, sweep=180.0, hollow=hollow, tangent=2, **CENTRE)


def cone(name: str) -> features.ConeReport:
    return features.ConeReport(
        name=name,
        half_angle=45.0,
        diameters=[6.0, 12.0],
        length=3.0,
        hollow=False,
        apex=[0.0, 0, 0],
        direction=[0.0, 0, 1],
    )


def ball(name: str) -> features.SphereReport:
    return features.SphereReport(name=name, diameter=12.0, hollow=False, centre=[0.0, 0, 0])


def ring(name: str) -> features.TorusReport:
    return features.TorusReport(name=name, ring_diameter=30.0, tube_diameter=4.0, hollow=False, **CENTRE)


def thread(hand: str, *, internal: bool) -> features.HelicalThreadReport:
    sizes = {"pitch": 1.25, "major_diameter": 8.0, "minor_diameter": 6.647, "length": 10.0}  # ISO 261 and 724: M8
    return features.HelicalThreadReport.model_validate({**sizes, "hand": hand, "internal": internal, **PLACE})


def report(**lists: Any) -> features.FeatureReport:
    """A part with these features and no others."""
    none: dict[str, Any] = {name: [] for name in features.FeatureReport.model_fields}
    return features.FeatureReport.model_construct(**{**none, **lists})


def words_of(kind: str, feature: Any) -> str:
    said = [name for names in features_by_kind(report(**{kind: [feature]})).values() for name in names]
    assert len(said) == 1
    return say(said[0])


@pytest.mark.parametrize(
    ("kind", "feature", "words"),
    [
        ("holes", hole(), "hole Ø8, 12 deep"),
        ("holes", hole(through=True, slant=30.0), "hole Ø8, through, 30° askew"),
        ("holes", hole(through=True, entry="counterbore", entry_diameter=15.0), "hole Ø8, through, counterbore Ø15"),
        ("holes", hole(entry="countersink", entry_diameter=16.4), "hole Ø8, 12 deep, countersink Ø16.4"),
        ("slots", slot(), "slot 26 × 6, 4 deep, ends round and open"),
        ("slots", slot(through=True, ends=["square", "square"]), "slot 26 × 6, through, ends square and square"),
        ("slots", slot(keyway_in="bore"), "keyway in a bore 26 × 6, 4 deep, ends round and open"),
        ("slots", slot(keyway_in="shaft"), "keyway in a shaft 26 × 6, 4 deep, ends round and open"),
        ("slots", slot(head_width=14.0, head_height=5.0), "T-slot 26 × 6, 4 deep, head 14 × 5, ends round and open"),
        ("pockets", prism("rectangle"), "pocket 20 × 12, 3 deep"),
        ("pockets", prism("rectangle", corner_radius=2.0, through=True), "pocket 20 × 12, through, corners R2"),
        ("pockets", prism("outline"), "shaped pocket within 20 × 12, 240 mm², 3 deep"),
        ("pockets", prism("curved slot", path_radius=25.0, length=None), "curved slot 12 wide on R25, 3 deep"),
        ("prismatic_bosses", prism("rectangle"), "boss 20 × 12, 3 high"),
        ("prismatic_bosses", prism("outline"), "shaped boss within 20 × 12, 240 mm², 3 high"),
        ("polygons", polygon(6, hollow=True), "hexagon socket, 10 across flats, 5 deep"),
        ("polygons", polygon(4, hollow=False), "square block, 10 across flats, 5 high"),
        ("polygons", polygon(7, hollow=False), "7-sided block, 10 across flats, 5 high"),
        ("varying_fillets", features.VaryingFilletReport(radii=[2.0, 5.0]), "rounded edge R2 to R5"),
        ("chamfers", features.ChamferReport(legs=[1.0, 2.0], angle=26.565, count=1), "chamfer 1 × 2"),
        ("round_walls", round_wall(hollow=True), "half bore or saddle R5, 180° round"),
        ("round_walls", round_wall(hollow=False), "round end R5, 180° round"),
        ("cones", cone("taper"), "taper Ø12 to Ø6, 3 long"),
        ("cones", cone("tapered hole"), "tapered hole Ø12 to Ø6, 3 long"),
        ("cones", cone("conical pocket"), "conical pocket Ø12 to Ø6, 3 long"),
        ("cones", cone("countersunk head"), "countersunk head Ø12, 90°"),
        ("spheres", ball("ball"), "ball Ø12"),
        ("spheres", ball("ball pocket"), "ball pocket Ø12"),
        ("tori", ring("ring"), "ring Ø30, Ø4 round"),
        ("tori", ring("ring groove"), "ring groove Ø30, Ø4 round"),
        ("helical_threads", thread("right", internal=True),
         "thread-like, inside: pitch 1.25, Ø8 over Ø6.647, 10 long, right-handed"),
        ("helical_threads", thread("left", internal=False),
         "thread-like, outside: pitch 1.25, Ø8 over Ø6.647, 10 long, left-handed"),
    ],
)  # fmt: skip
def test_each_feature_has_its_words(kind: str, feature: Any, words: str) -> None:
    assert words_of(kind, feature) == words


def test_what_belongs_to_a_hole_or_an_edge_is_said_with_it() -> None:
    own = report(cones=[cone(name) for name in BELONGING], spheres=[ball("fillet")], tori=[ring("fillet")])
    assert [name for names in features_by_kind(own).values() for name in names] == []


def test_like_features_are_counted_and_unlike_ones_stand_apart() -> None:
    said = counted(features_by_kind(report(holes=[hole(), hole(diameter=6.0), hole(diameter=8.0000001)]))["hole"])
    assert [say(feature) for feature in said] == ["2 × hole Ø8, 12 deep", "hole Ø6, 12 deep"]


def test_a_class_with_a_comma_reads_one() -> None:
    (own,) = features_by_kind(report(holes=[hole(diameter=4.25)]))["hole"]
    assert say(own, Manner(decimal=",")) == "hole Ø4,25, 12 deep"


@pytest.mark.parametrize("of", ["hole", "boss", "slot", "pocket"])
def test_what_comes_in_patterns_has_a_plural(of: str) -> None:
    assert can_say(phrase(f"patterned.{of}"))
    assert say(phrase(f"patterned.{of}")) in ("holes", "bosses", "slots", "pockets")


def test_what_says_the_same_is_the_same_whoever_said_it() -> None:
    first, again = Message(code="a", params={"n": 1}, text="said"), Message(code="a", params={"n": 1}, text="said")
    assert alike([first, phrase("b"), again]) == [(first, 2), (phrase("b"), 1)]
