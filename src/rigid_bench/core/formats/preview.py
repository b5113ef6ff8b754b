"""What was understood of a submission, as it is kept and shown. Loads no kernel."""

import json
from collections.abc import Collection
from typing import Literal

from rigid_bench.core.formats.build import BuildModel, MateModel
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, OnceSentence
from rigid_bench.core.formats.pictures import PictureModel, ViewModel


class PartUnderstood(Document):
    """A part of the submission, and what it was taken for."""

    name: str
    #: The required part's name; None for one that the exercise does not ask for.
    taken_for: str | None
    #: How often it stands in the build, and how often it should; None for a part that is not asked for.
    count: int
    wanted: int | None
    #: mm
    sizes: list[float]
    #: Such as "4 × hole Ø8, through".
    features: list[OnceSentence]
    is_mesh: bool
    #: How it looks, only what is seen; None for a mesh or a part without a shape.
    picture: ViewModel | None = None


class Doubt(Document):
    """What is so far off that it is said first."""

    code: Literal["other-exercise", "other-unit", "lone-part"]
    #: So many times as large as asked, of `other-unit`; so many parts asked, of the others.
    number: float


class Proposal(Document):
    """A mate, or a base, that the places of the parts show: the student says whether it is so."""

    said: Message
    picture: PictureModel
    #: One of these two: the mate, or the id of the instance that would be grounded.
    mate: MateModel | None = None
    grounds: str | None = None
    #: What is proposed where this one is refused.
    instead: "Proposal | None" = None


class ProposedBuild(Document):
    """What was handed in as a build without mates, and what could hold it."""

    build: BuildModel
    proposals: list[Proposal]
    #: Motions that no proposal takes away though the exercise does not ask for them.
    too_many: int = 0

    def confirmed(self, numbers: Collection[int], instead: Collection[int] = ()) -> bytes:
        """Write the build file with the proposals that were confirmed, by their places from 0.

        Of those in `instead`, too, what was proposed where they were refused.

        Examples
        --------
        >>> one = BuildModel(format="rigid-bench/build", instances=[{"id": "lid-1", "part": "lid"}])
        >>> b'"mates": []' in ProposedBuild(build=one, proposals=[]).confirmed([])
        True
        """
        chosen = [proposal for k, proposal in enumerate(self.proposals) if k in numbers]
        chosen += [other for k, own in enumerate(self.proposals) if k in instead and (other := own.instead)]
        grounded = {proposal.grounds for proposal in chosen}
        instances = [
            instance.model_copy(update={"grounded": instance.id in grounded}) for instance in self.build.instances
        ]
        mates = [proposal.mate for proposal in chosen if proposal.mate]
        build = self.build.model_copy(update={"instances": instances, "mates": mates})
        return json.dumps(build.model_dump(mode="json", exclude_none=True), indent=1, ensure_ascii=False).encode()


class Preview(Document):
    """What was understood of a submission."""

    #: Each unit of length that the files are in.
    units: list[str]
    parts: list[PartUnderstood]
    instances: int
    #: Names of required parts that were not found, and how many of each are missing.
    missing: dict[str, int]
    #: Of the build file: its mates, and what it grounds; None without one.
    mates: int | None
    grounded: list[str]
    #: What the parts show of their relations where they stand, such as "faces meet: Lid and Box".
    relations: list[OnceSentence] = []
    #: A second export, after dragging, was handed in too.
    has_moved: bool = False
    #: The sentences of `notices`.
    warnings: list[str]
    notices: list[Message] = []
    #: Of older looks, None.
    doubt: Doubt | None = None
    #: None where there are mates, or nothing to propose.
    proposed: ProposedBuild | None = None
