"""What every route does before its page: refuse who is not signed in unread, and take out of texts what no text has."""

import re
from collections.abc import Callable, Coroutine, Iterator
from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.dependencies.models import Dependant
from fastapi.responses import Response
from fastapi.routing import APIRoute
from starlette.datastructures import FormData, UploadFile
from starlette.exceptions import HTTPException

from rigid_bench.core.values.errors import NotFound, RigidBenchError
from rigid_bench.core.wording.language import _
from rigid_bench.web.security.access import require_signed_in, signed_in
from rigid_bench.web.security.virus_scan import check_clean

#: Control characters other than tabs and ends of lines, and halves of surrogate pairs: no database keeps them.
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")


def clean(text: str) -> str:
    """Take out of a text what no text has.

    Examples
    --------
    >>> clean("Bore" + chr(0) + " 8")
    'Bore 8'
    """
    return _NO_TEXT.sub("", text)


class _CleanRequest(Request):
    """A request whose form holds clean texts."""

    async def _get_form(self, **limits: Any) -> FormData:
        if self._form is None:
            given = await super()._get_form(**limits)
            if scanner := self.app.state.settings.virus_scanner:
                await _check_clean(scanner, given)
            self._form = FormData(
                [
                    (clean(name), clean(value) if isinstance(value, str) else value)
                    for name, value in given.multi_items()
                ]
            )
            # an error's page shows again what was typed
            self.state.typed = [(name, value) for name, value in self._form.multi_items() if isinstance(value, str)]
        return self._form


async def _check_clean(scanner: str, form: FormData) -> None:
    """Show all files of a form to the scanner; a form of which one is refused is closed with all its files."""
    try:
        for _, value in form.multi_items():
            if isinstance(value, UploadFile):
                await run_in_threadpool(check_clean, scanner, value.filename or "file", value.file)
    except RigidBenchError:
        await form.close()
        raise


class PageRoute(APIRoute):
    """A route of ours: whoever must be signed in is, before anything that was sent is read."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """Return the handler, with what comes before it."""
        handle = super().get_route_handler()
        is_private = signed_in in _calls(self.dependant)

        async def checked(request: Request) -> Response:
            _check_address(request)
            if request.method in ("GET", "HEAD"):
                return await handle(request)
            if is_private:
                await run_in_threadpool(require_signed_in, request)
            try:
                return await handle(_CleanRequest(request.scope, request.receive))
            except HTTPException as exc:
                # what is refused while a form is read reaches us as a form that cannot be read
                raise exc.__cause__ if isinstance(exc.__cause__, RigidBenchError) else exc from None

        return checked


def _calls(dependant: Dependant) -> Iterator[object]:
    yield dependant.call
    for needed in dependant.dependencies:
        yield from _calls(needed)


def _check_address(request: Request) -> None:
    values = [*request.path_params.values(), *(value for _unused, value in request.query_params.multi_items())]
    if any(isinstance(value, str) and _NO_TEXT.search(value) for value in values):
        raise NotFound(
            _("address"), _("it holds a character that no address has"), _("Follow a link instead of typing it")
        )


def page_router(prefix: str = "") -> APIRouter:
    """Return a router for pages."""
    return APIRouter(prefix=prefix, route_class=PageRoute)
