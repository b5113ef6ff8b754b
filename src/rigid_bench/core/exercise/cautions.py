"""The usual cautions, by how a part is made. They never replace the school's own assessment."""

#: Common practice, no source.
_BY_PROCESS = {
    "printed": "Printing: the nozzle and bed are hot and parts move by themselves; let them cool and stop first.",
    "sawn": "Sawing and drilling: eye protection, work clamped, hands away from the edge, guards in place.",
    "drilled": "Drilling: eye protection, work clamped, hair and sleeves tied back, key out of the chuck.",
    "laser cut": "Laser cutting: lid closed, extraction on, never left alone, only materials that are allowed.",
    "milled": "Milling: eye protection, work clamped, guard closed, stop the spindle before you reach in.",
    "turned": "Turning: eye protection, no loose sleeves, hair or gloves, key out of the chuck, guard closed.",
    "welded": "Welding: screen, gloves, extraction; only with the person in charge.",
    "vacuum formed": "Hot forming: hot sheet and heater; gloves, and let the part cool.",
}
DEFER = (
    "Your school's risk assessment, local rules and the qualified person in charge decide. "
    "Clearances and fits are classroom values; a mark here is no approval for use."
)


def cautions(processes: list[str]) -> list[str]:
    """List the cautions for the processes named, and to whom they defer; empty for models only.

    Examples
    --------
    >>> cautions(["printed", "printed"])[0][:9]
    'Printing:'
    >>> cautions([])
    []
    """
    found = [_BY_PROCESS[each] for each in dict.fromkeys(processes) if each in _BY_PROCESS]
    return [*found, DEFER] if processes else []
