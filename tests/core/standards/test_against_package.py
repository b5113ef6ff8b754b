"""Every table's rows beside those of an independent package, where it has them: bd_warehouse, read as data."""

import csv
import importlib.util
from functools import cache
from pathlib import Path

import pytest

from rigid_bench.core.standards import fasteners
from rigid_bench.core.standards.bearings import BEARINGS
from rigid_bench.core.standards.threads import clearance_hole, threads


@cache
def rows(name: str) -> dict[str, dict[str, str]]:
    spec = importlib.util.find_spec("bd_warehouse")
    assert spec
    assert spec.origin
    with (Path(spec.origin).parent / "data" / f"{name}.csv").open(encoding="utf-8-sig") as file:
        table = [{key.strip(): value for key, value in row.items()} for row in csv.DictReader(file)]
    return {row["Size"]: row for row in table}


def metric(name: str, nominal: float) -> dict[str, str]:
    """The row of a coarse thread; without its pitch for tables that have none."""
    pitch = next((thread.pitch for thread in threads() if thread.is_coarse and thread.nominal == nominal), 0)
    listed = rows(name)
    return listed.get(f"M{nominal:g}-{pitch:g}") or listed.get(f"M{nominal:g}") or {}


@pytest.mark.parametrize(
    ("table", "file", "columns"),
    [
        (fasteners.SOCKET, "socket_head_cap_parameters", ("iso4762:dk", "iso4762:k", "iso4762:s")),
        (fasteners.BUTTON, "button_head_parameters", ("iso7380_1:dk", "iso7380_1:k", "iso7380_1:s")),
        (fasteners.COUNTERSUNK, "countersunk_head_parameters", ("iso10642:dk", "iso10642:k", "iso10642:s")),
        (fasteners.HEXAGON, "hex_head_parameters", ("iso4014:s", "iso4014:k", "iso4014:s")),
    ],
    ids=["4762", "7380", "10642", "4014"],
)
def test_screws(table: dict[float, fasteners.Screw], file: str, columns: tuple[str, str, str]) -> None:
    """The package lists greatest sizes (knurled heads, keys with play); ours are the nominal ones."""
    compared = 0
    for screw in table.values():
        row = metric(file, screw.nominal)
        if row and row[columns[0]]:
            theirs = [float(row[column]) for column in columns]
            # a countersunk head's theoretical sizes are larger than what is left of it
            rel = 0.2 if "10642" in columns[0] else 0.035
            ours = [screw.head, screw.height, screw.key]
            assert ours == [pytest.approx(their, rel=rel, abs=0.35) for their in theirs]
            compared += 1
    assert compared >= 6


def test_nuts_and_washers() -> None:
    compared = 0
    for nut in fasteners.NUTS.values():
        row = metric("hex_nut_parameters", nut.nominal)
        if row and row["iso4032:m"]:
            assert (nut.across_flats, nut.height) == (float(row["iso4032:s"]), pytest.approx(float(row["iso4032:m"])))
            compared += 1
    for washer in fasteners.WASHERS.values():
        row = metric("plain_washer_parameters", washer.nominal)
        if row and row["iso7089:d1"]:
            theirs = [float(row[f"iso7089:{key}"]) for key in ("d1", "d2", "h")]
            ours = [washer.inside, washer.outside, washer.thickness]
            assert ours == [pytest.approx(their, abs=0.31) for their in theirs]  # theirs are the greatest sizes
            compared += 1
    assert compared >= 18


def test_bearings() -> None:
    theirs = rows("single_row_deep_groove_ball_bearing_parameters")
    bearings = {b.designation: f"M{b.bore:g}-{b.outside:g}-{b.width:g}" for b in BEARINGS.values()}
    compared = {name: theirs[key]["SKT:Designation"].strip("* ") for name, key in bearings.items() if key in theirs}
    assert len(compared) >= 10
    assert {name: other for name, other in compared.items() if not other.startswith(name)} == {}


def test_clearance_holes_and_drills() -> None:
    for thread in threads():
        holes, clearance = metric("clearance_hole_sizes", thread.nominal), clearance_hole(thread.nominal)
        if thread.is_coarse and holes:
            theirs = [float(holes[key]) for key in ("Close", "Normal", "Loose")]
            assert clearance == tuple(pytest.approx(their, abs=0.51) for their in theirs)  # theirs for M12: 14 and 15
        drills = rows("tap_hole_sizes").get(f"M{thread.nominal:g}-{thread.pitch:g}")
        # theirs: for soft stock the drill of the standard, for hard stock one a little larger; their row
        # for M22 is that of a pitch of 3.5
        if drills and thread.nominal != 22:
            assert thread.tapping_drill == pytest.approx(float(drills["Soft"]), abs=0.06 * thread.pitch + 0.051)
