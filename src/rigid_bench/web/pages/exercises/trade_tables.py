"""The tables of the trade, one at a time: threads, screws, fits, bearings, materials, with their sources; searched."""

from typing import Annotated

from fastapi import Query, Request
from fastapi.responses import Response

from rigid_bench.core.standards.tables import all_tables
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import SignedIn

router = page_router("/tables")


@router.get("")
def trade_tables(request: Request, user: SignedIn, q: Annotated[str, Query(max_length=100)] = "") -> Response:
    """Show which tables there are, or the rows in which the words stand; to a search as it is typed, these alone."""
    words = q.split()
    tables = all_tables()
    matching = [(table, rows) for table in tables if (rows := table.matching(words))] if words else []
    is_fragment = request.headers.get("HX-Request") == "true"
    template = "_trade_tables_found.html" if is_fragment else "trade_tables.html"
    return page(
        request, template, tables=tables, found=matching, q=q, count=sum(len(rows) for _, rows in matching), chosen=None
    )


@router.get("/{name}")
def trade_table(request: Request, user: SignedIn, name: str) -> Response:
    """Show one table."""
    tables = all_tables()
    chosen = next((table for table in tables if table.id == name), None)
    if chosen is None:
        raise NotFound(_("tables"), _("there is no table '{name}'", name=name[:40]), _("Choose one from the list"))
    shown = [(chosen, chosen.rows)]
    return page(
        request, "trade_tables.html", tables=tables, found=shown, q="", count=len(chosen.rows), chosen=chosen.id
    )
