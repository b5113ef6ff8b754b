"""The application: pages, static files, the one error handler, the security headers."""

import gc
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse, Response
from fastapi.staticfiles import StaticFiles
from procrastinate import SyncPsycopgConnector
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException

from rigid_bench.core.errors import NotAllowed, NotFound, RigidBenchError, StepTaken
from rigid_bench.jobs.tasks import queue
from rigid_bench.logs import set_up_logs
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.web.access import SignInNeeded, person
from rigid_bench.web.pages import (
    allowances,
    assignment,
    bench,
    bench_out,
    bench_steps,
    card,
    class_log,
    class_table,
    draft,
    draft_checks,
    exercises,
    hand_in,
    health,
    help_page,
    home,
    join,
    marking,
    marks,
    password,
    patterns,
    people,
    room,
    sheet,
    sign_in,
    start,
    trade_tables,
    values,
)
from rigid_bench.web.render import STATIC, page

log = structlog.get_logger()

_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; "
    "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
}
_STATUS: list[tuple[type[RigidBenchError], int]] = [
    (NotAllowed, 403),
    (NotFound, 404),
    (StepTaken, 409),
    (RigidBenchError, 422),
]
_PAGES = (
    health, start, sign_in, join, password, help_page, home, people, class_table, room, class_log, assignment,
    sheet, hand_in, card, marking, marks, patterns, trade_tables,
    allowances, exercises, draft, draft_checks, values, bench, bench_out, bench_steps,
)  # fmt: skip
#: Room for the form's other fields beside the files.
_FORM_BYTES = 100_000


def create_app(settings: Settings) -> FastAPI:
    """Make the application on the database that the settings name."""
    set_up_logs()
    app = FastAPI(title="Rigid Bench", docs_url=None, redoc_url=None, openapi_url=None, lifespan=_lifespan)
    app.state.settings = settings
    app.state.database = Database(settings.database_url)
    app.state.queue = queue(SyncPsycopgConnector(conninfo=settings.database_url))
    for module in _PAGES:
        app.include_router(module.router)
    app.mount("/static", StaticFiles(directory=STATIC), name="static")
    app.middleware("http")(_guard)
    for kind in (RigidBenchError, HTTPException, RequestValidationError, OperationalError, Exception):
        app.add_exception_handler(kind, _show_error)
    return app


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    # what is there now stays: without this, looking through it for garbage halts an answer for a third of a second
    gc.collect()
    gc.freeze()
    yield
    app.state.database.close()


async def _guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
    """Refuse what is too large before it is read, and put the security headers on every answer."""
    response = _refused_for_size(request) or await call_next(request)
    response.headers.update(_HEADERS)
    return response


def _refused_for_size(request: Request) -> Response | None:
    limit = request.app.state.settings.upload_bytes + _FORM_BYTES
    length = request.headers.get("content-length", "")
    if request.method not in ("POST", "PUT", "PATCH"):
        return None
    if not length.isdigit():
        problem = RigidBenchError("upload", "the browser did not say how large it is", "Try another browser")
        return _error_response(request, problem, 411)
    if int(length) > limit:
        megabytes = f"{int(length) / 1e6:.0f} MB, more than the {limit // 1_000_000} MB that are taken"
        problem = RigidBenchError(
            "upload", megabytes, "Hand in just the STEP file and the build file, or a simpler model"
        )
        return _error_response(request, problem, 413)
    return None


def _show_error(request: Request, exc: Exception) -> Response:
    """Turn any error into a page, a fragment or JSON that says where, what and what next."""
    if isinstance(exc, SignInNeeded) and request.method == "GET" and "hx-request" not in request.headers:
        return RedirectResponse(request.url_for("sign_in"), status_code=303)
    error, status = _explained(request, exc)
    return _error_response(request, error, status)


def _explained(request: Request, exc: Exception) -> tuple[RigidBenchError, int]:
    if isinstance(exc, RigidBenchError):
        return exc, next(status for kind, status in _STATUS if isinstance(exc, kind))
    if isinstance(exc, HTTPException):
        where = RigidBenchError("address", exc.detail.lower(), "Go back to your start page and follow a link there")
        return where, exc.status_code
    if isinstance(exc, RequestValidationError):
        return RigidBenchError("form", "a value in it cannot be used", "Go back, check the form and send it again"), 422
    if isinstance(exc, OperationalError):
        log.error("database does not answer", reason=str(exc.orig))
        return RigidBenchError("database", "it does not answer just now", "Wait a moment and load the page again"), 503
    log.error("program fault", path=request.url.path, exc_info=exc)
    return RigidBenchError(
        "program", "something went wrong on our side", "Try again; if it stays, tell whoever runs it"
    ), 500


def _find_person(request: Request) -> None:
    """Look who is signed in, where the error came before that was known, so that the page can say so."""
    if hasattr(request.state, "user"):
        return
    try:
        with request.app.state.database.session() as session:
            person(request, session)
    except OperationalError:
        request.state.user = None


def _error_response(request: Request, error: RigidBenchError, status: int) -> Response:
    if "application/json" in request.headers.get("accept", ""):
        facts = {"where": error.where, "problem": error.problem, "next_step": error.next_step}
        response: Response = JSONResponse(facts, status_code=status)
    else:
        _find_person(request)
        name = "_error.html" if "hx-request" in request.headers else "error.html"
        response = page(request, name, status=status, error=error)
    response.headers.update(_HEADERS)
    return response
