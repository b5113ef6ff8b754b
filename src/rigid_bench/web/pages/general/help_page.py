"""General help: how to get the files out of a modelling program, and what each message means."""

from fastapi import Request
from fastapi.responses import Response

from rigid_bench.core.wording.glossary import GLOSSARY
from rigid_bench.web.figures.glossary import glossary_drawing
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import MaybePerson

router = page_router()


@router.get("/help", name="help_page")
def help_page(request: Request, user: MaybePerson) -> Response:
    """Show the help."""
    return page(request, "help.html", glossary=GLOSSARY, glossary_drawing=glossary_drawing)


@router.get("/help/teachers", name="help_teachers")
def help_teachers(request: Request, user: MaybePerson) -> Response:
    """Show what a teacher does, in the order of a week."""
    return page(request, "help_teachers.html")
