"""The one motion that the mates between two instances leave them: a joint."""

from collections.abc import Sequence

import numpy as np

from rigid_bench.core.assembly.freedom.motions import Motion, name_motions
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.values.frames import Pose


def joint_of(system: System, poses: Sequence[Pose], a: int, b: int) -> Motion | None:
    """Return how one instance turns or slides on another by their mates alone, in the world.

    Parameters
    ----------
    system
        The mates of the whole build.
    poses
        Where its instances stand.
    a, b
        Places of the two.

    Returns
    -------
    Motion or None
        Of b as a sees it, to first order; None where the mates between them leave more than one motion, or a screw.
    """
    rows = [
        system.mate_rows(mate, poses)[1 if mate.b == b else 0] for mate in system.mates if {mate.a, mate.b} == {a, b}
    ]
    if not rows:
        return None
    _, sizes, right = np.linalg.svd(np.vstack(rows))
    if int(np.sum(sizes > system.tolerance.rank)) != 5:
        return None
    length = float(system.lengths[b])
    twist = right[-1:].T / np.array([length] * 3 + [1.0] * 3)[:, None]
    (motion,) = name_motions(twist, length=length)
    return None if motion.kind == "screw" else motion.moved(Pose(np.eye(3), poses[b].point(system.middles[b])))
