"""Running clearances for the draft of an exercise: one for each two parts that slide or turn on each other."""

import math
from collections.abc import Iterator, Mapping, Sequence, Set
from typing import Any

from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.assembly.freedom.analysis import Freedom
from rigid_bench.core.formats.build import Instance
from rigid_bench.core.formats.documents import feature_document
from rigid_bench.core.values.names import unique
from rigid_bench.core.wording.language import _

#: mm: what is nearer touches and has no clearance.
_TOUCHING = 1e-3
#: A gap may be so much less and more than the model's (common practice, no source), in hundredths of a mm at least.
_LESS, _MORE, _STEP_MM = 0.75, 1.25, 0.01


def running_clearances(
    freedom: Freedom,
    contacts: Sequence[Contact],
    instances: Sequence[Instance],
    names: Mapping[str, str],
    *,
    bought: Set[str],
    taken: set[str],
) -> Iterator[dict[str, Any]]:
    """Yield a `gap` check for each two parts of which one moves in or along the other.

    Parameters
    ----------
    found
        What the build leaves free.
    contacts
        Between its instances; of each two the closest round fit is asked, else the closest flat one.
    instances, names
        Of the build, and what each part is called.
    bought
        Parts that nobody makes: how they fit is not the student's to say.
    taken
        Ids that are used already; those of the checks are added.
    """
    asked: set[tuple[str, str]] = set()
    guides = sorted(filter(_guides, contacts), key=lambda contact: (contact.kind != "seated", contact.gap_mm))
    for contact in guides:
        a, b = instances[contact.a], instances[contact.b]
        pair = (a.part, b.part)
        if pair in asked or bought & {a.part, b.part} or not freedom.relative_twists(contact.b, contact.a).size:
            continue
        asked.add(pair)
        hundredths = contact.gap_mm / _STEP_MM
        yield {
            "id": unique(f"{b.id}.clearance", taken),
            "title": _("Running clearance of {names} and {names_2}", names=names[b.part], names_2=names[a.part]),
            "kind": "gap",
            "marks": 2,
            "a": a.id,
            "b": b.id,
            "between": [feature_document(contact.feature_a), feature_document(contact.feature_b)],
            "min": round(_STEP_MM * math.floor(_LESS * hundredths + 1e-6), 6),
            "max": round(_STEP_MM * math.ceil(_MORE * hundredths - 1e-6), 6),
        }


def _guides(contact: Contact) -> bool:
    return contact.kind in ("seated", "meet") and contact.gap_mm > _TOUCHING
