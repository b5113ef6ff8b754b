"""Pages from templates: one environment, the session's form token, and the figures."""

import secrets
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from fastapi.templating import Jinja2Templates
from jinja2 import StrictUndefined, pass_context
from jinja2.runtime import Context
from markupsafe import Markup

from rigid_bench.core.formats.message import Message
from rigid_bench.core.formats.model_formats import extensions
from rigid_bench.core.practice.registry import PRACTISED
from rigid_bench.core.wording.doubts import doubt_words
from rigid_bench.core.wording.drawing import section_words
from rigid_bench.core.wording.language import series, translated, translated_number
from rigid_bench.core.wording.manner import PLAIN, Manner
from rigid_bench.core.wording.marking import reason_words, state_words
from rigid_bench.core.wording.notices import said
from rigid_bench.core.wording.quantities import number
from rigid_bench.core.wording.saying import say
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.web.addresses import url_for
from rigid_bench.web.assets import asset
from rigid_bench.web.figures.gauge import gauge_strip
from rigid_bench.web.figures.place import place_svg
from rigid_bench.web.figures.rose import freedom_rose
from rigid_bench.web.figures.views import pointing_svg, view_svg
from rigid_bench.web.security.access import cookie_name, session_token
from rigid_bench.web.security.passwords import form_token, new_token
from rigid_bench.web.words.times import say_day, say_time

#: How the class of the page that is made wants it said.
_MANNER: ContextVar[Manner] = ContextVar("_MANNER", default=PLAIN)  # it does not change
_HERE = Path(__file__).parent
templates = Jinja2Templates(directory=_HERE / "templates")
templates.env.undefined = StrictUndefined
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.filters["section_words"] = section_words
templates.env.globals.update(gauge_strip=gauge_strip, freedom_rose=freedom_rose, view_svg=view_svg, place_svg=place_svg)
templates.env.globals["pointing_svg"] = pointing_svg
templates.env.globals.update(practised=PRACTISED, asset=asset, url_for=url_for)


def _settings_among(values: Mapping[str, Any]) -> ClassSettings | None:
    """Return the settings of the class that a template's values belong to, if they belong to one."""
    own = values.get("settings")
    for name in ("card", "look"):
        own = own or getattr(values.get(name), "settings", None)
    return own if isinstance(own, ClassSettings) else None


@contextmanager
def _in_the_manner_of(values: Mapping[str, Any]) -> Iterator[None]:
    settings = _settings_among(values)
    token = _MANNER.set(settings.manner if settings else PLAIN)
    try:
        yield
    finally:
        _MANNER.reset(token)


def _say(message: Message | None) -> str:
    """Say a message in the manner of the page's class; "" where there is none."""
    return say(message, _MANNER.get()) if message else ""


def _notice(message: Message | str) -> str:
    """Say a notice, after the name of its file; what was kept by an earlier version stands in words already."""
    return message if isinstance(message, str) else said([message], _MANNER.get())[0].text


def _number(value: float, digits: int = 3) -> str:
    """Write a number with the decimal sign of the page's class."""
    return _MANNER.get().point(number(value, digits))


@pass_context
def _gettext(context: Context, text: str, /, **values: Any) -> str:
    """Say a sentence of a template: in the language that is spoken, with the class's words and values in its gaps."""
    return _filled(context, translated(text), values)


@pass_context
def _ngettext(context: Context, one: str, several: str, number_of: float, /, **values: Any) -> str:
    return _filled(context, translated_number(one, several, number_of), {"num": number_of, **values})


def _filled(context: Context, text: str, values: Mapping[str, Any]) -> str:
    sentence = Markup(text) if context.eval_ctx.autoescape else text
    return sentence % {**_MANNER.get().own_words, **values}


def rendered(template: str, /, **values: Any) -> str:
    """Render a template that is no page of its own."""
    with _in_the_manner_of(values):
        return templates.env.get_template(template).render(values)


def back_address(request: Request) -> str:
    """Return where a form came from, if that was a page of ours; else the start page."""
    referer = request.headers.get("referer", "")
    is_ours = referer.startswith(str(request.base_url)) and request.url.path not in referer
    return referer if is_ours else str(request.url_for("home"))


def _once() -> str:
    """Return a token that lets a form be done once."""
    return secrets.token_urlsafe(12)


def _reasons(reasons: Mapping[str, int]) -> str:
    return series(reason_words(reason, count) for reason, count in reasons.items())


templates.env.globals["settings_of"] = lambda classroom: ClassSettings.model_validate(classroom.settings)
templates.env.filters.update(when=say_time, day=say_day, doubt_words=doubt_words)
#: `number` is for people, `digits` for fields and scripts; `t` looks a word up.
templates.env.filters.update(said=_say, notice=_notice, number=_number, digits=number, t=translated)
templates.env.filters.update(state_words=state_words, reason=reason_words, reasons=_reasons)
templates.env.globals.update(back_address=back_address, once=_once, model_endings=extensions)
templates.env.add_extension("jinja2.ext.i18n")
templates.env.policies["ext.i18n.trimmed"] = True
templates.env.newstyle_gettext = True  # type: ignore[attr-defined]  # of the extension
templates.env.globals.update(gettext=_gettext, ngettext=_ngettext, language="en", script_words={})


def page(request: Request, template: str, /, *, status: int = 200, **values: Any) -> HTMLResponse:
    """Render a template with what every page needs.

    A visitor without a session gets a token of its own, so that even the sign-in form is protected.
    """
    token = session_token(request) or new_token()
    shared = {"user": getattr(request.state, "user", None), "csrf": form_token(token)}
    with _in_the_manner_of(values):
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
