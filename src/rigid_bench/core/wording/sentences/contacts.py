"""What two parts show of their relation, as the mate that it could be made by."""

from rigid_bench.core.wording.language import N_

CONTACTS: dict[str, str] = {
    "stands-still": N_("stands still, and the rest goes onto it: {part}"),
    "seated": N_("share an axis: {pin} in {hole}, Ø{shaft} in Ø{bore}, {gap} mm all round"),
    "seated-tight": N_("share an axis: {pin} in {hole}, Ø{shaft} in Ø{bore}, no room"),
    "seated-overlapping": N_("share an axis: {pin} in {hole}, Ø{shaft} in Ø{bore}, overlapping by {gap} mm all round"),
    "in-line": N_("share an axis: {a} and {b}"),
    "level": N_("faces level: {a} and {b}"),
    "meet": N_("faces meet: {a} and {b}"),
    "keep-gap": N_("keep a gap of {gap} mm: {a} and {b}"),
}
