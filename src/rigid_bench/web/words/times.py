"""Times as people read them: by the clock of a class, in one place."""

from datetime import UTC, date, datetime, time
from typing import Literal

from babel import dates

from rigid_bench.core.wording.language import spoken_locale
from rigid_bench.store.class_settings import ClassSettings

Style = Literal["short", "exact", "field", "day", "weekday"]


def say_day(day: date, *, with_year: bool = True) -> str:
    """Say a day.

    Examples
    --------
    >>> say_day(date(2026, 12, 1)), say_day(date(2026, 12, 1), with_year=False)
    ('1 Dec 2026', '1 Dec')
    """
    return _by_custom("yMMMd" if with_year else "MMMd", datetime.combine(day, time(), UTC))


def say_hour(moment: datetime, *, is_exact: bool = False) -> str:
    """Say the hour and the minute of a moment, and the second where it has to be exact."""
    return _by_custom("Hms" if is_exact else "Hm", moment)


def say_time(moment: datetime, settings: ClassSettings, style: Style = "short", *, now: datetime | None = None) -> str:
    """Say a moment by a class's clock.

    Parameters
    ----------
    moment
        Aware of its zone.
    settings
        Of the class, whose time zone counts.
    style
        `short` leaves out what goes without saying: the day of today, this year; `exact` says all, to the second, for
        receipts; `field` is what a form's field takes; `day` is the day alone, `weekday` its name with the time.
    now
        The present; for tests.

    Examples
    --------
    >>> due = datetime(2026, 11, 30, 23, 0, tzinfo=UTC)
    >>> say_time(due, ClassSettings(time_zone="Europe/Berlin"), now=datetime(2026, 11, 2, tzinfo=UTC))
    '1 Dec, 00:00'
    >>> say_time(due, ClassSettings(time_zone="Europe/Berlin"), "field")
    '2026-12-01T00:00'

    The hour that comes twice when the clocks are put back says which one it is:

    >>> say_time(datetime(2026, 10, 25, 0, 30, tzinfo=UTC), ClassSettings(time_zone="Europe/Berlin"), "exact")
    '25 Oct 2026, 02:30:00 CEST'
    """
    local = moment.astimezone(settings.zone)
    if style == "field":
        return local.strftime("%Y-%m-%dT%H:%M")
    if style == "day":
        return say_day(local.date())
    if style == "weekday":
        return _by_custom("EHm", local)
    is_twice = local.replace(fold=1 - local.fold).utcoffset() != local.utcoffset()
    hour = say_hour(local, is_exact=style == "exact") + (f" {local:%Z}" if is_twice else "")
    today = (now or datetime.now(UTC)).astimezone(settings.zone)
    if style == "short" and local.date() == today.date():
        return hour
    day = say_day(local.date(), with_year=style == "exact" or local.year != today.year)
    return str(spoken_locale().datetime_formats["medium"]).format(hour, day)


def _by_custom(fields: str, moment: datetime) -> str:
    """Write the fields of a moment (CLDR's letters: year, month, day, hour) in the order of the language."""
    return dates.format_skeleton(fields, moment, tzinfo=moment.tzinfo, locale=spoken_locale())
