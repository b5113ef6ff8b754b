"""How many degrees of freedom? Mechanisms of the textbooks: the count of their joints tells it, or does not."""

import random
from typing import Any

from rigid_bench.core.practice.drill import Drill, Near
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.mechanisms.textbook import EXAMPLES
from rigid_bench.core.practice.solved import freedom_of, mate_texts
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot: the mechanism is fixed, its proportions are not."""
    example = chance.choice(EXAMPLES[level])
    mechanism = example.make(chance)
    freedom = freedom_of(mechanism.build)
    if freedom.mobility != example.mobility:
        raise Unfit  # it happens to stand in a special place
    per = 3 if example.is_planar else 6
    listed = {"links": example.links, "joints": len(example.joints), "freedoms": sum(example.joints)}
    counted = f"{'−' if example.counted < 0 else ''}{abs(example.counted)}"
    shown = f"{per} × ({example.links} − 1 − {len(example.joints)}) + {sum(example.joints)} = {counted}"
    given: dict[str, Any] = {"build": mechanism.build}
    near = [
        Near(value=example.mobility + per, text=_("The fixed part was counted as if it moved.")),
        Near(value=per * (example.links - 1), text=_("That is without any joint.")),
    ]
    if example.why:
        why = _(
            "The count gives {shown}, and yet {why}: it has {mobility}.",
            shown=shown,
            why=example.why,
            mobility=example.mobility,
        )
        near.insert(0, Near(value=example.counted, text=_("The count says so, but these joints are not just any.")))
    else:
        why = _("Links, joints and their freedoms: {shown}.", shown=shown)
        given |= {"expression": f"{per} * (links - 1 - joints) + freedoms", "values": listed}
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_("How many degrees of freedom has this mechanism in all, against its fixed part?"),
        given=given,
        form="number",
        answer=[float(example.mobility)],
        tolerance=0.0,
        near=near,
        explanation=_(
            "{mechanism}. {why} (After {source}.)",
            mechanism=example.name.capitalize(),
            why=why,
            source=example.source,
        ),
        shapes=mechanism.shapes,
        mates=mate_texts(mechanism),
    )


KIND = DrillKind(
    name="count-the-freedom",
    title=N_("How many degrees of freedom?"),
    levels=tuple(EXAMPLES),
    make=make,
    slips=("motion-too-many", "motion-too-few", "mate-too-many", "over-held"),
)
