"""The scene of a build as it is answered: kept packed, and sent so."""

from fastapi.responses import Response
from sqlalchemy.orm import Session

from rigid_bench.store.tables import Scene


def scene_answer(session: Session, build_id: int) -> Response:
    """Give the scene of a build; one without parts where there is none."""
    kept = session.get(Scene, build_id)
    if kept is None:
        return Response('{"parts": []}', media_type="application/json")
    headers = {"Content-Encoding": "gzip", "Cache-Control": "private, no-store"}
    return Response(kept.content, media_type="application/json", headers=headers)
