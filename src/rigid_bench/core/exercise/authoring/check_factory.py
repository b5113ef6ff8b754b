"""Checks of an assembly, made from two features or instances and what they are to do."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from rigid_bench.core.assembly.mates.kind import Choice, MateKind, as_related, surfaces_pair
from rigid_bench.core.assembly.mates.registry import choices
from rigid_bench.core.formats.documents import Document, FeatureModel, feature_document
from rigid_bench.core.values.datums import AxisFeature, PlaneFeature
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import _, listed, series

_AXES = "xyz"
_DIGITS = 6


class PlacedInstance(Document):
    """An instance of the reference build, its pose in the exercise's unit."""

    part: str
    name: str
    position: list[float]
    quaternion: list[float]

    @property
    def pose(self) -> Pose:
        """Where it stands."""
        return Pose.from_quaternion(self.position, self.quaternion)


class Picked(Document):
    """A feature of an instance, in the coordinates of its part."""

    instance: str
    feature: FeatureModel
    #: The instance's part.
    part: str = ""


def relations() -> dict[str, tuple[Choice, MateKind]]:
    """Return what two surfaces may be asked to do, by id."""
    return {name: choice for name, choice in choices().items() if choice[0].is_relation}


def relation(
    doing: str, one: Picked, other: Picked, places: Mapping[str, PlacedInstance], *, value: float | None = None
) -> dict[str, Any]:
    """Make a check of what two features do.

    Parameters
    ----------
    doing
        The id of one of `relations()`.
    one, other
        On two instances.
    places
        The reference build.
    value
        Of a gap or an angle (degrees), in the exercise's unit; as in the reference without one.

    Raises
    ------
    FormRejected
        The two features cannot do this.
    """
    offered = relations()
    if doing not in offered:
        raise FormRejected(
            _("relation"),
            _("there is no '{doing}'", doing=doing),
            _("Choose one of: {offered}", offered=series(offered)),
        )
    if one.instance == other.instance:
        raise FormRejected(_("relation"), _("both features are of one part"), _("Choose features of two parts"))
    choice, kind = offered[doing]
    a, b = (picked.feature.feature() for picked in (one, other))
    pair = surfaces_pair(a, b)
    if pair not in choice.places:
        able = series(f"'{other.words}'" for other, _unused in offered.values() if pair in other.places)
        raise FormRejected(
            _("relation"),
            _("these two cannot '{words}'", words=choice.words),
            _("Choose other features, or: {able}", able=able),
        )
    check: dict[str, Any] = {
        "title": _(
            "{name} and {name_2}: {words}",
            name=places[other.instance].name,
            name_2=places[one.instance].name,
            words=choice.words,
        ),
        "kind": "relation",
        "relation": kind.name,
        "sense": choice.sense if pair == "flat-flat" else "either",
        "marks": 1,
    }
    for side, picked, feature in (("a", one, a), ("b", other, b)):
        check[side] = {"instance": picked.instance, **feature_document(as_related(feature, kind))}
    if kind.value_unit:
        check["value"] = round(_as_placed(kind, one, other, places) if value is None else value, _DIGITS)
    return check


def _as_placed(kind: MateKind, one: Picked, other: Picked, places: Mapping[str, PlacedInstance]) -> float:
    a, b = (picked.feature.feature().moved(places[picked.instance].pose) for picked in (one, other))
    value = kind.as_placed(as_related(a, kind), as_related(b, kind))
    assert value is not None, "a relation that takes a value reads it off its surfaces"
    return value


def motions_of(
    instance: str,
    to: str,
    *,
    slides: Sequence[str],
    turns: Sequence[str],
    through: Picked | None,
    places: Mapping[str, PlacedInstance],
) -> list[dict[str, Any]]:
    """List motions along and about the axes of the instance relative to which they are; parameters as for `freedom`."""
    back = places[to].pose.inverse() if to in places else Pose.identity()
    point = back.point(places[instance].pose.position) if instance in places else np.zeros(3)
    if through is not None:
        feature = through.feature.feature().moved(back @ places[through.instance].pose)
        assert isinstance(feature, PlaneFeature | AxisFeature)
        point = feature.point
    ways = {name: np.eye(3)[k].tolist() for k, name in enumerate(_AXES)}
    at = [round(float(value), _DIGITS) + 0.0 for value in point]
    motions: list[dict[str, Any]] = [{"kind": "translation", "direction": ways[axis]} for axis in slides]
    motions += [{"kind": "rotation", "axis": {"point": at, "direction": ways[axis]}} for axis in turns]
    return motions


def freedom(
    instance: str,
    to: str,
    *,
    slides: Sequence[str],
    turns: Sequence[str],
    through: Picked | None,
    places: Mapping[str, PlacedInstance],
) -> dict[str, Any]:
    """Make a check of what an instance may still do.

    Parameters
    ----------
    instance, to
        Judged relative to `to`, in whose coordinates the directions are.
    slides, turns
        The open ones of "x", "y" and "z".
    through
        A round wall whose axis the turns go through; through the instance's origin without it.
    places
        The reference build.
    """
    if instance == to:
        raise FormRejected(_("freedom"), _("a part is judged relative to another"), _("Choose two parts"))
    motions = motions_of(instance, to, slides=slides, turns=turns, through=through, places=places)
    does = [_("slides along {axis}", axis=axis.upper()) for axis in slides]
    does += [_("turns about {axis}", axis=axis.upper()) for axis in turns]
    return {
        "title": f"{places[instance].name} {listed(does) or _('held')}",
        "kind": "freedom",
        "marks": 2,
        "instance": instance,
        "to": to,
        "motions": motions,
    }


def gap(
    a: str,
    b: str,
    places: Mapping[str, PlacedInstance],
    *,
    least: float | None = None,
    most: float | None = None,
    fit: str = "",
    between: tuple[Picked, Picked] | None = None,
) -> dict[str, Any]:
    """Make a check of the gap between two instances: a range, or a fit; all round, or between two of their faces."""
    if between is not None:
        a, b = between[0].instance, between[1].instance
    if a == b:
        raise FormRejected(_("gap"), _("a gap is between two parts"), _("Choose two parts"))
    if not fit and least is None and most is None:
        raise FormRejected(
            _("gap"), _("it has no limits"), _("Give a least or greatest gap, or a fit such as: turn, printed")
        )
    check: dict[str, Any] = {
        "title": _("Gap of {name} to {name_2}", name=places[b].name, name_2=places[a].name),
        "kind": "gap",
        "marks": 1,
        "a": a,
        "b": b,
    }
    check |= {"fit": fit} if fit else {k: v for k, v in (("min", least), ("max", most)) if v is not None}
    if between is not None:
        check["between"] = [picked.feature.model_dump(mode="json", exclude_none=True) for picked in between]
    return check


def change(check: Mapping[str, Any], value: float | None) -> dict[str, Any]:
    """Make a check of what a change of one dimension does to the rest."""
    if value is None:
        raise FormRejected(_("change"), _("no new value was given"), _("Type what the size is to become"))
    return {
        "title": _("Follows a change of {check}", check=check["title"]),
        "kind": "change",
        "marks": 2,
        "set": {check["id"]: value},
    }
