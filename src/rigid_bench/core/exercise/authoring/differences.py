"""What changed between two versions of an exercise, in words."""

from collections.abc import Iterator
from typing import Any

from rigid_bench.core.exercise.bundle import ExerciseModel
from rigid_bench.core.wording.language import NN_, _, translated_number

_WHOLE = ("title", "intro", "units", "flow", "slips", "caps", "tolerance", "grounding", "contacts")


def differences(before: ExerciseModel, after: ExerciseModel) -> list[str]:
    """List what is new, what is gone and what is otherwise.

    Parameters
    ----------
    before, after
        Two versions of one exercise.

    Examples
    --------
    >>> model = ExerciseModel.model_validate({"format": "rigid-bench/exercise", "id": "e", "title": "E",
    ...     "parts": [{"id": "p", "name": "P"}], "checks": []})
    >>> differences(model, model.model_copy(update={"title": "F"}))
    ['title: E → F']
    """
    return [
        *_fields(before.model_dump(), after.model_dump(), _WHOLE, ""),
        *_parts(before, after),
        *_checks(before, after),
    ]


def _parts(before: ExerciseModel, after: ExerciseModel) -> Iterator[str]:
    old, new = ({part.id: part for part in model.parts} for model in (before, after))
    for name in (key for key in new if key not in old):
        yield _("new part: {name}", name=new[name].name)
    for name in (key for key in old if key not in new):
        yield _("part gone: {name}", name=old[name].name)
    for name in (key for key in new if key in old):
        fields = tuple(type(new[name]).model_fields)
        yield from _fields(old[name].model_dump(), new[name].model_dump(), fields, f"{new[name].name}, ")


def _checks(before: ExerciseModel, after: ExerciseModel) -> Iterator[str]:
    old, new = ({check.id: check for check in model.checks} for model in (before, after))
    for name in (key for key in new if key not in old):
        yield _("new check: {title}, {marks}", title=new[name].title, marks=_marks(new[name].marks))
    for name in (key for key in old if key not in new):
        yield _("check gone: {title}", title=old[name].title)
    for name in (key for key in new if key in old):
        a, b = old[name].model_dump(), new[name].model_dump()
        yield from _fields(a, b, tuple(dict.fromkeys([*a, *b])), f"{new[name].title}, ")


def _fields(before: dict[str, Any], after: dict[str, Any], names: tuple[str, ...], where: str) -> Iterator[str]:
    for name in names:
        a, b = before.get(name), after.get(name)
        if a == b:
            continue
        is_short = all(map(_is_short, (a, b)))
        changed = f"{where}{name}"
        yield f"{changed}: {_words(a)} → {_words(b)}" if is_short else _("{field} changed", field=changed)


def _is_short(value: Any) -> bool:
    """Numbers, words, limits and lists of words say themselves; of the rest only the name is said."""
    is_limits = isinstance(value, dict) and {"minus", "plus"} <= set(value)
    is_list = isinstance(value, list) and all(isinstance(entry, str) for entry in value)
    return (value is None or isinstance(value, str | int | float) or is_limits or is_list) and len(str(value)) < 80


def _words(value: Any) -> str:
    if isinstance(value, dict) and {"minus", "plus"} <= set(value):
        return f"+{value['plus']:g}/-{value['minus']:g}"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, list):
        return ", ".join(map(str, value))
    return _("none") if value in (None, "") else str(value)


def _marks(marks: float) -> str:
    return translated_number(*NN_("{count:g} mark", "{count:g} marks"), marks).format(count=marks)
