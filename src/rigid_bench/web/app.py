"""The application: pages, static files, the one error handler, the security headers."""

import gc
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from functools import cache
from urllib.parse import urlsplit

import anyio
import structlog
from fastapi import APIRouter, FastAPI, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse, Response
from procrastinate import SyncPsycopgConnector
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.routing import BaseRoute

from rigid_bench.core.values.errors import (
    FormRejected,
    NotAllowed,
    NotFound,
    RigidBenchError,
    StepTaken,
    ToBeConfirmed,
    TooLarge,
    TooManyTries,
)
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.enqueue import open_queue
from rigid_bench.logs import set_up_logs
from rigid_bench.settings import Settings
from rigid_bench.store.database import CONNECTIONS, Database
from rigid_bench.store.files import FileStoreSilent, object_store
from rigid_bench.web.assets import STATIC, Assets
from rigid_bench.web.identity.openid import OpenIdProvider
from rigid_bench.web.observability.metrics import Metrics
from rigid_bench.web.observability.request_log import note_request
from rigid_bench.web.pages.bench import bench, bench_out, bench_steps
from rigid_bench.web.pages.builds import card, confirm_mates, hand_in, home, marking, printout
from rigid_bench.web.pages.classes import (
    allowances,
    assignment,
    calendar,
    class_log,
    class_table,
    insight,
    likeness,
    marks,
    plan,
    room,
    term_report,
    year_end,
)
from rigid_bench.web.pages.exercises import (
    draft,
    draft_checks,
    draft_fields,
    draft_sheet,
    exercises,
    sheet,
    size_changes,
    trade_tables,
    values,
)
from rigid_bench.web.pages.general import health, help_page, patterns
from rigid_bench.web.pages.outside import class_course, course_launch, course_platforms, school_account
from rigid_bench.web.pages.people import (
    account,
    join,
    passkeys,
    password,
    people,
    running,
    school,
    sign_in,
    sign_in_cards,
    start,
    student_list,
)
from rigid_bench.web.pages.practice import class_practice, practice
from rigid_bench.web.rejected_form import field_words, typed_fields
from rigid_bench.web.render import page
from rigid_bench.web.security.access import SentAlready, SignInNeeded, person
from rigid_bench.web.security.headers import headers_for
from rigid_bench.web.security.passwords import hashing_turns
from rigid_bench.web.security.throttle import Throttle
from rigid_bench.web.security.virus_scan import ScannerSilent
from rigid_bench.web.words.languages import speak_on_pages

log = structlog.get_logger()

#: Bytes: shorter answers fit into one packet as they are.
_WORTH_PACKING = 1_000

_STATUS: list[tuple[type[RigidBenchError], int]] = [
    (NotAllowed, 403),
    (NotFound, 404),
    (StepTaken, 409),
    (ToBeConfirmed, 409),
    (TooLarge, 413),
    (TooManyTries, 429),
    (ScannerSilent, 503),
    (FileStoreSilent, 503),
    (RigidBenchError, 422),
]
_PAGES = (
    health, start, sign_in, join, password, account, school, running, help_page, home, people,
    student_list, sign_in_cards, class_table, room, plan, calendar, year_end, term_report, insight, likeness, class_log,
    assignment, sheet, hand_in, confirm_mates, card, marking, marks, printout, patterns, trade_tables, allowances,
    exercises, draft, draft_checks, draft_fields, draft_sheet, values, size_changes, bench, bench_out, bench_steps,
    practice, class_practice, school_account, course_launch, course_platforms, class_course, passkeys,
)  # fmt: skip
#: Pages to which files are handed in: their forms may be as large as the settings let a hand-in be.
_UPLOADS = (hand_in, exercises, year_end)
#: Connections that are left for what takes one beside its request's own.
_SPARE = 6
#: Room for the form's other fields beside the files.
_BESIDE_FILES = 100_000
#: The largest form without such files: where some hundred parts stand, a list of students, a table of values.
_FORM_BYTES = 1_500_000


def create_app(settings: Settings) -> FastAPI:
    """Make the application on the database that the settings name."""
    set_up_logs(as_json=settings.log_format == "json")
    speak_on_pages(settings.language)
    app = FastAPI(
        title="Rigid Bench",
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        lifespan=_lifespan,
        routes=_routes(settings.upload_bytes),
    )
    app.state.settings = settings
    app.state.path_patterns = {}
    app.state.database = Database(settings.database_url, objects=object_store(settings))
    app.state.queue = open_queue(SyncPsycopgConnector(conninfo=settings.database_url))
    app.state.metrics = Metrics(app.state.database, silent_s=4 * settings.heartbeat_seconds)
    app.state.identity_provider = OpenIdProvider(settings) if settings.oidc_issuer else None
    # who waits for a turn holds nothing: a request that waited for a thread with a connection in its hand, while others
    # had a thread and waited for a connection, would stop all of them
    app.state.turns = anyio.CapacityLimiter(CONNECTIONS - _SPARE)
    app.state.hashing, app.state.throttle = hashing_turns(), Throttle(app.state.database)
    app.mount("/static", Assets(directory=STATIC), name="static")
    app.middleware("http")(_guard)
    app.add_middleware(GZipMiddleware, minimum_size=_WORTH_PACKING)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.hosts, www_redirect=False)
    app.middleware("http")(note_request)
    for kind in (RigidBenchError, HTTPException, RequestValidationError, OperationalError, PoolTimeout, Exception):
        app.add_exception_handler(kind, _show_error)
    app.add_exception_handler(SentAlready, _show_done)
    return app


@cache
def _routes(upload_bytes: int) -> list[BaseRoute]:
    """Return the routes of all pages; what the framework works out of them serves all applications of a process."""
    router = APIRouter()
    for module in _PAGES:
        largest = upload_bytes + _BESIDE_FILES if module in _UPLOADS else _FORM_BYTES
        router.include_router(module.router, max_body_size=largest)
    return router.routes


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    # what is there now stays: without this, looking through it for garbage halts an answer for a third of a second
    gc.collect()
    gc.freeze()
    yield
    app.state.database.close()


async def _guard(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
    """Put the security headers on every answer, and our own words on the framework's refusal of what is too large."""
    async with request.app.state.turns:
        response = await call_next(request)
    if response.status_code == 413:
        response = await run_in_threadpool(_refuse_size, request)
    elif response.status_code == 303 and request.method == "POST" and "hx-request" in request.headers:
        # a script cannot follow a redirect to another page: it is told where to go
        response = Response(headers={"HX-Redirect": response.headers["location"], **_cookies(response)})
    response.headers.update(headers_for(request.url, posts_to=getattr(request.state, "posts_to", "")))
    return response


def _cookies(response: Response) -> dict[str, str]:
    return {"set-cookie": response.headers["set-cookie"]} if "set-cookie" in response.headers else {}


def _refuse_size(request: Request) -> Response:
    most = request.app.state.settings.upload_bytes // 1_000_000
    problem = _("it is more than the {most} MB that are taken, or than a form ever has", most=most)
    next_step = _("Hand in just the STEP file and the build file, or a simpler model")
    return _error_response(request, TooLarge(_("upload"), problem, next_step), 413)


def _show_done(request: Request, exc: Exception) -> Response:
    """Go back to where a form stood that is done already; never to another site."""
    address = urlsplit(request.headers.get("referer", ""))
    path = address.path if address.netloc == request.headers.get("host") and address.path else "/"
    return RedirectResponse(f"{path}?{address.query}" if address.query else path, status_code=303)


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
        where = RigidBenchError(
            _("address"), exc.detail.lower(), _("Go back to your start page and follow a link there")
        )
        return where, exc.status_code
    if isinstance(exc, RequestValidationError):
        return _wrong_value(exc), 422
    if isinstance(exc, OperationalError | PoolTimeout):
        log.error("database does not answer", reason=type(getattr(exc, "orig", exc)).__name__)
        return RigidBenchError(
            _("database"), _("it does not answer just now"), _("Wait a moment and load the page again")
        ), 503
    log.error("program fault", path=request.url.path, exc_info=exc)
    return RigidBenchError(
        _("program"), _("something went wrong on our side"), _("Try again; if it stays, tell whoever runs it")
    ), 500


def _wrong_value(exc: RequestValidationError) -> RigidBenchError:
    """Name the field at fault, and say of it what the form's own rules say; never what was typed."""
    first = exc.errors()[0]
    field = str(first["loc"][1]) if len(first["loc"]) > 1 else ""
    words = field_words(field)
    problem = (
        _("it is missing")
        if first["type"] == "missing"
        else _("its value cannot be used: {why}", why=first["msg"].lower())
    )
    return FormRejected(words or "form", problem, _("Check it and send the form again"), field)


def _find_person(request: Request) -> None:
    """Look who is signed in, where the error came before that was known, so that the page can say so."""
    if hasattr(request.state, "user"):
        return
    try:
        with request.app.state.database.session() as session:
            person(request, session)
    except (OperationalError, PoolTimeout):
        request.state.user = None


def _error_response(request: Request, error: RigidBenchError, status: int) -> Response:
    field = getattr(error, "field", "")
    if "application/json" in request.headers.get("accept", ""):
        response: Response = JSONResponse({**error.facts, "field": field}, status_code=status)
    else:
        _find_person(request)
        is_fragment = "hx-request" in request.headers
        name = "_error.html" if is_fragment else "error.html"
        # what was typed is shown again, to be mended and sent: nothing is lost but the files
        typed = typed_fields(request) if status in (409, 422, 429) else []
        response = page(request, name, status=status, error=error, field=field, typed=typed)
    if isinstance(error, TooManyTries):
        response.headers["Retry-After"] = str(error.wait_s)
    response.headers.update(headers_for(request.url))
    return response
