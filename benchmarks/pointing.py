"""Pointing at a part of two hundred faces, and an edit of its draft: where the time goes.

The kernel reads the part once, when the draft is examined; a pointing asks only our own code and
the page.
"""

import time
from collections.abc import Callable
from typing import Any

from build123d import Align, Box, Cylinder, Part, Pos

from rigid_bench.core.drawing.audit.part_audit import audit_part
from rigid_bench.core.exercise.authoring.offers import offers
from rigid_bench.core.exercise.authoring.pointable import pointables
from rigid_bench.core.exercise.authoring.propose_sizes import dimensions
from rigid_bench.core.exercise.bundle import CheckModel, PartModel
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.web.render import templates

_FOOT = (Align.CENTER, Align.CENTER, Align.MIN)


def perforated() -> Part:
    """A plate with 14 x 14 holes: 202 faces."""
    plate = Box(300, 300, 8, align=_FOOT)
    return plate - [Pos(-130 + 20 * i, -130 + 20 * j, -1) * Cylinder(4, 20) for i in range(14) for j in range(14)]


def timed(work: Callable[[], Any], times: int = 1) -> tuple[float, Any]:
    """Return seconds for one run, and what the last one gave."""
    started = time.perf_counter()
    for _ in range(times):
        result = work()
    return (time.perf_counter() - started) / times, result


def main() -> None:
    """Print the table."""
    solid, tolerance = perforated().solid().wrapped, Tolerance()
    kernel, part = timed(lambda: read_features(solid, tolerance=tolerance))
    naming, listed = timed(lambda: pointables(part, mm=1.0))
    ours, offered = timed(lambda: offers(listed[10], listed[60]), times=100)
    template = templates.env.get_template("_offers.html")
    shown = {"offers": offered, "part": "p", "a": "10", "b": "60", "instances": [], "csrf": "x", "draft": _Draft()}
    page, _ = timed(lambda: template.render(url_for=lambda name, **values: name, **shown), times=100)
    proposing, checks = timed(
        lambda: [CheckModel.model_validate(dimension) for dimension in dimensions("p", part, tolerance)]
    )
    auditing, _ = timed(lambda: audit_part(part, PartModel(id="p", name="P"), checks, mm=1.0))
    whole = ours + page
    print(f"{len(part.surfaces)} faces, {len(checks)} dimensions")
    print("a pointing:   ours   page   in all, ms   share of what the kernel takes to read the part once")
    print(f"{1e3 * ours:17.2f} {1e3 * page:6.2f} {1e3 * whole:12.2f} {whole / kernel:12.4f}")
    print("an edit:    read by the kernel, s   named   proposed   audited   ours beside the kernel")
    ratio = (naming + auditing) / kernel
    print(f"{kernel:33.2f} {naming:7.2f} {proposing:10.2f} {auditing:9.2f} {ratio:10.2f}")


class _Draft:
    """Stands for a draft where only its id is shown."""

    id = 1


if __name__ == "__main__":
    main()
