"""The cutting list of parts from bar and strip: pieces by section, and how they lie in the lengths that are bought."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rigid_bench.core.exercise.bundle import PartModel
from rigid_bench.core.formats.pictures import StockPiece
from rigid_bench.core.standards.materials import DENSITIES
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """One line of the list: like pieces."""

    part: str
    name: str
    piece: StockPiece
    count: int
    material: str
    #: g, of all of them; None for a material whose density is not known.
    mass: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """A bought length and the pieces that are cut from it, longest first."""

    pieces: tuple[tuple[str, float], ...]
    #: mm that are left over after the last cut.
    left: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CuttingGroup:
    """All pieces of one section and material, with the bars that they are cut from."""

    section: str
    sizes: tuple[float, ...]
    material: str
    pieces: tuple[Piece, ...]
    bars: tuple[Bar, ...]


def cutting_list(
    parts: Sequence[PartModel], stock: Mapping[str, StockPiece], *, bought: float, kerf: float
) -> list[CuttingGroup]:
    """List what is to be cut.

    Parameters
    ----------
    parts
        Of the exercise.
    stock
        By part: how it is cut; parts that are not are left out.
    bought
        mm, of a length as it is bought.
    kerf
        mm that a cut takes away.

    Returns
    -------
    list of CuttingGroup

    Raises
    ------
    InvalidDocument
        A piece is longer than what is bought.
    """
    groups: dict[tuple[str, tuple[float, ...], str], list[Piece]] = defaultdict(list)
    for part in parts:
        if part.id not in stock:
            continue
        piece = stock[part.id]
        density = DENSITIES.get(part.material)
        mass = None if density is None else density * piece.volume / 1000 * part.count
        key = (piece.section, tuple(piece.sizes), part.material)
        groups[key].append(
            Piece(part=part.id, name=part.name, piece=piece, count=part.count, material=part.material, mass=mass)
        )
    return [
        CuttingGroup(
            section=section, sizes=sizes, material=material, pieces=tuple(pieces),
            bars=tuple(_bars(pieces, bought, kerf)),
        )
        for (section, sizes, material), pieces in groups.items()
    ]  # fmt: skip


def _bars(pieces: Sequence[Piece], bought: float, kerf: float) -> list[Bar]:
    lengths = [(own.name, own.piece.length) for own in pieces for _ in range(own.count)]
    return cut_plan(lengths, bought=bought, kerf=kerf)


def cut_plan(lengths: Sequence[tuple[str, float]], *, bought: float, kerf: float) -> list[Bar]:
    """Lay pieces into bought lengths, each into the first that has room, the longest first.

    First fit decreasing: at most 11/9 of the fewest bars, and 2/3 of one more (Dósa, *The tight bound of first fit
    decreasing bin-packing algorithm*, 2007).

    Parameters
    ----------
    lengths
        Names and mm.
    bought, kerf
        mm.

    Raises
    ------
    InvalidDocument
        A piece is longer than what is bought.

    Examples
    --------
    >>> [bar.left for bar in cut_plan([("rail", 600.0), ("rung", 390.0), ("rung", 390.0)], bought=1000, kerf=2)]
    [6.0, 608.0]
    """
    bars: list[tuple[list[tuple[str, float]], float]] = []
    for name, length in sorted(lengths, key=lambda own: -own[1]):
        if length > bought:
            raise InvalidDocument(
                _("cutting list"),
                _("'{name}' is {length:g} mm long, more than the {bought:g} mm that are bought",
                  name=name, length=length, bought=bought),
                _("Give the length that you buy in the exercise"),
            )  # fmt: skip
        for number, (pieces, left) in enumerate(bars):
            if length <= left:
                pieces.append((name, length))
                bars[number] = (pieces, max(0.0, left - length - kerf))
                break
        else:
            bars.append(([(name, length)], max(0.0, bought - length - kerf)))
    return [Bar(pieces=tuple(pieces), left=left) for pieces, left in bars]
