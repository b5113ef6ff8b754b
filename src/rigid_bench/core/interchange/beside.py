"""What travels beside the joints of a description: parts, groups, where coordinates stand, mates that no joint says."""

import json
from collections.abc import Mapping
from typing import Any

from rigid_bench.core.formats.build import MateModel
from rigid_bench.core.interchange.chain import Chain
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.language import N_, _

#: mm and rad that a description's digits may cost.
_ROUNDED_MM, _ROUNDED_RAD = 1e-3, 1e-6
_ADVICE = N_("Convert the build again, or take the element out")


def beside_text(chain: Chain, frames: Mapping[str, Pose] | None = None) -> str:
    """Write it as JSON.

    Parameters
    ----------
    chain
        The build.
    frames
        By link: from the description's frame of the link to the part's own, mm; none where they are one.
    """
    links = {
        link.id: {
            "part": link.part, "grounded": link.grounded, "position": list(map(float, link.pose.position)),
            "quaternion": list(map(float, link.pose.quaternion())), **({"group": link.group} if link.group else {}),
        }
        for link in chain.links
    }  # fmt: skip
    joints = {
        joint.name: [joint.turned, joint.travelled]
        for joint in (*chain.joints, *chain.loops)
        if joint.turned or joint.travelled
    }
    placed = {
        name: [list(map(float, pose.position)), list(map(float, pose.quaternion()))]
        for name, pose in (frames or {}).items()
        if not pose.is_close(Pose.identity(), mm=1e-9, rad=1e-12)
    }
    kept = {"source": chain.source, "links": links, "coordinates": joints, "frames": placed, "mates": chain.mates}
    return json.dumps(kept, ensure_ascii=False)


def kept_pose(text: str | None, link: str, *, name: str) -> Pose:
    """Return where a link's frame stood in the build; at the origin where that is not kept.

    Raises
    ------
    InvalidDocument
        What is kept is not as it was written.
    """
    kept = _kept(text, name)
    own = kept.get("links", {}).get(link)
    if own is None:
        return Pose.identity()
    frame = kept.get("frames", {}).get(link)
    inside = Pose.from_quaternion(*frame) if frame else Pose.identity()
    return Pose.from_quaternion(own["position"], own["quaternion"]) @ inside.inverse()


def _kept(text: str | None, name: str) -> dict[str, Any]:
    try:
        kept = json.loads(text) if text else {}
        return dict(kept)
    except (ValueError, TypeError) as exc:
        raise _wrong(name, exc) from exc


def _wrong(name: str, exc: Exception) -> InvalidDocument:
    return InvalidDocument(
        _("{name}, element rigid_bench", name=name), _("it cannot be read ({exc})", exc=exc), _ADVICE
    )


def take_beside(chain: Chain, text: str | None, *, name: str) -> None:
    """Put back into a chain what travelled beside it.

    Raises
    ------
    InvalidDocument
        It is not as it was written.
    """
    if text is None:
        return
    try:
        kept = _kept(text, name)
        frames = {own: Pose.from_quaternion(*pose) for own, pose in kept["frames"].items()}
        chain.source = str(kept.get("source", ""))
        for link in chain.links:
            own = kept["links"].get(link.id)
            if own is not None:
                link.part, link.grounded, link.group = dict(own["part"]), bool(own["grounded"]), own.get("group")
            if link.id in frames:
                link.pose = link.pose @ frames[link.id]
            if own is not None:
                exact = Pose.from_quaternion(own["position"], own["quaternion"])
                is_as_written = link.pose.is_close(exact, mm=_ROUNDED_MM, rad=_ROUNDED_RAD)
                link.pose = exact if is_as_written else link.pose  # else it was moved since
        for joint in (*chain.joints, *chain.loops):
            joint.turned, joint.travelled = (float(value) for value in kept["coordinates"].get(joint.name, (0, 0)))
        chain.mates += [
            MateModel.model_validate(mate).model_dump(mode="json", exclude_none=True) for mate in kept["mates"]
        ]
        order = {own: number for number, own in enumerate(kept["links"])}
        chain.links.sort(key=lambda link: order.get(link.id, len(order)))
    except (ValueError, TypeError, KeyError, AttributeError) as exc:
        raise _wrong(name, exc) from exc
