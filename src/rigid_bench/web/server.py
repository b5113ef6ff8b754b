"""Run the web server."""

import uvicorn

from rigid_bench.settings import settings
from rigid_bench.web.app import create_app


def run_server(*, host: str, port: int) -> None:
    """Serve the application until told to stop."""
    uvicorn.run(create_app(settings()), host=host, port=port, log_level="warning", access_log=False)
