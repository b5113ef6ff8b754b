"""One feature, one note: what is written on a drawing, after ISO 129-1 (from memory where no clause is named)."""

from typing import Any

import pytest

from rigid_bench.core.drawing.notes.gather import notes_of
from rigid_bench.core.drawing.notes.note import Linear, Listed, Note, Pointed
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.pictures import AskedSize, PartPictures, RoundModel, ViewModel

#: The views of a block of 70 x 40 x 10.
VIEWS = [ViewModel(name=name, visible=[], hidden=[], box=[[0.0, 0.0], size]) for name, size in
         (("front", [70.0, 10.0]), ("top", [70.0, 40.0]), ("right side", [40.0, 10.0]))]  # fmt: skip


def hole(x: float, radius: float, *, low: float = 0.0, high: float = 10.0) -> RoundModel:
    return RoundModel(kind="hole", start=[x, 20, low], end=[x, 20, high], diameter=2 * radius)


def cylinder(x: float, radius: float) -> dict[str, Any]:
    return {"cylinder": {"point": [x, 20, 0], "direction": [0, 0, 1], "radius": radius}}


def plane(x: float) -> dict[str, Any]:
    return {"plane": {"point": [x, 0, 0], "normal": [1, 0, 0]}}


def check(name: str, measure: str, nominal: float, **more: Any) -> CheckModel:
    given = {"id": name, "title": name, "kind": "dimension", "marks": 1, "measure": measure, "nominal": nominal}
    return CheckModel.model_validate({**given, **more})


def noted(*checks: CheckModel, rounds: tuple[RoundModel, ...] = (), units: str = "mm", **more: Any) -> list[Note]:
    sizes = {
        own.id: AskedSize(nominal=own.fields["nominal"], minus=0.1, plus=0.1)
        for own in checks
        if own.kind == "dimension"
    }
    return notes_of(
        checks, sizes, PartPictures(views=VIEWS, rounds=list(rounds)), mm=1.0, written=Written(units=units, **more)
    )


def texts(notes: list[Note]) -> list[str]:
    return [note.text for note in notes]


def test_a_counterbored_hole_is_one_note_in_the_order_of_drilling() -> None:
    notes = noted(
        check("d", "diameter", 6.6, of=cylinder(35, 3.3)),
        check("t", "pierces", 1, of=cylinder(35, 3.3)),
        check("c", "diameter", 11, of=cylinder(35, 5.5)),
        check("k", "depth", 6.5, of=cylinder(35, 5.5)),
        rounds=(hole(35, 3.3), hole(35, 5.5, low=3.5)),
    )
    assert texts(notes) == ["Ø6.6 through ⌴Ø11 ↧6.5"]
    assert set(notes[0].checks) == {"d", "t", "c", "k"}


def test_a_depth_that_is_left_open_is_not_told_by_one_that_is_only_shown() -> None:
    decide = check("k", "depth", 6.5, of=cylinder(35, 5.5), value="assumed")
    shown = check("s", "depth", 6.5, of=cylinder(35, 5.5), value="shown")
    for order in ((decide, shown), (shown, decide)):
        (note,) = noted(check("d", "diameter", 11, of=cylinder(35, 5.5)), *order, rounds=(hole(35, 5.5),))
        assert note.text == "Ø11 ↧ yours"


def test_like_holes_are_counted_in_one_note_with_all_their_places() -> None:
    rounds = tuple(hole(x, 2.5) for x in (10, 20, 30))
    (note,) = noted(check("d", "diameter", 5, of=cylinder(10, 2.5)), check("n", "count", 3, of=cylinder(10, 2.5)),
                    rounds=rounds)  # fmt: skip
    assert isinstance(note, Pointed)
    assert note.text == "3 × Ø5"
    assert len(note.points) == 3


def test_a_hole_circle_and_a_countersink_stand_in_the_note_of_the_hole() -> None:
    (note,) = noted(
        check("d", "diameter", 5.5, of=cylinder(10, 2.75)),
        check("n", "pattern_count", 6, of=cylinder(10, 2.75)),
        check("p", "pitch_circle", 40, of=cylinder(10, 2.75)),
        check("s", "countersink_diameter", 11, of=cylinder(10, 2.75)),
        check("a", "countersink_angle", 90, of=cylinder(10, 2.75)),
        rounds=(hole(10, 2.75),),
    )
    assert note.text == "6 × Ø5.5 ⌵Ø11 × 90° on Ø40"


def test_a_thread_is_noted_with_its_depth_and_hand() -> None:
    given = {"id": "m", "title": "m", "kind": "thread", "marks": 1, "of": cylinder(10, 2.5), "thread": "M6"}
    notes = noted(CheckModel.model_validate({**given, "depth": 12, "hand": "left"}), rounds=(hole(10, 2.5),))
    assert texts(notes) == ["M6 LH ↧12"]


def test_a_boss_is_a_diameter_across_it_and_its_bore_a_note_of_its_own() -> None:
    boss = RoundModel(kind="boss", start=[35, 20, 0], end=[35, 20, 10], diameter=36)
    notes = noted(check("b", "diameter", 36, of=cylinder(35, 18)), check("d", "diameter", 20.4, of=cylinder(35, 10.2)),
                  rounds=(boss, hole(35, 10.2)))  # fmt: skip
    across, bore = sorted(notes, key=lambda note: not isinstance(note, Linear))
    assert isinstance(across, Linear)
    assert (across.text, across.across) == ("Ø36", (0.0, 0.0, 1.0))
    assert isinstance(bore, Pointed)
    assert bore.text == "Ø20.4"


def test_what_follows_from_other_sizes_stands_in_brackets() -> None:
    """12 + 28 = 40: one of them is auxiliary (ISO 129-1)."""
    notes = noted(
        check("all", "extent", 70, axis="x"),
        check("one", "length", 12, between=[plane(0), plane(12)]),
        check("two", "length", 58, between=[plane(12), plane(70)]),
    )
    assert sorted(texts(notes)) == ["(58)", "12", "70"]
    assert [note.auxiliary for note in notes if isinstance(note, Linear) and note.text == "(58)"] == [True]


def test_what_stands_in_line_is_dimensioned_once() -> None:
    far = {"cylinder": {"point": [10, 30, 0], "direction": [0, 0, 1], "radius": 3}}
    (note,) = noted(
        check("a", "position", 10, between=[plane(0), cylinder(10, 3)]),
        check("b", "position", 10, between=[plane(0), far]),
    )
    assert note.checks == ("a", "b")


def test_a_chamfer_is_one_note_with_its_angle() -> None:
    face = {"plane": {"point": [69, 0, 9], "normal": [0.5, 0, 0.8660254037844386]}}
    (note,) = noted(check("c", "chamfer", 2, of=face), check("a", "chamfer_angle", 30, of=face))
    assert note.text == "2 × 30°"
    assert set(note.checks) == {"c", "a"}


@pytest.mark.parametrize(
    ("more", "text"),
    [
        ({"tolerance": {"minus": 0.1, "plus": 0.1}}, "12 ±0.1"),
        ({"tolerance": {"minus": 0, "plus": 0.2}}, "12 +0.2/−0"),
        ({"tolerance": "H7"}, "12 H7"),
        ({"tolerance": "ISO 2768-f"}, "12"),
        ({"value": "free"}, "free"),
        ({"value": "assumed"}, "yours"),
        ({"value": "shown"}, "12*"),
    ],
)
def test_a_size_is_written_with_its_own_tolerance_and_what_the_legend_explains(more: dict[str, Any], text: str) -> None:
    (note,) = noted(check("l", "length", 12, between=[plane(0), plane(12)], **more))
    assert note.text == text


def test_what_no_view_can_show_is_listed_by_its_title() -> None:
    (note,) = noted(check("mass", "mass", 120.5))
    assert isinstance(note, Listed)
    assert note.text == "mass: 120.5"


def test_blanks_say_no_number_and_both_units_say_two() -> None:
    size = check("l", "length", 25.4, between=[plane(0), plane(25.4)])
    assert texts(noted(size, blanks=True)) == ["____"]
    assert texts(noted(size, both=True)) == ["25.4 [1]"]
