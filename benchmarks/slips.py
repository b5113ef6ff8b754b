"""The slip table: sample builds with one known slip each, how many were found, named, and named wrongly."""

from collections import defaultdict

from rigid_bench.demo.graded import exercises, read_graded


def main() -> None:
    """Print the table, from the graded sample builds that ship with the program."""
    made: dict[str, int] = defaultdict(int)
    found: dict[str, int] = defaultdict(int)
    named: dict[str, int] = defaultdict(int)
    misnamed: dict[str, int] = defaultdict(int)
    for module, graded in zip(exercises(), read_graded(), strict=True):
        for sample in module.SAMPLES:
            if not sample.falls:
                continue
            exercise = module.__name__.rsplit(".", 1)[-1]
            wanted = dict(sample.falls)
            report = {check["id"]: check for check in graded.samples[sample.name].report["checks"]}
            fallen = {key for key, each in report.items() if each["verdict"] in ("near", "missed")}
            root, code = next(iter(wanted.items()))
            said = (report[root].get("cause") or {}).get("code")
            made[exercise] += 1
            found[exercise] += fallen == set(wanted)
            named[exercise] += said is not None and said == code
            misnamed[exercise] += said is not None and said != code
    print(f"{'exercise':14} {'made':>5} {'found':>6} {'named':>6} {'misnamed':>9}")
    for exercise in made:
        print(f"{exercise:14} {made[exercise]:5} {found[exercise]:6} {named[exercise]:6} {misnamed[exercise]:9}")
    print(
        f"{'all':14} {sum(made.values()):5} {sum(found.values()):6} {sum(named.values()):6} {sum(misnamed.values()):9}"
    )


if __name__ == "__main__":
    main()
