"""The job on a change of sizes: what it touches in its exercise, and in every other that has a part which changes."""

import json
from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.core.exercise.bundle import FILE
from rigid_bench.core.exercise.change_impact.models import ChangedPart, SizeChange
from rigid_bench.core.formats.archive import read_zip
from rigid_bench.jobs import enqueue
from rigid_bench.jobs.graded import Impact
from rigid_bench.jobs.job import Job, Tools
from rigid_bench.store.queries import draft_queries


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeWork:
    """A change as it was read."""

    #: The version whose sizes change.
    version_id: int
    changes: list[SizeChange]
    #: Bundles of the newest versions of all exercises, by version; that of the change's own among them.
    bundles: dict[int, bytes]


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowChange(Job[ChangeWork, dict[int, Impact]]):
    """Say what a change of sizes touches, and draft the next version of every exercise that it does."""

    change_id: int
    NAME = enqueue.CHANGE

    def load(self, session: Session) -> ChangeWork | None:
        """Take the change, with the exercises that it may touch."""
        change = draft_queries.waiting_change(session, self.change_id)
        if change is None:
            return None
        return ChangeWork(
            version_id=change.version_id,
            changes=[SizeChange.model_validate(own) for own in change.sizes],
            bundles=draft_queries.newest_bundles(session, change.version_id),
        )

    def run(self, work: ChangeWork, tools: Tools) -> dict[int, Impact]:
        """Return what it touches, by version: its own exercise first."""
        files = {version: dict(read_zip(bundle, name=FILE)) for version, bundle in work.bundles.items()}
        own: Impact = tools.sandbox.run(
            "changing.change_exercise", files[work.version_id], work.changes, name="the change"
        )
        changed = {work.version_id: own}
        for version, others in files.items():
            if version != work.version_id and (parts := _same_parts(others, own.parts)):
                changed[version] = tools.sandbox.run("changing.take_changed_parts", others, parts, name="the change")
        return changed

    def keep(self, session: Session, work: ChangeWork, result: dict[int, Impact]) -> None:
        """Keep what it touches and the drafts."""
        kept = [
            {
                "version": version,
                "parts": sorted(impact.parts),
                "joined": impact.joined,
                "checks": [check.model_dump(mode="json") for check in impact.checks],
            }
            for version, impact in result.items()
        ]
        drafts = {
            version: (impact.files, impact.examined.model_dump(mode="json")) for version, impact in result.items()
        }
        draft_queries.keep_change(session, self.change_id, touched=kept, drafts=drafts)

    def refuse(self, session: Session, work: ChangeWork | None, error: Mapping[str, str]) -> None:
        """Keep why it cannot be made."""
        draft_queries.refuse_change(session, self.change_id, dict(error))


def _same_parts(files: Mapping[str, bytes], changed: Mapping[str, ChangedPart]) -> dict[str, ChangedPart]:
    """Return the parts of an exercise whose model is one that has changed, by their ids there."""
    before = {part.before: part for part in changed.values()}
    parts = json.loads(files[FILE])["parts"]
    return {
        part["id"]: before[files[part["file"]]]
        for part in parts
        if part.get("file") in files and files[part["file"]] in before
    }
