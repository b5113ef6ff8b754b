"""The fewest mates that the places of the parts show, and that give the freedom that is asked."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.contacts import Contact, holding
from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.formats.build import Build, Instance, Mate
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.tolerance import Tolerance

_Array = NDArray[np.float64]
#: A mate that changes by more along a motion stops it: places are only as exact as faces have to be parallel.
_STOPS = 2e-3
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
    #: For each of them one between the same two parts that could stand in for it, or None.
    stand_ins: tuple[tuple[Mate, Contact] | None, ...]
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
    contacts = _candidates(instances, contacts, wanted)
    mates = tuple(contact.mate(f"mate-{k}") for k, contact in enumerate(contacts))
    rows = _Rows(System(replace(bare, mates=mates), tolerance))
    chosen: list[int] = []
    motions = rows.all_motions
    for k in range(len(mates)):
        if len(chosen) > most + _NEEDLESS:
            return None
        fewer = rows.narrowed(motions, k)
        if fewer.shape[1] < motions.shape[1]:
            chosen.append(k)
            motions = fewer
    chosen = _without_needless(rows, chosen)
    if len(chosen) > most:
        return None
    numbered = tuple((replace(mates[k], id=f"mate-{number}"), contacts[k]) for number, k in enumerate(chosen, 1))
    instead = _stand_ins(rows, mates, contacts, chosen)
    stand_ins = [
        None if k is None else (replace(mates[k], id=f"mate-{number}-instead"), contacts[k])
        for number, k in enumerate(instead, 1)
    ]
    left = freedom(replace(bare, mates=tuple(mate for mate, _ in numbered)), tolerance=tolerance)
    return ProposedMates(
        mates=numbered,
        stand_ins=tuple(stand_ins),
        left=left,
        too_many=max(0, left.mobility - wanted.mobility) if wanted is not None else 0,
    )


class _Rows:
    """The rows of mates on the motions of all instances: motions are narrowed mate by mate, without solving anew."""

    def __init__(self, system: System) -> None:
        self._system = system
        columns = np.arange(6 * len(system.build.instances))
        self._moving = columns[~np.isin(columns // 6, system.held)]

    @property
    def all_motions(self) -> _Array:
        """(m, m): every motion of what is not grounded."""
        return np.eye(len(self._moving))

    @property
    def nothing(self) -> _Array:
        """(1, m): a row that holds nothing."""
        return np.zeros((1, len(self._moving)))

    def of(self, number: int) -> _Array:
        """Return a mate's rows, (k, m)."""
        mate = self._system.mates[number]
        ones, others, _ = self._system.mate_rows(mate, self._system.poses)
        rows = np.zeros((len(ones), 6 * len(self._system.build.instances)))
        rows[:, 6 * mate.a : 6 * mate.a + 6] += ones
        rows[:, 6 * mate.b : 6 * mate.b + 6] += others
        moving: _Array = rows[:, self._moving]
        return moving

    def narrowed(self, motions: _Array, number: int) -> _Array:
        """Return what a mate leaves of some motions, (m, k), as an orthonormal basis."""
        changes = self.of(number) @ motions
        if np.abs(changes).max(initial=0.0) <= _STOPS:
            return motions
        _, sizes, right = np.linalg.svd(changes, full_matrices=False)
        rank = int(np.sum(sizes > _STOPS))
        turned = np.linalg.qr(right[:rank].T, mode="complete")[0]
        narrowed: _Array = motions @ turned[:, rank:]
        return narrowed


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


def _stand_ins(
    rows: _Rows, mates: Sequence[Mate], contacts: Sequence[Contact], chosen: Sequence[int]
) -> list[int | None]:
    """Return for each mate that was chosen one of other faces of the same parts that takes as many motions."""
    stand_ins = list[int | None]()
    for number in chosen:
        rest = rows.all_motions
        for other in chosen:
            rest = rest if other == number else rows.narrowed(rest, other)
        taken = rest.shape[1] - rows.narrowed(rest, number).shape[1]
        parts = {mates[number].a, mates[number].b}
        alike = (
            k
            for k, mate in enumerate(mates)
            if k not in chosen and {mate.a, mate.b} == parts and not _is_of(contacts[k], mates[number])
        )
        stand_ins.append(next((k for k in alike if rest.shape[1] - rows.narrowed(rest, k).shape[1] == taken), None))
    return stand_ins


def _without_needless(rows: _Rows, chosen: Sequence[int]) -> list[int]:
    """Leave out each mate without which nothing more can move, the last ones first."""
    kept = {number: rows.of(number) for number in chosen}

    def rank(own: Iterable[_Array]) -> int:
        # a row of nothing, so that no mates at all have a rank, too
        return int(np.linalg.matrix_rank(np.vstack([rows.nothing, *own]), tol=_STOPS))

    whole = rank(kept.values())
    for candidate in reversed(chosen):
        rest = {number: own for number, own in kept.items() if number != candidate}
        if rank(rest.values()) == whole:
            kept = rest
    return list(kept)
