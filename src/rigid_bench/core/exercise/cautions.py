"""The usual cautions, by how a part is made and what the thing does. They never replace the school's own assessment."""

from rigid_bench.core.wording.language import N_, translated

#: Common practice, no source.
_BY_PROCESS = {
    "printed": N_("Printing: the nozzle and bed are hot and parts move by themselves; let them cool and stop first."),
    "sawn": N_("Sawing and drilling: eye protection, work clamped, hands away from the edge, guards in place."),
    "drilled": N_("Drilling: eye protection, work clamped, hair and sleeves tied back, key out of the chuck."),
    "laser cut": N_("Laser cutting: lid closed, extraction on, never left alone, only materials that are allowed."),
    "milled": N_("Milling: eye protection, work clamped, guard closed, stop the spindle before you reach in."),
    "turned": N_("Turning: eye protection, no loose sleeves, hair or gloves, key out of the chuck, guard closed."),
    "welded": N_("Welding: screen, gloves, extraction; only with the person in charge."),
    "vacuum formed": N_("Hot forming: hot sheet and heater; gloves, and let the part cool."),
}
#: What the finished thing does or holds; common practice, no source.
USES = {
    "turning parts": N_("Turning parts: keep fingers, hair and sleeves away; fix them well, and stop them first."),
    "nips": N_(
        "Nips: fingers can be caught where parts close or run on each other; keep them out, or cover the place."
    ),
    "thrown parts": N_("Thrown parts: eye protection, nobody in the line of fire, and a stop for what flies."),
    "springs": N_("Springs: a loaded spring jumps out; eye protection, and let it down before you take it apart."),
    "magnets": N_("Magnets: strong ones pinch, and swallowed ones injure badly; keep small ones away from children."),
    "mains": N_("Mains: nothing that you build is joined to the mains; use a low-voltage supply that is approved."),
    "batteries": N_("Batteries: no short circuits, no damaged cells, charge only as their maker says."),
    "loads": N_("Loads: it is not proved to carry any; try it low, with nothing and nobody under it."),
    "people carried": N_("People: a model is no proof that it carries anyone. Nobody stands, sits or hangs on it."),
    "sharp edges": N_("Sharp edges: break them with a file before anybody takes the part in hand."),
}
DEFER = N_(
    "Your school's risk assessment, local rules and the qualified person in charge decide. "
    "Clearances and fits are classroom values; a mark here is no approval for use."
)


def cautions(processes: list[str], uses: list[str] | None = None) -> list[str]:
    """List the cautions for the processes and uses named, and to whom they defer; empty for models only.

    Examples
    --------
    >>> cautions(["printed", "printed"])[0][:9]
    'Printing:'
    >>> cautions([], ["springs"])[0][:8]
    'Springs:'
    >>> cautions([])
    []
    """
    said = [translated(_BY_PROCESS[process]) for process in dict.fromkeys(processes) if process in _BY_PROCESS]
    said += [translated(USES[use]) for use in dict.fromkeys(uses or []) if use in USES]
    return [*said, translated(DEFER)] if processes or said else []
