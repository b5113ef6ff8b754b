"""Cards on paper: PDF from a plain print sheet, several to a run."""

import atexit
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from rigid_bench.store.queries import build_queries, people_queries
from rigid_bench.store.tables import Printout
from rigid_bench.web.pages.builds.card_view import CardView, view_card
from rigid_bench.web.render import rendered

if TYPE_CHECKING:
    from weasyprint import CSS, Document
    from weasyprint.text.fonts import FontConfiguration

_STYLES = Path(__file__).parents[1] / "styles" / "print.css"


def card_pdf(cards: Sequence[CardView]) -> bytes:
    """Return cards as one PDF, each on pages of its own."""
    return to_pdf(_cards_page(cards))


def cards_of_exercise(session: Session, printout: Printout, note: Callable[[int], None]) -> bytes:
    """Draw all cards of an exercise as one PDF, by name, for the teacher who asked for it.

    Parameters
    ----------
    note
        Told how many cards are drawn.
    """
    maker = people_queries.user_by_id(session, printout.maker_id)
    user = people_queries.Person(id=maker.id, name=maker.name, role=maker.role)
    builds = build_queries.builds_of_exercise(session, printout.class_id, printout.version_id)
    measured = sorted((build for build in builds if build.runs), key=lambda build: build.student.name)
    drawn: list[Document] = []
    for build in measured:
        drawn.append(_document(_cards_page([view_card(session, build, user)])))
        note(len(drawn))
    pages = [page for document in drawn for page in document.pages]
    pdf: bytes = drawn[0].copy(pages).write_pdf()
    return pdf


def _cards_page(cards: Sequence[CardView]) -> str:
    return rendered("print_cards.html", cards=cards, card=cards[0] if cards else None)


def to_pdf(text: str) -> bytes:
    """Return a page as PDF, by the print sheet; nothing is fetched, all that it shows is in it."""
    pdf: bytes = _document(text).write_pdf()
    return pdf


def _document(text: str) -> "Document":
    from weasyprint import HTML  # 0.4 s and 60 MB that most servers never need

    styles, fonts = _print_sheet()
    return HTML(string=text, url_fetcher=_refuse).render(stylesheets=[styles], font_config=fonts)


@cache
def _print_sheet() -> "tuple[CSS, FontConfiguration]":
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    return CSS(filename=_STYLES, font_config=fonts), fonts


#: The fonts must go before the library that frees them does.
atexit.register(_print_sheet.cache_clear)


def _refuse(address: str) -> dict[str, object]:
    raise ValueError(f"a card fetches nothing, not even {address[:60]}")
