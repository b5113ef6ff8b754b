"""The job that draws all cards of an exercise as one PDF."""

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.jobs import enqueue
from rigid_bench.jobs.job import Job, Tools
from rigid_bench.store.queries import printout_queries


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintCards(Job[int, bytes]):
    """Draw all cards of an exercise."""

    printout_id: int
    NAME = enqueue.PRINT

    def load(self, session: Session) -> int | None:
        """Return the printout's id, if it still waits."""
        printout = printout_queries.printout_work(session, self.printout_id)
        return printout.id if printout else None

    def run(self, work: int, tools: Tools) -> bytes:
        """Draw the cards from what the database holds, and note how many are drawn."""
        assert tools.print_cards is not None

        def note(done: int) -> None:
            with tools.database.session() as noting:
                printout_queries.note_done(noting, self.printout_id, done)

        with tools.database.session() as session:
            printout = printout_queries.printout_work(session, work)
            return tools.print_cards(session, printout, note) if printout else b""

    def keep(self, session: Session, work: int, result: bytes) -> None:
        """Keep the PDF."""
        printout_queries.finish_printout(session, self.printout_id, result)

    def refuse(self, session: Session, work: int | None, error: Mapping[str, str]) -> None:
        """Keep why there is none."""
        printout_queries.refuse_printout(session, self.printout_id, dict(error))
