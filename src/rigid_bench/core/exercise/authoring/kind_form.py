"""A form for any kind of check, made from its fields: what is asked, and what was answered as the fields of a check."""

import types
from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.exercise.authoring.check_factory import Picked, PlacedInstance, motions_of
from rigid_bench.core.formats.documents import CylinderModel, Document, FeatureModel, PlaneModel
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import N_, _, translated

#: How a field is answered.
Input = Literal["part", "instance", "feature", "choice", "number", "switch", "text", "words", "rows", "motions"]
#: Fields that name an instance of the reference build, and what else may stand for one.
_INSTANCES, _GROUND = {"instance", "a", "b", "to", "into", "bearing"}, "ground"

#: Names of fields that say too little by themselves.
_LABELS = {
    "min": N_("At least"),
    "max": N_("At most"),
    "of": N_("Face or hole"),
    "per": N_("Counted on"),
    "a": N_("First"),
    "b": N_("Second"),
}


class FormField(Document):
    """One field of a form, as plain data: pages show forms without loading what the checks are judged with."""

    name: str
    input: Input
    is_required: bool
    default: str = ""
    #: Of a choice; of rows, what stands in a row.
    options: tuple[str, ...] = ()
    #: What a feature is written with: nothing, its instance, its part, or its part in a list of round walls; or bare.
    holder: Literal["", "instance", "part", "cylinders", "bare"] = ""
    #: Of rows: a name and a value each. Of motions: just one.
    is_mapping: bool = False
    is_single: bool = False

    @property
    def label(self) -> str:
        """The name as people read it."""
        return translated(_LABELS.get(self.name, "")) or self.name.replace("_", " ").replace(".", " ").capitalize()


def form_of(fields: type[BaseModel]) -> list[FormField]:
    """List what a form for the fields of a kind of check asks.

    Parameters
    ----------
    fields
        The model of the fields, as the kind has it.

    Returns
    -------
    list of FormField
        A field of two features is asked as two.
    """
    return [asked for name, field in fields.model_fields.items() for asked in _asked(name, field)]


def _asked(name: str, field: FieldInfo) -> Iterator[FormField]:
    kind = _bare(field.annotation)
    default = "" if field.is_required() or field.default is None or isinstance(field.default, list) else field.default
    given: dict[str, Any] = {"is_required": field.is_required(), "default": str(default)}
    origin, inner = get_origin(kind), get_args(kind)
    if origin is Literal:
        yield FormField(name=name, input="choice", options=tuple(str(option) for option in inner), **given)
    elif kind is str and name == "part":
        yield FormField(name=name, input="part", **given)
    elif kind is str and name in _INSTANCES:
        yield FormField(name=name, input="instance", options=(_GROUND,) if default == _GROUND else (), **given)
    elif kind is bool:
        yield FormField(name=name, input="switch", is_required=False, default="1" if default else "")
    elif kind in (int, float):
        yield FormField(name=name, input="number", **given)
    elif kind is MotionReport or (origin is list and _bare(inner[0]) is MotionReport):
        yield FormField(name=name, input="motions", is_single=kind is MotionReport, **given)
    elif origin is list and _is_model(inner[0]) and issubclass(_bare(inner[0]), FeatureModel):
        yield from (FormField(name=f"{name}.{k}", input="feature", **given) for k in (1, 2))
    elif origin is list and _bare(inner[0]) is str:
        yield FormField(name=name, input="words", **given)
    elif origin is list and _is_model(inner[0]):
        yield FormField(name=name, input="rows", options=tuple(_bare(inner[0]).model_fields), **given)
    elif origin is dict:
        yield FormField(name=name, input="rows", options=("name", "value"), is_mapping=True, **given)
    elif _is_model(kind):
        yield FormField(name=name, input="feature", holder=_holder(kind), **given)
    else:
        yield FormField(name=name, input="text", **given)


def _holder(model: type[BaseModel]) -> Literal["", "instance", "part", "cylinders", "bare"]:
    if model in (CylinderModel, PlaneModel):
        return "bare"
    if "cylinders" in model.model_fields:
        return "cylinders"
    return "instance" if "instance" in model.model_fields else "part" if "part" in model.model_fields else ""


def _bare(annotation: Any) -> Any:
    """Return a type without what is said about it, and without None."""
    while get_origin(annotation) is Annotated:
        annotation = get_args(annotation)[0]
    if get_origin(annotation) in (Union, types.UnionType):
        inner = [arg for arg in get_args(annotation) if arg is not type(None)]
        return _bare(inner[0])
    return annotation


def _is_model(annotation: Any) -> bool:
    bare = _bare(annotation)
    return isinstance(bare, type) and issubclass(bare, BaseModel)


def answers(
    fields: Sequence[FormField],
    form: Mapping[str, Sequence[str]],
    *,
    features: Mapping[str, Picked],
    places: Mapping[str, PlacedInstance],
) -> dict[str, Any]:
    """Return the fields of a check from what was answered in its form.

    Parameters
    ----------
    fields
        Of the form.
    form
        Each field's answers, as they were typed; those of motions are "slide x", "turn z".
    features
        What may be picked, by the value that stands in the form.
    places
        The reference build.

    Raises
    ------
    FormRejected
        An answer is missing, or cannot be read; the message names the field.
    """
    given: dict[str, Any] = {}
    for asked in fields:
        typed = [text.strip() for text in form.get(asked.name, ()) if text.strip()]
        name, _unused, place = asked.name.partition(".")
        if asked.input == "motions":
            motions = _motions(typed, form, places)
            given[name] = next(iter(motions), None) if asked.is_single else motions
        elif not typed:
            if asked.is_required and asked.input != "switch":
                raise FormRejected(asked.label, _("it is missing"), _("Fill it in"), asked.name)
        elif asked.input == "feature":
            feature = _written(asked, typed[0], features)
            given[name] = [*given.get(name, []), feature] if place else feature
        else:
            given[name] = _rows(asked, typed[0]) if asked.input == "rows" else _plain(asked, typed)
    return given


def _plain(asked: FormField, typed: Sequence[str]) -> Any:
    if asked.input == "number":
        return _number(asked, typed[0])
    if asked.input == "words":
        return [word.strip() for text in typed for word in text.split(",") if word.strip()]
    return True if asked.input == "switch" else typed[0]


def _number(asked: FormField, text: str) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError as exc:
        raise FormRejected(
            asked.label, _("'{text}' is no number", text=text[:40]), _("Type digits"), asked.name
        ) from exc
    return int(value) if value.is_integer() else value


def _written(asked: FormField, text: str, features: Mapping[str, Picked]) -> dict[str, Any]:
    """Write a picked feature as a field has it: bare, with its part, or with its instance."""
    if text not in features:
        raise FormRejected(asked.label, _("none was chosen"), _("Choose a face or hole of a part"), asked.name)
    picked = features[text]
    feature: dict[str, Any] = picked.feature.model_dump(mode="json", exclude_none=True)
    if asked.holder == "bare":
        return dict(next(iter(feature.values())))
    if asked.holder == "cylinders":
        return {"part": picked.part, "cylinders": list(feature.values())}
    holder = {"instance": {"instance": picked.instance}, "part": {"part": picked.part}}.get(asked.holder, {})
    return {**holder, **feature}


def _rows(asked: FormField, text: str) -> Any:
    """Read a row to a line, its fields between semicolons."""
    rows = []
    for line in text.splitlines():
        cells = [cell.strip() for cell in line.split(";")]
        if len(cells) > len(asked.options):
            next_step = _("Write: {options}", options="; ".join(asked.options))
            raise FormRejected(asked.label, _("'{line}' has too many values", line=line[:40]), next_step, asked.name)
        rows.append({name: _value(cell) for name, cell in zip(asked.options, cells, strict=False) if cell})
    return {row.get("name", ""): row.get("value") for row in rows} if asked.is_mapping else rows


def _value(cell: str) -> Any:
    try:
        return float(cell.replace(",", "."))
    except ValueError:
        return cell


def _motions(
    typed: Sequence[str], form: Mapping[str, Sequence[str]], places: Mapping[str, PlacedInstance]
) -> list[dict[str, Any]]:
    slides, turns = ([text[-1] for text in typed if text.startswith(way)] for way in ("slide", "turn"))
    instance, to = (next(iter(form.get(name, ())), _GROUND) for name in ("instance", "to"))
    return motions_of(instance, to, slides=slides, turns=turns, through=None, places=places)
