"""Contacts in the words of the mates that they could be made by."""

from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.formats.message import Message, notice
from rigid_bench.core.values.datums import CylinderFeature

_SENTENCES = {
    "stands-still": "stands still, and the rest goes onto it: {part}",
    "seated": "share an axis: {pin} in {hole}, Ø{shaft:g} in Ø{bore:g}, {gap:.3g} mm all round",
    "seated-tight": "share an axis: {pin} in {hole}, Ø{shaft:g} in Ø{bore:g}, no room",
    "seated-overlapping": "share an axis: {pin} in {hole}, Ø{shaft:g} in Ø{bore:g}, overlapping by {gap:.3g} mm "
    "all round",
    "in-line": "share an axis: {a} and {b}",
    "level": "faces level: {a} and {b}",
    "meet": "faces meet: {a} and {b}",
    "keep-gap": "keep a gap of {gap:.3g} mm: {a} and {b}",
}
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
        sizes = {"shaft": 2 * shaft.radius, "bore": 2 * bore.radius, "gap": abs(gap)}
        return notice(code, pin=pin, hole=hole, **sizes)
    if contact.kind == "meet" and not contact.touches:
        return notice("keep-gap", a=a, b=b, gap=gap)
    return notice("in-line" if contact.kind in ("in line", "seated") else contact.kind, a=a, b=b)


def relation_words(said: Message) -> str:
    """Say what two parts show of their relation.

    Examples
    --------
    >>> relation_words(Message(code="meet", params={"a": "Lid", "b": "Box"}))
    'faces meet: Lid and Box'
    """
    return _SENTENCES[said.code].format(**said.params)


def contact_words(contact: Contact, a: str, b: str) -> str:
    """Say at once what two instances show; parameters as for `contact_message`."""
    return relation_words(contact_message(contact, a, b))
