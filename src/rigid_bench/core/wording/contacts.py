"""Contacts in the words of the mates that they could be made by."""

from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.values.datums import CylinderFeature
from rigid_bench.core.wording.saying import say

#: mm: less is no room, and no gap.
_NO_ROOM = 1e-3


def contact_message(contact: Contact, a: str, b: str) -> Message:
    """Return what two instances show of their relation, not yet in words.

    Parameters
    ----------
    contact
        From `find_contacts`.
    a, b
        What its two instances are called.
    """
    one, two, gap = contact.feature_a, contact.feature_b, contact.gap_mm
    if contact.kind == "seated" and isinstance(one, CylinderFeature) and isinstance(two, CylinderFeature):
        # the hole is the wider one, or was found as such; an overlap is told by its sign
        is_a_hole = (one.radius >= two.radius) == (gap >= 0)
        (hole, bore), (pin, shaft) = ((a, one), (b, two)) if is_a_hole else ((b, two), (a, one))
        code = "seated" if gap > _NO_ROOM else "seated-overlapping" if gap < -_NO_ROOM else "seated-tight"
        sizes = {"shaft": 2 * shaft.radius, "bore": 2 * bore.radius, "gap": _in_short(abs(gap))}
        return phrase(code, pin=pin, hole=hole, **sizes)
    if contact.kind == "meet" and not contact.touches:
        return phrase("keep-gap", a=a, b=b, gap=_in_short(gap))
    kind = "in-line" if contact.kind in ("in line", "seated") else contact.kind
    return phrase(kind, a=a, b=b)


def _in_short(gap_mm: float) -> float:
    """Return a gap with three digits that count."""
    return float(f"{gap_mm:.3g}")


def contact_words(contact: Contact, a: str, b: str) -> str:
    """Say at once what two instances show; parameters as for `contact_message`."""
    return say(contact_message(contact, a, b))
