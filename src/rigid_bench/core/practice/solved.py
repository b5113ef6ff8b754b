"""What the engine says of a drill's build: its freedom, the petals that are open, mates that would fit."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.dof_steps import ladder
from rigid_bench.core.assembly.freedom.freedom_report import motion_report
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import is_same_space, scaled_span
from rigid_bench.core.assembly.mates.kind import MateKind
from rigid_bench.core.assembly.mates.registry import KINDS, joins, words_of
from rigid_bench.core.formats.build import Build, read_build
from rigid_bench.core.practice.mechanisms.maker import Mechanism
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import motions_phrase
from rigid_bench.core.wording.saying import say

_Array = NDArray[np.float64]
#: mm, by which turns are weighed against slides.
LENGTH = 30.0
#: An axis counts as the world's own; digits beyond which numbers of a unit twist are rounding.
_ALONG, _DIGITS = 1e-6, 9
PETALS = ("tx", "ty", "tz", "rx", "ry", "rz")


def build_of(document: Mapping[str, Any]) -> Build:
    """Read a build file that a drill holds."""
    return read_build(json.dumps(document).encode(), name="drill")


def freedom_of(document: Mapping[str, Any]) -> Freedom:
    """Work out what is free."""
    return freedom(build_of(document), tolerance=Tolerance())


def without(document: Mapping[str, Any], mates: Sequence[str]) -> dict[str, Any]:
    """Return a build without some of its mates."""
    return {**document, "mates": [mate for mate in document["mates"] if mate["id"] not in mates]}


def space_of(freedom: Freedom, instance: str) -> _Array:
    """Return the scaled space of an instance's motions relative to ground, (6, d)."""
    return scaled_span(freedom.relative_twists(freedom.system.build.index_of(instance)), LENGTH)


def motions_of(freedom: Freedom, instance: str) -> list[Motion]:
    """Name an instance's motions; raises `Unfit` where one does not carry on to finite size."""
    motions = freedom.motions(freedom.system.build.index_of(instance))
    if not all(motion.finite for motion in motions):
        raise Unfit
    return motions


def is_same(a: _Array, b: _Array) -> bool:
    """Say whether two spaces of motions are one."""
    return is_same_space(a, b)


def open_petals(freedom: Freedom, instance: str) -> list[str] | None:
    """Return the open petals of the rose; None where slides along and turns about the world's axes say not all.

    A petal is open where the space of motions holds a pure slide along its axis, or a pure turn about some line
    along it; the petals say all where there are as many as degrees of freedom.
    """
    twists = freedom.relative_twists(freedom.system.build.index_of(instance))
    petals = [f"t{name}" for name, way in zip("xyz", np.eye(3), strict=True) if _holds(twists, np.zeros(3), way)]
    for name, way in zip("xyz", np.eye(3), strict=True):
        if _turns_about(twists, way):
            petals.append(f"r{name}")
    return petals if len(petals) == twists.shape[1] else None


def _holds(twists: _Array, angular: _Array, linear: _Array) -> bool:
    wanted = np.concatenate([angular, linear])
    left = wanted - twists @ np.linalg.lstsq(twists, wanted, rcond=None)[0] if twists.shape[1] else wanted
    return bool(np.linalg.norm(left) < _ALONG)


def _turns_about(twists: _Array, way: _Array) -> bool:
    """Say whether there is a turn along a direction without a slide along it."""
    if not twists.shape[1]:
        return False
    rows = np.vstack([twists[:3], way @ twists[3:]]).round(_DIGITS)
    wanted = np.concatenate([way, [0.0]])
    mix = np.linalg.lstsq(rows, wanted, rcond=_ALONG)[0]
    return bool(np.linalg.norm(rows @ mix - wanted) < _ALONG)


def reports_of(motions: Sequence[Motion]) -> list[dict[str, Any]]:
    """Write motions as in a freedom report."""
    return [motion_report(motion).model_dump(exclude_none=True) for motion in motions]


def mate_words(mate: Mapping[str, Any], mechanism: Mechanism, features: tuple[str, str]) -> str:
    """Say what a mate joins, and how."""
    one, other = (mechanism.names[mate[side]["instance"]] for side in ("a", "b"))
    value = _(" {distance:g} mm apart", distance=mate["value"]) if mate["kind"] == "distance" else ""
    return _(
        "{doing}{value}: {own_feature} of the {one}, {other_feature} of the {other}",
        doing=words_of(mate["kind"]),
        value=value,
        own_feature=features[0],
        one=one,
        other_feature=features[1],
        other=other,
    )


def mate_texts(mechanism: Mechanism) -> dict[str, str]:
    """Say by mate what it joins, and how."""
    return {
        mate["id"]: mate_words(mate, mechanism, mechanism.features[mate["id"]]) for mate in mechanism.build["mates"]
    }


def ladder_words(freedom: Freedom, instance: str, mechanism: Mechanism) -> str:
    """Say which mate took how much from an instance, and what is left."""
    index = freedom.system.build.index_of(instance)
    taken = [
        _(
            "{mate} ({doing}) takes it from {before} to {after}",
            mate=step.mate,
            doing=words_of(next(mate.kind for mate in freedom.system.mates if mate.id == step.mate)),
            before=step.before,
            after=step.after,
        )
        for step in ladder(freedom)
        if step.instance == index and step.after < step.before
    ]
    motions = freedom.motions(index)
    begins = _("The {names} begins with 6 degrees of freedom", names=mechanism.names[instance])
    left = say(motions_phrase(motions))
    ends = f"it {left}" if motions else left
    return (
        _("{begins}: {taken}. What is left: {ends}.", begins=begins, taken="; ".join(taken), ends=ends)
        if taken
        else _("{begins}, and no mate takes one.", begins=begins)
    )


def fitting_mates(mechanism: Mechanism, document: Mapping[str, Any]) -> list[tuple[dict[str, Any], tuple[str, str]]]:
    """List mates of other kinds between the features that the mechanism's mates join, that hold as the parts stand.

    Returns
    -------
    list of (mate, names of its features)
        Mates in the form of a build file, without ids.
    """
    build = build_of(mechanism.build)
    places = {instance.id: instance.pose for instance in build.instances}
    fitting = []
    for written, read in zip(mechanism.build["mates"], build.mates, strict=True):
        a = read.feature_a.moved(places[written["a"]["instance"]])
        b = read.feature_b.moved(places[written["b"]["instance"]])
        for kind in KINDS.values():
            value = _value_of(kind, a, b)
            if value is None or not joins(kind.name, a, b):
                continue
            mate = {"kind": kind.name, "a": written["a"], "b": written["b"], **value}
            sense = {"sense": written["sense"]} if "sense" in written else {}
            trial = {**document, "mates": [{"id": "trial", **mate, **sense}]}
            if not freedom_of(trial).conflicts:
                fitting.append(({**mate, **sense}, mechanism.features[written["id"]]))
    return fitting


def instances_of(mate: Mapping[str, Any]) -> tuple[str, str]:
    """Return the two instances that a mate joins."""
    return mate["a"]["instance"], mate["b"]["instance"]


def mates_about(mechanism: Mechanism, instance: str) -> Mechanism:
    """Return the mechanism with those mates alone that join an instance."""
    own = [mate for mate in mechanism.build["mates"] if instance in instances_of(mate)]
    return replace(mechanism, build={**mechanism.build, "mates": own})


def _value_of(kind: MateKind, a: Any, b: Any) -> dict[str, float] | None:
    """Return the value with which a kind holds as two features stand; None for a kind that no drill offers."""
    if kind.name in ("screw", "tangent", "angle", "fixed"):
        return None
    if not kind.value_unit:
        return {}
    value = kind.as_placed(a, b)
    return {"value": round(value, 6)} if value is not None and abs(value) > 1e-6 else None


def said(mechanism: Mechanism, instance: str) -> str:
    """Return what an instance is called in a sentence."""
    return f"the {mechanism.names[instance]}"
