"""Running dimensions: sizes from one datum on one line, each value at the end of its extension line (ISO 129-1)."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rigid_bench.core.drawing.layout.ends import Ends, ends_in, score
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.layout.placing import ViewPlacing
from rigid_bench.core.drawing.lettering import TEXT
from rigid_bench.core.drawing.notes.note import Linear, Note

#: So many sizes from one datum make a running dimension; their ends are at least so far apart, mm on paper.
_FEWEST, _APART = 3, TEXT + 1.0
_DIGITS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """Sizes from one datum in one view, the shortest first."""

    view: str
    along: int
    #: mm on paper, along it.
    datum: float
    members: tuple[tuple[str, Linear, Ends], ...]

    @property
    def levels(self) -> list[float]:
        """Where the members end, mm on paper."""
        return [_other_end(ends, self.datum) for _, _, ends in self.members]


def runs_of(order: Sequence[tuple[str, Note]], views: Sequence[PartView], moved: Mapping[str, object]) -> list[Run]:
    """Return the sizes that can stand on one line from one datum, most members first.

    Parameters
    ----------
    order
        Notes with their names.
    views
        In which they may stand.
    moved
        By check: what a person has moved stands by itself.
    """
    groups: dict[tuple[str, int, float], list[tuple[str, Linear, Ends]]] = defaultdict(list)
    for name, note in order:
        if isinstance(note, Linear) and note.across is None and not any(check in moved for check in note.checks):
            seen = [(view, ends) for view in views if (ends := ends_in(view, note))]
            if not seen:
                continue
            view, ends = max(seen, key=lambda pair: score(pair[0], note, pair[1]))
            for end in ends.span:
                groups[view.name, ends.along, round(end, _DIGITS)].append((name, note, ends))
    taken: set[str] = set()
    runs = []
    for (view_name, along, datum), members in sorted(groups.items(), key=lambda group: -len(group[1])):
        left = _spread([member for member in members if member[0] not in taken], datum)
        if len(left) >= _FEWEST:
            runs.append(Run(view=view_name, along=along, datum=datum, members=tuple(left)))
            taken |= {name for name, _, _ in left}
    return runs


def _spread(members: Sequence[tuple[str, Linear, Ends]], datum: float) -> list[tuple[str, Linear, Ends]]:
    """Return the members on the side of the datum where most are, without those too near to the one before."""
    by_side: dict[bool, list[tuple[str, Linear, Ends]]] = {True: [], False: []}
    for member in sorted(members, key=lambda own: own[2].span[1] - own[2].span[0]):
        level = _other_end(member[2], datum)
        own = by_side[level > datum]
        before = _other_end(own[-1][2], datum) if own else datum
        if abs(level - before) >= _APART:
            own.append(member)
    return max(by_side.values(), key=len)


def _other_end(ends: Ends, datum: float) -> float:
    return max(ends.span, key=lambda end: abs(end - datum))


def put_runs(runs: Sequence[Run], placers: Mapping[str, ViewPlacing]) -> dict[str, str]:
    """Place running dimensions; return the sizes that stand now, each with its view."""
    placed: dict[str, str] = {}
    for run in runs:
        names = [name for name, _, _ in run.members]
        notes, ends = [note for _, note, _ in run.members], [ends for _, _, ends in run.members]
        if placers[run.view].put_running(names, notes, ends, run.datum, run.levels):
            placed |= dict.fromkeys(names, run.view)
    return placed
