"""The ladder: what each mate took away, in the file's order."""

from dataclasses import replace

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.dof_steps import ladder
from rigid_bench.core.assembly.freedom.elimination import Elimination
from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.formats.build import read_build
from tests.support import latch
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE


def test_a_pin_in_a_bore_goes_from_six_to_one() -> None:
    """A shared axis takes four, the flush face the slide that is left: three flat contacts in all but the spin."""
    build = read_build(latch.build(latch.all_mates()), name="latch")
    report = freedom_report(build, tolerance=TOLERANCE)
    steps = {(step.mate, step.instance): (step.before, step.after) for step in report.ladder}
    assert steps[("pin 1 in bore", "pin-1")] == (6, 2)
    assert steps[("pin 1 flush", "pin-1")] == (2, 1)
    assert steps[("bolt slides", "bolt-1")] == (6, 1)
    assert all(instance != "body-1" for _, instance in steps)  # it is grounded: nothing is taken from it


def test_a_mate_may_take_freedom_from_both_and_the_last_rung_is_what_is_left() -> None:
    for joints in (m.four_bar(), m.slider_crank(), m.oldham()):
        free = freedom(m.mechanism(*joints, seed=4), tolerance=TOLERANCE)
        last = {step.instance: step.after for step in ladder(free)}
        first = {step.instance: step.before for step in reversed(ladder(free))}
        assert set(first.values()) == {6}
        assert all(free.relative_twists(index).shape[1] <= degrees for index, degrees in last.items())


def test_a_redundant_mate_takes_nothing() -> None:
    build = read_build(latch.build(latch.all_mates()), name="latch")
    twice = replace(build, mates=(*build.mates, replace(build.mates[0], id="again")))
    assert [
        step.before - step.after for step in ladder(freedom(twice, tolerance=TOLERANCE)) if step.mate == "again"
    ] == [0]


def test_degrees_that_were_asked_before_are_those_of_mates_put_in_anew() -> None:
    """What is remembered between mates is forgotten where a mate changes it."""
    for joints in (m.four_bar(), m.slider_crank(), m.oldham()):
        free = freedom(m.mechanism(*joints, seed=4), tolerance=TOLERANCE)
        system = free.system
        rows = list(zip(system.mates, system.rows(system.mates, free.poses).by_mate(), strict=True))
        asked = Elimination(len(free.poses), system.held, rank=system.tolerance.rank)
        for count, (mate, (rows_a, rows_b)) in enumerate(rows, 1):
            asked.add(mate.a, mate.b, rows_a, rows_b)
            anew = Elimination(len(free.poses), system.held, rank=system.tolerance.rank)
            for other, (other_a, other_b) in rows[:count]:
                anew.add(other.a, other.b, other_a, other_b)
            indices = range(len(free.poses))
            assert [asked.degrees(index) for index in indices] == [anew.degrees(index) for index in indices]
