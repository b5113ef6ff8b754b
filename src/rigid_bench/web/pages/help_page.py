"""General help: how to get the files out of a modelling program, and what each message means."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rigid_bench.web.access import MaybePerson
from rigid_bench.web.render import page

router = APIRouter()


@router.get("/help", name="help_page")
def help_page(request: Request, user: MaybePerson) -> Response:
    """Show the help."""
    return page(request, "help.html")
