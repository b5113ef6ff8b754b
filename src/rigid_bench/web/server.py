"""Run the web server."""

import os
import sys
import tempfile
from typing import Any

import uvicorn
from fastapi import FastAPI

from rigid_bench.core.wording.language import _
from rigid_bench.settings import Settings, settings
from rigid_bench.store.codes import bare_code, new_start_code
from rigid_bench.store.database import Database, check_database, migrate
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.web.app import create_app
from rigid_bench.web.observability.metrics import FOLDER_VARIABLE
from rigid_bench.web.security.passwords import digest

#: Seconds that a connection stays open between two requests.
_KEPT_ALIVE_S = 75


def run_server(*, host: str, port: int) -> None:
    """Bring the database up to date, then serve the application until told to stop.

    Raises
    ------
    DatabaseUnreachable
        There is no database to serve from.
    """
    given = settings()
    check_database(given.database_url)
    migrate(given.database_url)
    if code := start_code(given):
        line = _("Nobody is here yet. Open the start page, and make the first person with this code: {code}", code=code)
        print(line, flush=True)
        print(_("It is shown this once; started again, the server prints another."), file=sys.stderr)
    if host not in ("127.0.0.1", "localhost"):
        line = _("It answers to these names alone: {names} (RIGID_BENCH_ALLOWED_HOSTS).", names=given.allowed_hosts)
        print(line, file=sys.stderr)
    # its own log would repeat what errors say: `set_up_logs` writes both
    options: dict[str, Any] = {
        "host": host,
        "port": port,
        "log_level": "warning",
        "log_config": None,
        "access_log": False,
        # longer than a browser or a proxy keeps one: else it sends on a connection that is just being closed
        "timeout_keep_alive": _KEPT_ALIVE_S,
    }
    options["root_path"] = given.path_prefix
    options["proxy_headers"] = bool(given.trusted_proxies)
    options["forwarded_allow_ips"] = given.trusted_proxies
    if given.web_processes == 1:
        uvicorn.run(create_app(given), **options)
        return
    with tempfile.TemporaryDirectory(prefix="rigid-bench-metrics-") as folder:
        os.environ[FOLDER_VARIABLE] = folder
        uvicorn.run(f"{__name__}:application", factory=True, workers=given.web_processes, **options)


def application() -> FastAPI:
    """Make the application of one of several processes."""
    return create_app(settings())


def start_code(given: Settings) -> str | None:
    """Return a new one-time code for the first start; None where somebody is there."""
    database = Database(given.database_url)
    try:
        with database.session() as session:
            if people_queries.people_exist(session):
                return None
            code = new_start_code()
            account_queries.keep_start_code(session, digest(bare_code(code)))
            return code
    finally:
        database.close()
