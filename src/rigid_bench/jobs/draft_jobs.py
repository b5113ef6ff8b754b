"""The job on a draft of an exercise: make an exercise of a model, and say what is found of it."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.core.drawing.audit.kept_equations import KeptEquations
from rigid_bench.core.exercise.authoring.from_table import from_table
from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.exercise.review.examined import Examined
from rigid_bench.core.formats.archive import is_zip, read_zip
from rigid_bench.jobs import enqueue
from rigid_bench.jobs.job import Job, Tools
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import Draft


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftWork:
    """A draft as it was read."""

    name: str
    title: str
    source: bytes
    #: The files of its bundle; none before an exercise was made of the source.
    bundle: Mapping[str, bytes]
    #: As it was read; a draft that was changed meanwhile has another.
    revision: int
    #: Of the files of which the draft's scene was drawn; "" without one.
    scene_digest: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ExaminedDraft:
    """What was found of a draft."""

    files: dict[str, bytes]
    examined: Examined
    #: By part.
    equations: Mapping[str, KeptEquations]
    scene_digest: str
    #: None where the one that is kept still holds, or there is no assembly.
    scene: bytes | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ExamineDraft(Job[DraftWork, ExaminedDraft]):
    """Make an exercise of a teacher's model, if it is none yet, and examine it."""

    draft_id: int
    NAME = enqueue.DRAFT

    def load(self, session: Session) -> DraftWork | None:
        """Take the draft as it stands."""
        draft = draft_queries.draft_work(session, self.draft_id)
        if draft is None:
            return None
        return DraftWork(
            name=draft.source_name,
            title=draft.title,
            source=draft.source_file.read(),
            bundle=draft_queries.bundle_of(draft),
            revision=draft.revision,
            scene_digest=draft.scene_digest,
        )

    def run(self, work: DraftWork, tools: Tools) -> ExaminedDraft:
        """Return the bundle's files and what is found of them; the scene only where the model is another."""
        files = dict(work.bundle) or _proposed(work, tools.sandbox)
        examined = tools.sandbox.run("authoring.examine_exercise", files, name=work.name)
        equations = tools.sandbox.run("authoring.size_equations", files, examined.offered, name=work.name)
        digest = _model_digest(files)
        is_known = digest == work.scene_digest
        scene = None if is_known else tools.sandbox.run("authoring.draw_scene", files, name=work.name)
        return ExaminedDraft(files=files, examined=examined, equations=equations, scene_digest=digest, scene=scene)

    def keep(self, session: Session, work: DraftWork, result: ExaminedDraft) -> None:
        """Keep it, unless the draft was changed meanwhile: a newer job reads it as it is then."""
        if draft_queries.is_as_read(session, self.draft_id, work.revision):
            draft = session.get_one(Draft, self.draft_id)
            if not work.bundle and draft.document is None:
                draft_queries.keep_bundle(session, draft, result.files)
            equations = {part: own.model_dump(mode="json") for part, own in result.equations.items()}
            draft_queries.keep_examined(session, draft, result.examined.model_dump(mode="json"), equations)
            if result.scene_digest != work.scene_digest:
                draft_queries.keep_scene(session, self.draft_id, digest=result.scene_digest, scene=result.scene)

    def refuse(self, session: Session, work: DraftWork | None, error: Mapping[str, str]) -> None:
        """Keep why it could not be examined, likewise."""
        if work is None or draft_queries.is_as_read(session, self.draft_id, work.revision):
            draft_queries.refuse_draft(session, self.draft_id, dict(error))


def _model_digest(files: Mapping[str, bytes]) -> str:
    """Return a digest of a bundle's model: all of its files but what it asks."""
    digest = hashlib.sha256()
    for name, data in sorted(files.items()):
        if name != FILE:
            digest.update(name.encode() + b"\0" + hashlib.sha256(data).digest())
    return digest.hexdigest()


def _proposed(work: DraftWork, sandbox: Sandbox) -> dict[str, bytes]:
    """Return the files of a bundle, of a table of values, or of an exercise that is proposed for a model."""
    if is_zip(work.source):
        return dict(read_zip(work.source, name=work.name))
    if work.name.lower().endswith(".csv"):
        return from_table(work.source, name=work.name, title=work.title)
    files: dict[str, bytes] = sandbox.run(
        "authoring.propose_exercise", work.source, work.name, work.title, name=work.name
    )
    return files
