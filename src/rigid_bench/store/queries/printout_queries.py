"""What is asked of the database about printouts, by name."""

from datetime import timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.tables import Printout


def start_printout(session: Session, *, class_id: int, version_id: int, maker_id: int, total: int) -> Printout:
    """Begin a printout of so many cards; those of yesterday are forgotten."""
    session.execute(delete(Printout).where(Printout.made_at < func.now() - timedelta(days=1)))
    made = Printout(class_id=class_id, version_id=version_id, maker_id=maker_id, total=total)
    session.add(made)
    session.flush()
    return made


def printout_of(session: Session, printout_id: int, *, maker_id: int) -> Printout:
    """Return a printout of a person's own.

    Raises
    ------
    NotFound
        There is none.
    """
    printout = session.get(Printout, printout_id)
    if printout is None or printout.maker_id != maker_id:
        raise NotFound(_("cards"), _("there is no such printout of yours"), _("Let the cards be drawn anew"))
    return printout


def note_done(session: Session, printout_id: int, done: int) -> None:
    """Keep how many cards are drawn."""
    session.execute(update(Printout).where(Printout.id == printout_id).values(done=done))


def finish_printout(session: Session, printout_id: int, content: bytes) -> None:
    """Keep the PDF."""
    values = {"state": "ready", "content": content, "done": Printout.total}
    session.execute(update(Printout).where(Printout.id == printout_id).values(**values))


def refuse_printout(session: Session, printout_id: int, error: dict[str, str]) -> None:
    """Keep why there is no PDF."""
    session.execute(update(Printout).where(Printout.id == printout_id).values(state="refused", error=error))


def printout_work(session: Session, printout_id: int) -> Printout | None:
    """Return what is to be printed, for the worker; None if it is gone, or done."""
    return session.scalar(select(Printout).where(Printout.id == printout_id, Printout.state == "waiting"))
