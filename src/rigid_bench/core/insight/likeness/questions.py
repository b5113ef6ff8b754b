"""Which two builds may have one origin, with what speaks for it and against it.

What many share says nothing: a part that was supplied, a plain part that has few ways, a value at which a part comes to
rest. What only a few share counts by how unlikely it is that two came to it by themselves. The weights and the bound
are our own; `benchmarks/likeness.py` measures what they find, and how often they ask without reason.
"""

import math
from collections import defaultdict
from collections.abc import Collection, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from typing import Literal

from rigid_bench.core.insight.likeness.step_print import StepPrint

Code = Literal[
    "same-file", "same-body", "same-stamp", "same-author", "same-order", "left-at", "wrong-alike", "same-mates",
    "same-history", "same-ways", "plain-part", "shared-by-others",
]  # fmt: skip
#: What speaks for one origin, from nearly sure to slight; a question is asked from `_ASKED` on.
_WEIGHTS: Mapping[Code, int] = {
    "same-file": 4, "same-stamp": 3, "left-at": 3, "same-history": 3, "same-ways": 3, "same-body": 2, "wrong-alike": 2,
    "same-order": 1, "same-author": 1, "same-mates": 1,
}  # fmt: skip
_ASKED = 3
#: What the same file has alike anyway.
_IN_A_FILE: Collection[Code] = {"same-body", "same-order", "same-stamp", "same-author", "left-at"}
#: Parts of fewer edges than this are plain. Fewer edges, mates or steps have too few ways to be done to say anything.
_PLAIN, _FEW_EDGES, _FEW_MATES, _FEW_STEPS = 60, 24, 5, 8
#: Of traits that can hardly be had by chance, and of others: shared by more students than this, or than this share of
#: them, they say nothing.
_HARD, _SOFT = (4, 0.2), (2, 0.02)
#: Parts that were begun and made alike: asked where, by how usual each of them is in the class, so many pairs of the
#: whole class or fewer would have all of them alike by chance.
_BY_CHANCE = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """One student's newest build for an exercise, as far as its origin shows."""

    student_id: int
    build_id: int
    prints: tuple[StepPrint, ...]
    #: Wrong values that no slip explains, by check.
    wrong: Mapping[str, float] = field(default_factory=dict)
    #: The mates in their order, as kinds and features, without names.
    mates: tuple[Hashable, ...] = ()
    #: The steps on the bench, as they were taken.
    history: tuple[Hashable, ...] = ()
    #: Who may have the same: they work as a group.
    partners: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class Sign:
    """What speaks for one origin, or against it: a code with what it is about."""

    code: Code
    #: The value, time, author or check; "" without one.
    about: str = ""
    count: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """Two builds of which a teacher may want to ask."""

    works: tuple[Work, Work]
    speaks_for: tuple[Sign, ...]
    speaks_against: tuple[Sign, ...]
    weight: int


def questions(works: Sequence[Work], *, supplied: Collection[str] = ()) -> list[Question]:
    """Return the pairs to ask about, the heaviest first.

    Parameters
    ----------
    works
        One for each student.
    supplied
        Digests of files that students were given.

    Returns
    -------
    list of Question
        Never of a student's own builds, nor of two who work as a group.
    """
    index = _Index(works, frozenset(supplied))
    asked = []
    for a, b in sorted(index.pairs()):
        first, second = index.works[a], index.works[b]
        if b in first.partners or a in second.partners:
            continue
        signs = tuple(index.signs(first, second))
        weight = sum(_WEIGHTS[sign.code] for sign in signs)
        if weight >= _ASKED:
            asked.append(
                Question(
                    works=(first, second),
                    speaks_for=tuple(sorted(signs, key=lambda sign: -_WEIGHTS[sign.code])),
                    speaks_against=tuple(index.signs_against(first, second)),
                    weight=weight,
                )
            )
    return sorted(asked, key=lambda question: -question.weight)


#: A trait: what it is a sign of, and its value.
_Trait = tuple[Code, Hashable]


class _Index:
    """Who has which trait, so that only those who share a rare one are compared."""

    def __init__(self, works: Sequence[Work], supplied: frozenset[str]) -> None:
        self.works = {work.student_id: work for work in works}
        self._supplied = supplied
        self._solid_owners: dict[str, set[int]] = defaultdict(set)
        for work in works:
            for solid in self._own_solids(work):
                self._solid_owners[solid].add(work.student_id)
        self._owners: dict[_Trait, set[int]] = defaultdict(set)
        self._traits = {work.student_id: dict(self._traits_of(work)) for work in works}
        for student, traits in self._traits.items():
            for trait in traits:
                self._owners[trait].add(student)

    def _traits_of(self, work: Work) -> Iterator[tuple[_Trait, Sign]]:
        """List what shows where a build comes from, each with the sign that it would be."""
        for own in work.prints:
            if own.digest in self._supplied:
                continue
            yield ("same-file", own.digest), Sign(code="same-file", count=own.edges)
            if own.edges >= _FEW_EDGES:
                yield ("same-body", own.body), Sign(code="same-body", count=own.edges)
                yield ("same-order", own.order), Sign(code="same-order", count=own.edges)
            if own.stamp:
                yield ("same-stamp", (own.stamp, own.system)), Sign(code="same-stamp", about=own.stamp)
            if own.author:
                yield ("same-author", own.author), Sign(code="same-author", about=own.author)
            for length in own.left_at:
                yield ("left-at", length), Sign(code="left-at", about=f"{length:.6g}")
        for check, value in work.wrong.items():
            yield ("wrong-alike", (check, round(value, 3))), Sign(code="wrong-alike", about=check)
        if len(work.mates) >= _FEW_MATES:
            yield ("same-mates", work.mates), Sign(code="same-mates", count=len(work.mates))
        if len(work.history) >= _FEW_STEPS:
            yield ("same-history", work.history), Sign(code="same-history", count=len(work.history))

    def _says_something(self, trait: _Trait) -> bool:
        few, share = _HARD if trait[0] in ("same-file", "same-stamp", "left-at", "same-history") else _SOFT
        return 2 <= len(self._owners[trait]) <= max(few, share * len(self.works))

    def pairs(self) -> set[tuple[int, int]]:
        """Return the students, the lower number first, who share something that few have."""
        rare = [owners for trait, owners in self._owners.items() if self._says_something(trait)]
        most = max(_HARD[0], _HARD[1] * len(self.works))
        rare += [owners for owners in self._solid_owners.values() if len(owners) <= most]
        return {pair for owners in rare for pair in combinations(sorted(owners), 2)}

    def signs(self, a: Work, b: Work) -> Iterator[Sign]:
        """List what two builds share that few have: of one code once, of wrong values twice; a file says it all."""
        own = self._traits[a.student_id]
        shared = [trait for trait in own if trait in self._traits[b.student_id] and self._says_something(trait)]
        codes = {code for code, _ in shared}
        seen: dict[Code, int] = defaultdict(int)
        for trait in shared:
            code = trait[0]
            if "same-file" in codes and code in _IN_A_FILE:
                continue
            seen[code] += 1
            # one drag gives several lengths, one author several files: they are one sign
            if seen[code] <= (2 if code == "wrong-alike" else 1):
                yield own[trait]
        alike = self._own_solids(a) & self._own_solids(b)
        orders = {trait for trait in own if trait[0] == "same-order" and trait in self._traits[b.student_id]}
        if alike and "same-file" not in codes and self._pairs_by_chance(alike, orders) <= _BY_CHANCE:
            yield Sign(code="same-ways", count=len(alike))

    def _own_solids(self, work: Work) -> set[str]:
        """Return the solids of a build, without those that were supplied."""
        return {solid for own in work.prints if own.digest not in self._supplied for solid in own.solids}

    def _pairs_by_chance(self, solids: Collection[str], orders: Collection[_Trait]) -> float:
        """Return of how many pairs these parts, in this order, would be alike by chance, by their shares."""
        students = len(self.works)
        owners = [self._solid_owners[solid] for solid in solids] + [self._owners[order] for order in orders]
        others = math.prod((len(own) - 1) / students for own in owners)
        return others * students * (students - 1) / 2

    def signs_against(self, a: Work, b: Work) -> Iterator[Sign]:
        """List what speaks against one origin."""
        edges = max((own.edges for own in a.prints), default=0)
        if 0 < edges < _PLAIN:
            yield Sign(code="plain-part", count=edges)
        ways = [trait for trait in self._traits[a.student_id] if trait[0] in ("same-order", "same-mates")]
        others = max((len(self._owners[way]) for way in ways if b.student_id in self._owners[way]), default=0)
        if others > 2:
            yield Sign(code="shared-by-others", count=others - 2)
