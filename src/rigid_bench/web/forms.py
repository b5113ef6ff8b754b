"""What people type into forms, read the same way everywhere; an error names the field."""

from datetime import UTC, datetime
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from fastapi import Depends, Form, Request
from pydantic import BaseModel, Field, model_validator

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.web.words.times import say_day, say_hour

#: PostgreSQL's largest integer; a longer number is no id.
LARGEST_ID = 2**31 - 1
#: An id that a form brings.
FormId = Annotated[int, Form(ge=0, le=LARGEST_ID)]
#: An id in a form that is a model.
IdField = Annotated[int, Field(ge=0, le=LARGEST_ID)]


class FormModel(BaseModel):
    """A form; a field that was left empty has its default."""

    @model_validator(mode="before")
    @classmethod
    def _without_empty(cls, typed: dict[str, Any]) -> dict[str, Any]:
        return {name: value for name, value in typed.items() if value != ""}


#: No length or angle that is meant is larger.
_LARGEST = 1e6
#: Letters of one answer.
_LONGEST_ANSWER = 20_000
#: Times that are meant lie between these years.
_YEARS = (2000, 2200)


def number_or_none(text: str, *, field: str = "") -> float | None:
    """Read a number with a decimal point or comma; None for nothing.

    Raises
    ------
    FormRejected
        It is no number, or one that cannot be meant.

    Examples
    --------
    >>> number_or_none(" 0,4 "), number_or_none("")
    (0.4, None)
    """
    if not text.strip():
        return None
    value = _number(text)
    if value is None or not abs(value) <= _LARGEST:
        raise FormRejected(
            _("number"), _("'{text}' is no number that can be meant", text=text[:20]), _("Type one, such as 0.4"), field
        )
    return value


def number_between(text: str, low: float, high: float, *, where: str, field: str) -> float:
    """Read a number within limits.

    Raises
    ------
    FormRejected
        It is none, or lies outside.

    Examples
    --------
    >>> number_between("2,5", 0, 3, where="marks", field="marks")
    2.5
    """
    value = _number(text)
    if value is None or not low <= value <= high:
        raise FormRejected(
            where,
            _("'{text}' is not from {low:g} to {high:g}", text=text[:20], low=low, high=high),
            _("Type such a number"),
            field,
        )
    return value


def whole_between(text: str, low: int, high: int, *, where: str, field: str) -> int:
    """Read a whole number within limits.

    Raises
    ------
    FormRejected
        It is none, or lies outside.
    """
    value = number_between(text, low, high, where=where, field=field)
    if not value.is_integer():
        raise FormRejected(where, _("'{text}' is no whole number", text=text[:20]), _("Type one"), field)
    return int(value)


def _number(text: str) -> float | None:
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        return None


def moment_or_none(text: str, zone: ZoneInfo, *, field: str) -> datetime | None:
    """Read a time by a class's clock; None for nothing.

    Raises
    ------
    FormRejected
        It is no time, or one that the clocks skip.

    Examples
    --------
    >>> moment_or_none("2026-12-01T00:00", ZoneInfo("Europe/Berlin"), field="due_at").isoformat()
    '2026-12-01T00:00:00+01:00'
    """
    if not text.strip():
        return None
    try:
        typed = datetime.fromisoformat(text.strip()).replace(tzinfo=None)
    except ValueError:
        typed = datetime.min
    if not _YEARS[0] <= typed.year <= _YEARS[1]:
        raise FormRejected(
            _("time"),
            _("'{text}' is no time that can be meant", text=text[:40]),
            _("Give one such as 2026-03-14T12:00"),
            field,
        )
    moment = typed.replace(tzinfo=zone)
    if moment.astimezone(UTC).astimezone(zone).replace(tzinfo=None) != typed:
        day, hour = say_day(typed.date()), say_hour(typed)
        problem = _("on {day} there is no {hour}: the clocks are put forward", day=day, hour=hour)
        raise FormRejected(_("time"), problem, _("Choose an hour earlier or later"), field)
    return moment


async def _typed(request: Request) -> dict[str, list[str]]:
    """Return all that was typed into a form whose fields are not known beforehand."""
    form = await request.form()
    typed: dict[str, list[str]] = {}
    for name, value in form.multi_items():
        if isinstance(value, str):
            if len(value) > _LONGEST_ANSWER:
                raise FormRejected(
                    name[:40],
                    _("it is too long"),
                    _("Use {longest_answer} letters at most", longest_answer=_LONGEST_ANSWER),
                    name,
                )
            typed.setdefault(name, []).append(value)
    return typed


#: By field.
TypedForm = Annotated[dict[str, list[str]], Depends(_typed)]
