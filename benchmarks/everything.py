"""All benchmarks, one after the other, into one table: `docs/benchmarks.md`, with the machine's reference figure.

The reference is a plain loop that counts to ten million: figures in seconds of two machines are compared by it. The
soak, which takes half an hour, and the school hour, which needs Locust, are left out.

`python -m benchmarks.everything [NAME ...]` runs some of them.
"""

import os
import platform
import subprocess
import sys
import time
from pathlib import Path

_FOLDER = Path(__file__).parent
_TABLE = _FOLDER.parent / "docs" / "benchmarks.md"
#: No benchmark itself, or too long for a table.
_LEFT_OUT = {
    "__init__", "drawn", "everything", "generated_parts", "load", "locustfile", "school", "sized_parts", "soak",
    "stand",
}  # fmt: skip
_LONGEST_S = 900
_COUNT = 10_000_000


def reference_s() -> float:
    """Return how long a loop of ten million steps takes here, seconds: the least of three."""
    times = []
    for _ in range(3):
        started = time.perf_counter()
        total = 0
        for number in range(_COUNT):
            total += number
        times.append(time.perf_counter() - started)
    return min(times)


def run(name: str) -> str:
    """Return what a benchmark prints, below its first sentence."""
    code = (_FOLDER / f"{name}.py").read_text()
    about = code.split('"""')[1].split("\n")[0]
    command = [sys.executable, "-m", f"benchmarks.{name}"]
    started = time.perf_counter()
    try:
        done = subprocess.run(command, capture_output=True, text=True, timeout=_LONGEST_S, check=False)
        printed = done.stdout.rstrip() if done.returncode == 0 else f"ended with {done.returncode}"
    except subprocess.TimeoutExpired:
        printed = f"took more than {_LONGEST_S} s"
    took = time.perf_counter() - started
    reference = reference_s()
    print(f"{name}: {took:.0f} s", flush=True)
    return f"## {name}\n\n{about}\n\n```\n{printed}\n```\n\n{took:.0f} s in all; reference figure {reference:.2f} s.\n"


def main() -> None:
    """Run them and write the table."""
    names = sys.argv[1:] or sorted(path.stem for path in _FOLDER.glob("*.py") if path.stem not in _LEFT_OUT)
    head = (
        "# Benchmarks\n\n`make bench` writes this page. Each benchmark says in its first lines what is in numerator "
        "and denominator.\n\n"
        f"Machine: {os.cpu_count()} processors, Python {platform.python_version()}. The reference figure is a loop "
        "that counts to ten million, run after each.\n\n"
    )
    # those that are not run now stay as they are
    known = {
        text.split("\n", 1)[0]: f"## {text.strip()}\n" for text in _TABLE.read_text(encoding="utf-8").split("\n## ")[1:]
    }
    sections = known | {name: run(name) for name in names}
    _TABLE.write_text(head + "\n".join(sections[name] for name in sorted(sections)), encoding="utf-8")


if __name__ == "__main__":
    main()
