"""Every kind of mate, found in `kinds/`, and the equations of a mate of any of them."""

import importlib
import pkgutil
from collections.abc import Sequence

from rigid_bench.core.assembly.mates import kinds
from rigid_bench.core.assembly.mates.equations import Equation
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import CylinderFeature, Feature
from rigid_bench.core.values.errors import InvalidDocument, NotSupported
from rigid_bench.core.wording.language import _, series, translated

#: By name.
KINDS: dict[str, MateKind] = {
    kind.name: kind
    for module in pkgutil.iter_modules(kinds.__path__)
    for kind in [importlib.import_module(f"{kinds.__name__}.{module.name}").KIND]
}
_FLATS = "flat-flat"
_FEATURE_NAMES = {"PlaneFeature": "plane", "AxisFeature": "axis", "PointFeature": "point", "FrameFeature": "frame"}


def choices() -> dict[str, tuple[Choice, MateKind]]:
    """Return what two surfaces may be chosen to do, by id, with the kind that brings it about; the usual ones first."""
    named_choices = [(choice, kind) for kind in KINDS.values() for choice in kind.choices]
    named_choices.sort(key=lambda offered: (_FLATS not in offered[0].places, offered[0].places.get(_FLATS, 0)))
    return {choice.id: (choice, kind) for choice, kind in named_choices}


def words_of(kind: str) -> str:
    """Return what two parts do by a kind of mate; the name itself where there is no such kind."""
    return translated(KINDS[kind].words) if kind in KINDS else kind


def _names(feature: Feature) -> Sequence[str]:
    """What a feature can serve as: a cylinder also serves as its axis."""
    return (
        ("cylinder", "axis")
        if isinstance(feature, CylinderFeature)
        else (_FEATURE_NAMES.get(type(feature).__name__, "other"),)
    )


def _matching_rule(kind: MateKind, a: Feature, b: Feature) -> tuple[Rule, bool] | None:
    """Return the rule for two features, and whether they change places; None where the kind does not join them."""
    for first in _names(a):
        for second in _names(b):
            if (first, second) in kind.rules:
                return kind.rules[first, second], False
            if (second, first) in kind.rules:
                return kind.rules[second, first], True
    return None


def joins(kind: str, a: Feature, b: Feature) -> bool:
    """Say whether a kind of mate joins two features."""
    return _matching_rule(KINDS[kind], a, b) is not None


def _rule(mate: Mate) -> tuple[Rule, bool]:
    kind = KINDS.get(mate.kind)
    if kind is None:
        raise NotSupported(
            _("mate '{id}'", id=mate.id),
            _("there is no kind of mate '{kind}'", kind=mate.kind),
            _("The kinds are: {kinds}", kinds=series(sorted(KINDS))),
        )
    matching = _matching_rule(kind, mate.feature_a, mate.feature_b)
    if matching is None:
        offered = series("-".join(pairing) for pairing in kind.rules)
        given = f"{_names(mate.feature_a)[0]}-{_names(mate.feature_b)[0]}"
        raise InvalidDocument(
            _("mate '{id}'", id=mate.id),
            _("a mate of kind '{kind}' does not join {given}", kind=mate.kind, given=given),
            _("It joins: {offered}", offered=offered),
        )
    return matching


def equations(mate: Mate, a: Feature, b: Feature) -> list[Equation]:
    """List the equations of a mate.

    Parameters
    ----------
    mate
        Kind, value, sense and the rest.
    a, b
        Its features, in the world's coordinates.

    Returns
    -------
    list of Equation
        On the twist of b less the twist of a; as many as the format's table says.

    Raises
    ------
    NotSupported
        The kind is not known.
    InvalidDocument
        The kind does not join these features, or a value is missing or cannot be meant.
    """
    rule, is_swapped = _rule(mate)
    if not is_swapped:
        return rule.equations(a, b, mate)
    return [equation.reversed() for equation in rule.equations(b, a, mate)]


def check_mate(mate: Mate) -> None:
    """Refuse a mate that cannot be meant, whatever the pose.

    Raises
    ------
    NotSupported, InvalidDocument
        As `equations` does.
    """
    equations(mate, mate.feature_a, mate.feature_b)
