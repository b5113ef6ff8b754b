"""Contacts in the words of the mates that they could be made by."""

from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.values.datums import CylinderFeature


def contact_words(contact: Contact, a: str, b: str) -> str:
    """Say what two instances show of their relation.

    Parameters
    ----------
    contact
        From `find_contacts`.
    a, b
        What its two instances are called.

    Examples
    --------
    "share an axis: Knob in Drawer, Ø6 in Ø6.2, 0.1 mm all round"
    """
    one, two = contact.feature_a, contact.feature_b
    if contact.kind == "seated" and isinstance(one, CylinderFeature) and isinstance(two, CylinderFeature):
        # the hole is the wider one, or was found as such; an overlap is told by its sign
        is_a_hole = (one.radius >= two.radius) == (contact.gap_mm >= 0)
        (hole, bore), (pin, shaft) = ((a, one), (b, two)) if is_a_hole else ((b, two), (a, one))
        room = f"{contact.gap_mm:.3g} mm all round" if contact.gap_mm > 1e-3 else "no room"
        room = f"overlapping by {-contact.gap_mm:.3g} mm all round" if contact.gap_mm < -1e-3 else room
        return f"share an axis: {pin} in {hole}, Ø{2 * shaft.radius:g} in Ø{2 * bore.radius:g}, {room}"
    if contact.kind == "level":
        return f"faces level: {a} and {b}"
    if contact.kind == "meet":
        return f"faces meet: {a} and {b}" if contact.touches else f"keep a gap of {contact.gap_mm:.3g} mm: {a} and {b}"
    return f"share an axis: {a} and {b}"
