"""What the JSON documents have in common: features, finite numbers, one-line errors."""

import json
import math
import re
from collections.abc import Iterable, Iterator
from typing import Annotated, Any

import numpy as np
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator
from pydantic_core import from_json

from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CountersinkFeature,
    CylinderFeature,
    Feature,
    FrameFeature,
    PlaneFeature,
    PointFeature,
    SphereFeature,
    TorusFeature,
    make_frame,
)
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import unit
from rigid_bench.core.wording.language import N_, _, translated

#: Within ten kilometres; a coordinate beyond it is a slip or an attack, and spoils every sum.
Coordinate = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
Vector = Annotated[list[Coordinate], Field(min_length=3, max_length=3)]
Quaternion = Annotated[list[Coordinate], Field(min_length=4, max_length=4)]
Identifier = Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^\x00-\x1f\x7f]+$")]

_DEEPEST = 40
#: So many brackets opened in a row are deeper than anything meant.
_OPENS_DEEP = re.compile(rf"(?:[\[{{]\s*){{{_DEEPEST + 1}}}")
#: Escapes that are JSON and yet no text: the null character, half of a pair (RFC 8259, section 8.2).
_NO_TEXT = re.compile("[\0\ud800-\udfff]")


class Document(BaseModel):
    """Base of every model of a file: frozen; fields of a later version are passed over."""

    model_config = ConfigDict(frozen=True, extra="ignore")


class PlaneModel(Document):
    """`plane`: a point on it and the normal out of the material."""

    point: Vector
    normal: Vector


class AxisModel(Document):
    """`axis`: a point on it and a direction."""

    point: Vector
    direction: Vector


class CylinderModel(AxisModel):
    """`cylinder`: axis and radius."""

    radius: Annotated[Coordinate, Field(gt=0)]


class SphereModel(Document):
    """`sphere`: centre and radius."""

    point: Vector
    radius: Annotated[Coordinate, Field(gt=0)]


class TorusModel(AxisModel):
    """`torus`: centre, axis, from the axis to the middle of the tube, and the tube's radius."""

    radius: Annotated[Coordinate, Field(ge=0)]
    tube: Annotated[Coordinate, Field(gt=0)]


class ConeModel(AxisModel):
    """`cone`: a point on its axis, its direction, and the whole angle, degrees."""

    angle: Annotated[Coordinate, Field(gt=0, lt=180)]


class FrameModel(Document):
    """`frame`: z is the joint's axis, x its zero direction."""

    origin: Vector
    z: Vector
    x: Vector


class FeatureModel(Document):
    """Exactly one of plane, axis, cylinder, point, frame."""

    plane: PlaneModel | None = None
    axis: AxisModel | None = None
    cylinder: CylinderModel | None = None
    point: Vector | None = None
    frame: FrameModel | None = None

    @model_validator(mode="after")
    def _one(self) -> "FeatureModel":
        given = (self.plane, self.axis, self.cylinder, self.point, self.frame)
        if sum(form is not None for form in given) != 1:
            raise ValueError(_("needs exactly one of plane, axis, cylinder, point, frame"))
        return self

    def feature(self, *, mm: float = 1.0) -> Feature:
        """Convert to core values.

        Parameters
        ----------
        mm
            Millimetres in the document's unit.

        Raises
        ------
        InvalidDocument
            A direction has length zero.
        """
        if self.plane:
            return PlaneFeature(mm * np.array(self.plane.point), unit(self.plane.normal, where="plane normal"))
        if self.cylinder:
            point, direction = mm * np.array(self.cylinder.point), unit(self.cylinder.direction)
            return CylinderFeature(point, direction, mm * self.cylinder.radius)
        if self.axis:
            return AxisFeature(mm * np.array(self.axis.point), unit(self.axis.direction, where="axis direction"))
        if self.frame:
            return make_frame(mm * np.array(self.frame.origin), np.array(self.frame.z), np.array(self.frame.x))
        return PointFeature(mm * np.array(self.point))


class CheckedFeature(FeatureModel):
    """What a check may name besides: sphere, torus, cone, countersink."""

    sphere: SphereModel | None = None
    torus: TorusModel | None = None
    cone: ConeModel | None = None
    countersink: AxisModel | None = None

    @model_validator(mode="after")
    def _one(self) -> "CheckedFeature":
        names = ("plane", "axis", "cylinder", "point", "frame", "sphere", "torus", "cone", "countersink")
        if sum(getattr(self, name) is not None for name in names) != 1:
            raise ValueError(_("needs exactly one of {names}", names=", ".join(names)))
        return self

    def feature(self, *, mm: float = 1.0) -> Feature:
        """Convert to core values; parameters and errors as for `FeatureModel.feature`."""
        if self.sphere:
            return SphereFeature(mm * np.array(self.sphere.point), mm * self.sphere.radius)
        for given in (self.torus, self.cone, self.countersink):
            if given is None:
                continue
            point, direction = mm * np.array(given.point), unit(given.direction, where="axis direction")
            if isinstance(given, TorusModel):
                return TorusFeature(point, direction, mm * given.radius, mm * given.tube)
            if isinstance(given, ConeModel):
                return ConeFeature(point, direction, math.radians(given.angle))
            return CountersinkFeature(point, direction)
        return super().feature(mm=mm)


#: The fields of each feature that may stand flat: {"point", "direction", "radius"} is a cylinder.
_FLAT_FORMS = (
    ({"origin", "z", "x"}, "frame"),
    ({"point", "normal"}, "plane"),
    ({"point", "direction", "radius", "tube"}, "torus"),
    ({"point", "direction", "radius"}, "cylinder"),
    ({"point", "direction", "angle"}, "cone"),
    ({"point", "radius"}, "sphere"),
    ({"point", "direction"}, "axis"),
)


def nested(given: Any) -> Any:
    """Return a feature in its nested form, {"cylinder": {...}}, from that or from the flat one, {"point", ...}.

    Examples
    --------
    >>> nested({"point": [0, 0, 0], "direction": [0, 0, 1], "radius": 4})
    {'cylinder': {'point': [0, 0, 0], 'direction': [0, 0, 1], 'radius': 4}}
    >>> nested({"axis": {"point": [0, 0, 0], "direction": [0, 0, 1]}})
    {'axis': {'point': [0, 0, 0], 'direction': [0, 0, 1]}}
    """
    if not isinstance(given, dict):
        return given
    name = next((name for keys, name in _FLAT_FORMS if keys == set(given)), None)
    return {name: given} if name else given


def bare(given: Any) -> Any:
    """Return a feature in its flat form, {"point", ...}, from that or from the nested one.

    Examples
    --------
    >>> bare({"cylinder": {"point": [0, 0, 0], "direction": [0, 0, 1], "radius": 4}})
    {'point': [0, 0, 0], 'direction': [0, 0, 1], 'radius': 4}
    """
    if isinstance(given, dict) and len(given) == 1:
        inner = next(iter(given.values()))
        return inner if isinstance(inner, dict) else given
    return given


#: A feature of a check, nested or flat.
NestedFeature = Annotated[CheckedFeature, BeforeValidator(nested)]
#: A round wall or flat face of a check, flat or nested.
BareCylinder = Annotated[CylinderModel, BeforeValidator(bare)]
BarePlane = Annotated[PlaneModel, BeforeValidator(bare)]


def feature_model(feature: Feature, *, mm: float = 1.0) -> FeatureModel:
    """Write a flat face, axis, round wall or frame as documents do.

    Parameters
    ----------
    feature
        In mm.
    mm
        Millimetres in the document's unit.
    """
    point = [round(float(coordinate), 7) + 0.0 for coordinate in feature.point / mm]
    if isinstance(feature, SphereFeature):
        return CheckedFeature(sphere=SphereModel(point=point, radius=round(feature.radius / mm, 7)))
    assert isinstance(feature, PlaneFeature | AxisFeature | FrameFeature)
    way = [round(float(coordinate), 10) + 0.0 for coordinate in feature.direction]
    if isinstance(feature, PlaneFeature):
        return FeatureModel(plane=PlaneModel(point=point, normal=way))
    if isinstance(feature, FrameFeature):
        across = [round(float(coordinate), 10) + 0.0 for coordinate in feature.x]
        return FeatureModel(frame=FrameModel(origin=point, z=way, x=across))
    if isinstance(feature, ConeFeature):
        return CheckedFeature(cone=ConeModel(point=point, direction=way, angle=round(math.degrees(feature.angle), 7)))
    if isinstance(feature, TorusFeature):
        sizes = {"radius": round(feature.radius / mm, 7), "tube": round(feature.tube / mm, 7)}
        return CheckedFeature(torus=TorusModel(point=point, direction=way, **sizes))
    if isinstance(feature, CountersinkFeature):
        return CheckedFeature(countersink=AxisModel(point=point, direction=way))
    if isinstance(feature, CylinderFeature):
        return FeatureModel(cylinder=CylinderModel(point=point, direction=way, radius=round(feature.radius / mm, 7)))
    return FeatureModel(axis=AxisModel(point=point, direction=way))


def feature_document(feature: Feature, *, mm: float = 1.0) -> dict[str, Any]:
    """Write a feature as plain data; parameters as for `feature_model`."""
    return feature_model(feature, mm=mm).model_dump(mode="json", exclude_none=True)


def read_json(data: bytes, *, name: str) -> dict[str, Any]:
    """Read a JSON object.

    Raises
    ------
    InvalidDocument
        The data is not UTF-8, not JSON, nested absurdly deep, or no object; a number in it is not finite, or a text
        holds what no text can.
    """
    hint = _("Write the file again from your program, or mend it at that place")
    try:
        text = data.removeprefix(b"\xef\xbb\xbf").decode("utf-8")
    except UnicodeDecodeError as exc:
        raise InvalidDocument(name, _("byte {start} is not UTF-8 text", start=exc.start), hint) from exc
    try:
        value = from_json(text)
    except ValueError:
        value = _read_slowly(text, name=name, hint=hint)
    if not isinstance(value, dict):
        raise InvalidDocument(name, _("the outermost value is no object"), hint)
    if fault := _unmeant(value):
        place, problem = fault
        raise InvalidDocument(_("{name}, at {place}", name=name, place=_place(place)) if place else name, problem, hint)
    return value


#: What the parser says -> what is wrong with the file.
_JSON_FAULTS = {
    "Unterminated string": N_(
        "a text begins here that never ends: a quotation mark is missing, or the file is cut off"
    ),
    "Expecting ',' delimiter": N_("a comma is missing here, or another sign stands in its place"),
    "Expecting ':' delimiter": N_("a colon is missing here"),
    "Expecting property name": N_("a name in double quotes is missing here"),
    "Expecting value": N_("a value is missing here: the file is empty, or cut off"),
    "Invalid control character": N_("a text holds a line break or another sign that must be written as \\n"),
    "Invalid \\escape": N_("a backslash in a text is followed by a letter that means nothing: write it twice"),
    "Extra data": N_("the file goes on after its end: two files were joined, or a bracket too many closes it"),
}


def _read_slowly(text: str, *, name: str, hint: str) -> Any:
    """Read what the fast parser refuses: the slow one says better what is wrong, or lets it pass to be looked at."""
    deep = InvalidDocument(name, _("brackets are nested more than {deepest} deep", deepest=_DEEPEST), hint)
    if _OPENS_DEEP.search(text):
        raise deep
    try:
        return json.loads(text)
    except json.JSONDecodeError as exc:
        where = f"{name}, line {exc.lineno} column {exc.colno}"
        problem = next((translated(said) for told, said in _JSON_FAULTS.items() if exc.msg.startswith(told)), exc.msg)
        raise InvalidDocument(where, _("not JSON: {problem}", problem=problem), hint) from exc
    except RecursionError as exc:
        raise deep from exc
    except ValueError as exc:  # an integer of thousands of digits
        raise InvalidDocument(name, _("a number in it is too long"), hint) from exc


def _unmeant(value: dict[str, Any]) -> tuple[tuple[str | int, ...], str] | None:
    """Return the place of a number or text that the parser lets pass and no database keeps, or that goes too deep."""
    stack: list[tuple[Any, tuple[str | int, ...]]] = [(value, ())]
    while stack:
        holder, place = stack.pop()
        if len(place) >= _DEEPEST:
            return (), _("brackets are nested more than {deepest} deep", deepest=_DEEPEST)
        is_object = isinstance(holder, dict)
        if is_object and any(_NO_TEXT.search(key) for key in holder):
            return place, _("a name holds a character that no text has")
        for key, held in holder.items() if is_object else enumerate(holder):
            if isinstance(held, float):
                if not math.isfinite(held):
                    return (*place, key), _("the number is not finite")
            elif isinstance(held, str):
                if _NO_TEXT.search(held):
                    return (*place, key), _("the text holds a character that no text has")
            elif isinstance(held, dict | list):
                stack.append((held, (*place, key)))
    return None


def document_error(name: str, exc: ValidationError) -> InvalidDocument:
    """Turn the first complaint of a model into one line that says the place in the file."""
    faults = exc.errors()
    # of what a field may be, the reading that came furthest is the one that was meant
    first = max((fault for fault in faults if _outer(fault) == _outer(faults[0])), key=lambda fault: len(fault["loc"]))
    place = _place(part for part in first["loc"] if not _is_reading(part))
    problem = _words_of(first)
    others = len({_outer(fault) for fault in faults}) - 1
    more = _(" (and {others} more)", others=others) if others else ""
    where = f"{name}, at {place}" if place else name
    return InvalidDocument(where, problem + more, _("Mend that place and try again"))


def document_errors(name: str, exc: ValidationError) -> Iterator[InvalidDocument]:
    """Yield every complaint of a model, each with its place in the file."""
    faults = exc.errors()
    for outer in dict.fromkeys(_outer(fault) for fault in faults):
        own = max((fault for fault in faults if _outer(fault) == outer), key=lambda fault: len(fault["loc"]))
        place = _place(part for part in own["loc"] if not _is_reading(part))
        where = f"{name}, at {place}" if place else name
        yield InvalidDocument(where, _words_of(own), _("Mend that place and try again"))


#: Pydantic's kinds of error -> what is wrong, in plain words; `{}` takes its own context.
_FAULTS = {
    "missing": N_("is missing"),
    "float_parsing": N_("is no number"),
    "float_type": N_("is no number"),
    "int_parsing": N_("is no whole number"),
    "int_type": N_("is no whole number"),
    "int_from_float": N_("is no whole number"),
    "string_type": N_("is no text"),
    "bool_parsing": N_("is neither true nor false"),
    "finite_number": N_("is no finite number"),
    "list_type": N_("is no list"),
    "dict_type": N_("is no object with fields"),
    "model_type": N_("is no object with fields"),
    "greater_than_equal": N_("must be at least {ge}"),
    "greater_than": N_("must be more than {gt}"),
    "less_than_equal": N_("must be at most {le}"),
    "less_than": N_("must be less than {lt}"),
    "too_short": N_("needs at least {min_length}, and has {actual_length}"),
    "too_long": N_("may have {max_length} at most, and has {actual_length}"),
    "string_too_short": N_("is empty or too short"),
    "string_too_long": N_("is longer than {max_length} letters"),
    "literal_error": N_("must be one of: {expected}"),
    "string_pattern_mismatch": N_("has letters that no id has: use a to z, digits, hyphens and dots"),
}


def _words_of(fault: Any) -> str:
    if fault["type"] in _FAULTS:
        return translated(_FAULTS[fault["type"]]).format(**fault.get("ctx", {}))
    problem = fault["msg"].removeprefix("Value error, ").rstrip(".")
    return str(problem[0].lower() + problem[1:])


def _is_reading(part: str | int) -> bool:
    """Say whether a part of a place is one of the readings that a field may have, and no name in the file."""
    return isinstance(part, str) and (part[:1].isupper() or part in ("str", "float", "int") or "[" in part)


def _outer(fault: Any) -> tuple[str | int, ...]:
    """Return the place of a fault down to the field that has several readings."""
    parts: list[str | int] = []
    for part in fault["loc"]:
        if _is_reading(part):
            break
        parts.append(part)
    return tuple(parts)


def _place(parts: Iterable[str | int]) -> str:
    text = "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in parts)
    return text.removeprefix(".")
