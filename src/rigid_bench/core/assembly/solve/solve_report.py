"""The solve report, and the build file with its new poses."""

import json

from rigid_bench.core.assembly.freedom.freedom_report import JointReport, joint_reports
from rigid_bench.core.assembly.solve.solution import Solution
from rigid_bench.core.formats.build import Build
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.values.units import MM_PER_UNIT


class SolveReport(Document):
    """Whether all mates hold, as in `docs/schemas/solve-report.json`."""

    satisfied: bool
    #: Ids of the instances that moved.
    moved: list[str]
    #: A minimal set of mates that cannot hold together: drop any one of it and the rest hold.
    conflict_set: list[str]
    #: All such sets, no mate in two of them: faults that have nothing to do with each other.
    conflict_sets: list[list[str]] = []
    #: Joints that have limits, where they stand in the solution.
    limits: list[JointReport] = []


def solve_report(solution: Solution) -> SolveReport:
    """Write a solution in the published format."""
    return SolveReport(
        satisfied=solution.satisfied,
        moved=list(solution.moved),
        conflict_set=list(solution.conflict_set),
        conflict_sets=[list(mates) for mates in solution.conflict_sets],
        limits=joint_reports(solution.standings),
    )


def placed_build(data: bytes, build: Build, solution: Solution) -> bytes:
    """Return a build file with its instances where a solution puts them; all else as it was.

    Parameters
    ----------
    data
        The build file that was read.
    build
        What was read from it.
    solution
        Its poses.
    """
    document = json.loads(data)
    mm = MM_PER_UNIT[document.get("units", "mm")]
    moved = set(solution.moved)
    for own, instance, pose in zip(document["instances"], build.instances, solution.poses, strict=True):
        if instance.id in moved:
            own["pose"] = {
                "position": [round(float(value) / mm, 12) + 0.0 for value in pose.position],
                "quaternion": [round(float(value), 15) + 0.0 for value in pose.quaternion()],
            }
    return (json.dumps(document, indent=1, ensure_ascii=False) + "\n").encode()
