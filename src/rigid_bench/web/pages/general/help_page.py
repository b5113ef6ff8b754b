"""General help: how to get the files out of a modelling program, and what each message means."""

from fastapi import Request
from fastapi.responses import Response

from rigid_bench.core.assembly.mates.registry import KINDS
from rigid_bench.core.formats.mate_table import HEADS, write_template
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


#: Kinds that join faces and axes: what a point can name. Joints between frames need a build file.
_TABLE_KINDS = {
    name: kind
    for name, kind in KINDS.items()
    if any("frame" not in pair and "point" not in pair for pair in kind.rules)
}


@router.get("/help/mates-as-a-table", name="mates_help")
def mates_help(request: Request, user: MaybePerson) -> Response:
    """Say how mates are handed in as a table."""
    return page(request, "mates_help.html", kinds=_TABLE_KINDS, heads=HEADS)


@router.get("/help/mates-template.csv", name="mates_template")
def mates_template(user: MaybePerson) -> Response:
    """Give a table with a line for each kind, to be filled in."""
    headers = {"Content-Disposition": 'attachment; filename="mates.csv"'}
    return Response(write_template(_TABLE_KINDS), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/help/teachers", name="help_teachers")
def help_teachers(request: Request, user: MaybePerson) -> Response:
    """Show what a teacher does, in the order of a week."""
    return page(request, "help_teachers.html")
