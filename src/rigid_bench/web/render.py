"""Pages from templates: one environment, the session's form token, and the figures."""

import re
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from fastapi.templating import Jinja2Templates
from jinja2 import StrictUndefined

from rigid_bench.core.grading.wording import number
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.web.access import COOKIE
from rigid_bench.web.figures.gauge import gauge_strip
from rigid_bench.web.figures.place import place_svg
from rigid_bench.web.figures.rose import freedom_rose
from rigid_bench.web.figures.views import pointing_svg, view_svg
from rigid_bench.web.passwords import form_token, new_token

#: A decimal point between digits; a mate or mates, not "mated" or "classmate".
_POINT, _MATE = re.compile(r"(?<=\d)\.(?=\d)"), re.compile(r"\b[Mm]ates?\b")
_HERE = Path(__file__).parent
STATIC = _HERE / "static"
templates = Jinja2Templates(directory=_HERE / "templates")
templates.env.undefined = StrictUndefined
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.filters["number"] = number
templates.env.globals.update(gauge_strip=gauge_strip, freedom_rose=freedom_rose, view_svg=view_svg, place_svg=place_svg)
templates.env.globals["pointing_svg"] = pointing_svg


def _when(moment: datetime) -> str:
    """Say a moment in short: today by the clock, else with the day."""
    local = moment.astimezone()
    is_today = local.date() == datetime.now(UTC).astimezone().date()
    return local.strftime("%H:%M" if is_today else "%-d %b, %H:%M")


def _moment(moment: datetime, settings: ClassSettings) -> str:
    """Say a moment by the class's own clock, to the second: for receipts."""
    return moment.astimezone(settings.zone).strftime("%-d %b %Y, %H:%M:%S")


def said_in(text: str, settings: ClassSettings | None) -> str:
    """Say a text of the grader in the class's own way: its decimal sign, its word for mate."""
    if settings is None:
        return text
    if settings.decimal == "comma":
        text = _POINT.sub(",", text)
    if settings.mate_word != "mate":
        text = _MATE.sub(lambda found: _like(found[0], settings.mate_word), text)
    return text


def _like(word: str, own: str) -> str:
    plural = "s" if word.endswith("s") else ""
    return (own.capitalize() if word[0].isupper() else own) + plural


templates.env.filters.update(when=_when, moment=_moment, said=said_in)


def page(request: Request, template: str, /, *, status: int = 200, **values: Any) -> HTMLResponse:
    """Render a template with what every page needs.

    A visitor without a session gets a token of its own, so that even the sign-in form is protected.
    """
    token = request.cookies.get(COOKIE) or new_token()
    shared = {"user": getattr(request.state, "user", None), "csrf": form_token(token)}
    response = templates.TemplateResponse(request, template, {**shared, **values}, status_code=status)
    response.headers["Cache-Control"] = "no-store"
    if COOKIE not in request.cookies:
        set_session_cookie(request, response, token)
    return response


def set_session_cookie(request: Request, response: Response, token: str) -> None:
    """Put a session's token into the browser, out of reach of scripts and other sites."""
    response.set_cookie(COOKIE, token, httponly=True, samesite="lax", secure=request.url.scheme == "https", path="/")
