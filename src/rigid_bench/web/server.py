"""Run the web server."""

import uvicorn

from rigid_bench.settings import settings
from rigid_bench.store.database import check_database, migrate
from rigid_bench.web.app import create_app


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
    uvicorn.run(create_app(given), host=host, port=port, log_level="warning", access_log=False)
