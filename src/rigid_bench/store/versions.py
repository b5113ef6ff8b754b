"""Keeps released exercises: a version never changes."""

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import write_zip
from rigid_bench.store.queries import exercise_queries
from rigid_bench.store.tables import ExerciseVersion


def keep_version(session: Session, files: Mapping[str, bytes], prepared: dict[str, Any]) -> ExerciseVersion:
    """Keep an exercise that was prepared as a version; the same bundle again is the version that it was."""
    document = json.loads(files["exercise.json"])
    content = hashlib.sha256(b"".join(name.encode() + files[name] for name in sorted(files)))
    return exercise_queries.add_version(
        session,
        exercise=document["id"],
        title=document["title"],
        digest=content.hexdigest(),
        bundle=write_zip(files),
        document=document,
        prepared=prepared,
    )
