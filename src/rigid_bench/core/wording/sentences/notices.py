"""What was noticed of a file or a build. Where a `file` is among the parameters, it stands before the sentence."""

from rigid_bench.core.wording.language import N_

NOTICES: dict[str, str] = {
    "unit-mixed": N_("The file mixes units of length ({units}); check the sizes."),
    "unit-unknown": N_("The file does not say its unit of length; millimetres were taken."),
    "unit-partly": N_("Part of the file does not say its unit of length; the rest is in {unit}. Check the sizes."),
    "left-out": N_("'{name}' is no body (a sketch, a plane or an open surface) and was left out."),
    "left-out-of": N_("Sketches or open surfaces beside the bodies of '{name}' were left out."),
    "no-volume": N_("'{name}' encloses no volume and was left out. Look for lines of its sketch that cross."),
    "slivers": N_("Slivers of no volume beside the bodies of '{name}' were left out."),
    "instance-mirrored": N_("An instance of '{name}' is mirrored: it is judged as a part of the other hand."),
    "instance-scaled": N_("An instance of '{name}' is {times} times as large: it is judged as a part of that size."),
    "lacking": N_("Some parts lie in {names}: hand in these files, too."),
    "sewn": N_("The surfaces of '{name}' were sewn to closed bodies; what stayed open was left out."),
    "no-solid": N_("'{name}' holds no solid body: close its surfaces and export it again."),
    "is-mesh": N_(
        "'{name}' is a mesh: round walls are measured to the corners of their flats, and threads and free "
        "shapes are not measured on it. Hand in STEP for these."
    ),
    "mesh-unit": N_("A file of type {kind} does not say its unit of length; millimetres were taken."),
    "mesh-unit-found": N_(
        "The mesh files do not say their unit of length; {unit} was taken, for then they are as large as the "
        "exercise asks. If that is wrong, export them in the right unit."
    ),
    "faces-dropped": N_("Double triangles and those without area in '{name}' were left out."),
    "gaps-closed": N_("Gaps of less than 0.01 mm in the skin of '{name}' were closed."),
    "faces-turned": N_("Triangles of '{name}' that looked inward were turned."),
    "left-aside": N_("Not looked at, as nothing is measured on it: {names}."),
    "not-in-build": N_("'{name}' is in {in_file} but not in the build file, so nothing holds it."),
    "stands-elsewhere": N_(
        "'{instance}' stands elsewhere in the STEP file than in the build file; the build file counts."
    ),
    "reference-misses": N_(
        "The exercise's own reference misses '{title}', too ({measured} where {asked} is asked): this is the "
        "exercise's fault, not yours. Tell your teacher."
    ),
    "mate-does-not-hold": N_(
        "{Mate_word} '{mate}' does not hold where the parts stand: it is off by {mm} mm and {degrees}°. Solve"
        " the build again, or delete that {mate_word}."
    ),
    "tie-left-out": N_(
        "'{name}' ties the motions of two joints to each other, which no {mate_word} says: both are read as free."
    ),
    "include-left-out": N_("What '{name}' holds was not read. If there are bodies in it, write them into one file."),
    "mates-confirmed": N_(
        "{confirmed} of {mates} {mates_word} were proposed from where the parts stand and then confirmed: "
        "they were not declared in a modelling program."
    ),
    "mechanism-read": N_("{count} joints that the files themselves declare were read as {mates_word}."),
    "pair-left-out": N_(
        "'{name}' ({kind}) was left out: no {mate_word} says this, or it is not between two of the parts."
    ),
    "names-swapped": N_("'{one}' and '{other}' are swapped: each has the other's shape or name."),
}
