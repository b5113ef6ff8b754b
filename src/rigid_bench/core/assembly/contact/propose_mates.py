"""The fewest mates that the places of the parts show, and that give the freedom that is asked."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from rigid_bench.core.assembly.contact.contacts import Contact, holding
from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.formats.build import Build, Instance, Mate
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.tolerance import Tolerance

#: A contact that changes by more along a motion that is asked would stop it; places are not exact to the last digit.
_STOPS = 1e-3
#: mm, and of unit vectors: two features are on one plane or axis.
_SAME = 1e-2
#: So many are chosen at most: more are sooner made on a bench.
MOST = 40
#: Later ones make so many needless, hardly more.
_NEEDLESS = 10
#: Equations that a mate of a kind of contact takes at most: those that say most come first.
_EQUATIONS = {"seated": 4, "in line": 4, "meet": 3, "level": 3}


@dataclass(frozen=True, slots=True, kw_only=True)
class ProposedMates:
    """Mates for a build that has none."""

    #: Each with the contact that shows it.
    mates: tuple[tuple[Mate, Contact], ...]
    #: What the build can do with all of them.
    left: Freedom
    #: Motions that are left and not asked for; 0 where nothing is asked.
    too_many: int


def propose_mates(
    instances: Sequence[Instance],
    contacts: Sequence[Contact],
    asked: Sequence[Mate] | None,
    *,
    tolerance: Tolerance,
    most: int = MOST,
) -> ProposedMates | None:
    """Choose among the contacts of a build as few mates as give the freedom asked, or shown.

    Parameters
    ----------
    instances
        Where they stand, and which is grounded.
    contacts
        From `find_contacts`, of these instances.
    asked
        Mates that leave the freedom asked, on features of these instances. What they leave free no proposal stops, so
        that faces that only happen to touch hold nothing; instances that none of them joins, or that stand elsewhere
        than most of theirs say, are held by what their contacts show. None where nothing is asked: the freedom is the
        one that all contacts together leave.
    tolerance
        For ranks and residuals.
    most
        So many mates are chosen at most.

    Returns
    -------
    ProposedMates or None
        None where more would be needed. No mate of it can go without more becoming free. Found by taking the contacts
        that are asked for first, then those that say most, each that takes a motion away; then by leaving out what the
        later ones made needless.

    Raises
    ------
    NotSupported, InvalidDocument
        A mate that is asked cannot be meant.
    """
    bare = Build(parts=(), instances=tuple(instances), mates=())
    wanted = freedom(replace(bare, mates=tuple(asked)), tolerance=tolerance) if asked is not None else None
    chosen: list[tuple[Mate, Contact]] = []
    left = freedom(bare, tolerance=tolerance)
    for contact in _candidates(instances, contacts, wanted):
        mate = contact.mate(f"mate-{len(chosen) + 1}")
        if len(chosen) > most + _NEEDLESS:
            return None
        if left.takes_any(mate):
            chosen.append((mate, contact))
            left = freedom(replace(bare, mates=tuple(mate for mate, _ in chosen)), tolerance=tolerance)
    chosen = _without_needless(bare, chosen, left.mobility, tolerance)
    if len(chosen) > most:
        return None
    numbered = tuple((replace(mate, id=f"mate-{k}"), contact) for k, (mate, contact) in enumerate(chosen, 1))
    left = freedom(replace(bare, mates=tuple(mate for mate, _ in numbered)), tolerance=tolerance)
    return ProposedMates(
        mates=numbered, left=left, too_many=max(0, left.mobility - wanted.mobility) if wanted is not None else 0
    )


def _candidates(instances: Sequence[Instance], contacts: Sequence[Contact], wanted: Freedom | None) -> list[Contact]:
    """Return contacts that may become mates, those that are asked for first."""
    shown = holding(instances, contacts)
    if wanted is None:
        return sorted(shown, key=_rank)
    asked = wanted.system.mates
    joined = _in_place(wanted)
    allowed = [
        contact
        for contact in contacts
        if (
            not wanted.takes_any(contact.mate("contact"), more_than=_STOPS)
            if {contact.a, contact.b} <= joined
            else contact in shown
        )
    ]

    def place(contact: Contact) -> int:
        return next((k for k, mate in enumerate(asked) if _is_of(contact, mate)), len(asked))

    return sorted(allowed, key=lambda contact: (place(contact), *_rank(contact)))


def _in_place(wanted: Freedom) -> set[int]:
    """Return the instances that stand where most of the mates that are asked of them hold."""
    off = {conflict.mate for conflict in wanted.conflicts}
    holds: dict[int, list[bool]] = {}
    for mate in wanted.system.mates:
        for index in (mate.a, mate.b):
            holds.setdefault(index, []).append(mate.id not in off)
    return {index for index, all_own in holds.items() if 2 * sum(all_own) > len(all_own)}


def _rank(contact: Contact) -> tuple[int, int, float]:
    """Order contacts: what touches or sits in a hole, then what is level or in line, then what keeps a gap."""
    is_held = contact.kind == "seated" or (contact.kind == "meet" and contact.touches)
    order = 0 if is_held else 1 if contact.touches else 2
    return order, -_EQUATIONS[contact.kind], abs(contact.gap_mm)


def _is_of(contact: Contact, mate: Mate) -> bool:
    """Say whether a contact is between the two planes or axes that a mate joins."""
    if {contact.a, contact.b} != {mate.a, mate.b}:
        return False
    ones, others = (contact.feature_a, contact.feature_b), (mate.feature_a, mate.feature_b)
    if contact.a != mate.a:
        others = others[::-1]
    return all(_is_same(one, other) for one, other in zip(ones, others, strict=True))


def _is_same(one: Feature, other: Feature) -> bool:
    if isinstance(one, PlaneFeature) and isinstance(other, PlaneFeature):
        apart = other.point - one.point
        return float(one.normal @ other.normal) > 1 - _SAME**2 and abs(float(apart @ one.normal)) < _SAME
    if isinstance(one, CylinderFeature) and isinstance(other, AxisFeature):
        apart = other.point - one.point
        beside = apart - float(apart @ one.direction) * one.direction
        is_parallel = abs(float(one.direction @ other.direction)) > 1 - _SAME**2
        return is_parallel and float(np.linalg.norm(beside)) < _SAME
    return False


def _without_needless(
    bare: Build, chosen: Sequence[tuple[Mate, Contact]], mobility: int, tolerance: Tolerance
) -> list[tuple[Mate, Contact]]:
    """Leave out each mate without which nothing more can move, the last ones first."""
    kept = list(chosen)
    for candidate in reversed(chosen):
        rest = [pair for pair in kept if pair is not candidate]
        build = replace(bare, mates=tuple(mate for mate, _ in rest))
        if freedom(build, tolerance=tolerance).mobility == mobility:
            kept = rest
    return kept
