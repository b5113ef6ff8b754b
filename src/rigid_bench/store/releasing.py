"""Releasing an exercise: a draft becomes a version that never changes, with the school's classroom values in it."""

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import read_zip, write_zip
from rigid_bench.store.queries import class_queries, exercise_queries
from rigid_bench.store.tables import Draft, ExerciseVersion


def release(session: Session, draft: Draft) -> ExerciseVersion:
    """Keep a draft that was examined as the next version of its exercise."""
    assert draft.bundle is not None
    assert draft.examined is not None
    files = with_allowances(read_zip(draft.bundle, name="draft"), class_queries.allowances(session))
    return keep_version(session, files, draft.examined["prepared"])


def with_allowances(
    files: Mapping[str, bytes], school: Mapping[str, Mapping[str, tuple[float, float]]]
) -> dict[str, bytes]:
    """Write the school's classroom values into an exercise, which may have its own: a version never changes."""
    if not school:
        return dict(files)
    document = json.loads(files["exercise.json"])
    own = document.get("allowances", {})
    document["allowances"] = {process: {**dict(school[process]), **own.get(process, {})} for process in school} | {
        process: values for process, values in own.items() if process not in school
    }
    return {**files, "exercise.json": json.dumps(document, indent=1).encode()}


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
