"""The slip table: sample builds with one known slip each, how many were found, named, and named wrongly."""

from collections import Counter

from rigid_bench.demo.graded import exercises, read_graded

_COLUMNS = ("made", "found", "to name", "named", "misnamed")


def main() -> None:
    """Print the table, from the graded sample builds that ship with the program.

    A value that means nothing has no name: such slips are to be found, and not to be named.
    """
    total: Counter[str] = Counter()
    print(f"{'exercise':14} " + " ".join(f"{column:>8}" for column in _COLUMNS))
    for module, graded in zip(exercises(), read_graded(), strict=True):
        counts: Counter[str] = Counter()
        for sample in (sample for sample in module.SAMPLES if sample.falls):
            wanted = dict(sample.falls)
            results = {check["id"]: check for check in graded.samples[sample.name].report["checks"]}
            fallen = {name for name, check in results.items() if check["verdict"] in ("near", "missed")}
            root, code = next(iter(wanted.items()))
            said = (results[root].get("cause") or {}).get("code")
            counts["made"] += 1
            counts["found"] += fallen == set(wanted)
            counts["to name"] += code is not None
            counts["named"] += said is not None and said == code
            counts["misnamed"] += said is not None and said != code
        total += counts
        print(_line(module.__name__.rsplit(".", 1)[-1], counts))
    print(_line("all", total))


def _line(name: str, counts: Counter[str]) -> str:
    return f"{name:14} " + " ".join(f"{counts[column]:8}" for column in _COLUMNS)


if __name__ == "__main__":
    main()
