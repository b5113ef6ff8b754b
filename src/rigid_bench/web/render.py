"""Pages from templates: one environment, the session's form token, and the figures."""

import re
import secrets
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from fastapi.templating import Jinja2Templates
from jinja2 import StrictUndefined

from rigid_bench.core.formats.model_formats import extensions
from rigid_bench.core.practice.registry import PRACTISED
from rigid_bench.core.wording.doubts import doubt_words
from rigid_bench.core.wording.drawing import section_words
from rigid_bench.core.wording.marking import STATES, reason_words
from rigid_bench.core.wording.quantities import number
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.web.assets import asset
from rigid_bench.web.figures.gauge import gauge_strip
from rigid_bench.web.figures.place import place_svg
from rigid_bench.web.figures.rose import freedom_rose
from rigid_bench.web.figures.views import pointing_svg, view_svg
from rigid_bench.web.security.access import cookie_name, session_token
from rigid_bench.web.security.passwords import form_token, new_token
from rigid_bench.web.times import say_day, say_time

#: A decimal point between digits; a mate or mates, not "mated" or "classmate".
_POINT, _MATE = re.compile(r"(?<=\d)\.(?=\d)"), re.compile(r"\b[Mm]ates?\b")
_HERE = Path(__file__).parent
templates = Jinja2Templates(directory=_HERE / "templates")
templates.env.undefined = StrictUndefined
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.filters["number"] = number
templates.env.filters["section_words"] = section_words
templates.env.globals.update(gauge_strip=gauge_strip, freedom_rose=freedom_rose, view_svg=view_svg, place_svg=place_svg)
templates.env.globals["pointing_svg"] = pointing_svg
templates.env.globals.update(practised=PRACTISED, asset=asset)


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


def back_address(request: Request) -> str:
    """Return where a form came from, if that was a page of ours; else the start page."""
    referer = request.headers.get("referer", "")
    is_ours = referer.startswith(str(request.base_url)) and request.url.path not in referer
    return referer if is_ours else str(request.url_for("home"))


def _once() -> str:
    """Return a token that lets a form be done once."""
    return secrets.token_urlsafe(12)


def _reasons(reasons: Mapping[str, int]) -> str:
    return ", ".join(reason_words(reason, count) for reason, count in reasons.items())


templates.env.globals["settings_of"] = lambda classroom: ClassSettings.model_validate(classroom.settings)
templates.env.filters.update(when=say_time, day=say_day, said=said_in, doubt_words=doubt_words)
templates.env.filters.update(state_words=STATES.__getitem__, reason=reason_words, reasons=_reasons)
templates.env.globals.update(back_address=back_address, once=_once, model_endings=extensions)


def page(request: Request, template: str, /, *, status: int = 200, **values: Any) -> HTMLResponse:
    """Render a template with what every page needs.

    A visitor without a session gets a token of its own, so that even the sign-in form is protected.
    """
    token = session_token(request) or new_token()
    shared = {"user": getattr(request.state, "user", None), "csrf": form_token(token)}
    response = templates.TemplateResponse(request, template, {**shared, **values}, status_code=status)
    response.headers["Cache-Control"] = "no-store"
    if not session_token(request):
        set_session_cookie(request, response, token)
    return response


def set_session_cookie(request: Request, response: Response, token: str) -> None:
    """Put a session's token into the browser, out of reach of scripts and other sites."""
    is_secure = request.url.scheme == "https"
    response.set_cookie(cookie_name(request), token, httponly=True, samesite="lax", secure=is_secure, path="/")


def drop_session_cookie(request: Request, response: Response) -> None:
    """Take a session's token out of the browser, and what it kept of our pages with it."""
    is_secure = request.url.scheme == "https"
    response.delete_cookie(cookie_name(request), httponly=True, samesite="lax", secure=is_secure, path="/")
    response.headers["Clear-Site-Data"] = '"cache"'
