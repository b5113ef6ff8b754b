"""How many workers keep the 95th percentile from file to card under 30 s: measured times put into a simulated queue.

The times of looking at a build and of grading it are measured here, on the sample builds. Then schools hand in about
noon, each student within some minutes, every build is looked at and then graded, and the workers take jobs as they come
(M/G/c with a peak, simulated with SimPy). The pattern of a school's noon is an assumption, and printed.
"""

import argparse
import random
import statistics
import time
from collections.abc import Generator
from typing import Any

import numpy as np
import simpy

from rigid_bench.demo.graded import read_graded
from rigid_bench.jobs.sandbox import Sandbox

_WANTED_S, _PERCENTILE = 30.0, 95
#: At one school: students who hand in about noon, and over how many minutes, most of them at the end (triangular).
_STUDENTS, _MINUTES = 60, 20.0
_SCHOOLS = (1, 10, 100, 1_000, 10_000)
#: Schools beyond this many are simulated as this many, with as many workers fewer: waits fall with size.
_MOST_SIMULATED = 1_000
_SAMPLES = (
    (0, ("jig-right", "jig-faceted")),
    (1, ("right", "too-wide")),
    (2, ("bin-joint-short",)),
    (3, ("mast-right",)),
)


def service_times() -> list[tuple[float, float]]:
    """Measure how long looking at each sample build and grading it takes a warm worker, seconds."""
    graded, rows = read_graded(), []
    with Sandbox() as sandbox:
        sandbox.wake()
        for place, names in _SAMPLES:
            bundle = dict(graded[place].bundle)
            for name in names:
                files = dict(graded[place].samples[name].files)
                times = []
                for task in ("grading.preview_files", "grading.grade_files"):
                    sandbox.run(task, bundle, files, name=name)
                    began = time.perf_counter()
                    sandbox.run(task, bundle, files, name=name)
                    times.append(time.perf_counter() - began)
                rows.append((times[0], times[1]))
    return rows


def waits(times: list[tuple[float, float]], *, schools: int, workers: int, seed: int = 1) -> list[float]:
    """Simulate a noon; return how long each build took from file to card, seconds."""
    chance, queue = random.Random(seed), simpy.Environment()
    pool, waits = simpy.Resource(queue, capacity=workers), []

    def build(at: float) -> Generator[Any, Any, None]:
        yield queue.timeout(at)
        began = queue.now
        for seconds in chance.choice(times):
            with pool.request() as turn:
                yield turn
                yield queue.timeout(seconds)
        waits.append(queue.now - began)

    for _ in range(schools * _STUDENTS):
        queue.process(build(chance.triangular(0, 60 * _MINUTES, 60 * _MINUTES)))
    queue.run()
    return waits


def workers_for(times: list[tuple[float, float]], schools: int) -> tuple[int, float]:
    """Return the fewest workers that keep the percentile, and what it is then."""
    low, high = 0, 1
    while _of(waits(times, schools=schools, workers=high)) > _WANTED_S:
        low, high = high, 2 * high
    while high - low > max(1, high // 50):
        middle = (low + high) // 2
        if _of(waits(times, schools=schools, workers=middle)) > _WANTED_S:
            low = middle
        else:
            high = middle
    return high, _of(waits(times, schools=schools, workers=high))


def _of(seconds: list[float]) -> float:
    return float(np.percentile(seconds, _PERCENTILE))


def main(most: int) -> None:
    """Print the workers for each number of schools."""
    times = service_times()
    both = [look + grade for look, grade in times]
    range_text = f"{statistics.mean(both):.2f} s of a worker ({min(both):.2f} to {max(both):.2f})"
    print(f"a build: looked at and graded in {range_text}")
    print(
        f"noon at a school: {_STUDENTS} builds within {_MINUTES:g} minutes, most at the end; wanted: 95 % within 30 s"
    )
    print("schools   builds  workers  95th s  a school")
    for schools in (own for own in _SCHOOLS if own <= most):
        simulated = min(schools, _MOST_SIMULATED)
        workers, percentile = workers_for(times, simulated)
        workers = workers * schools // simulated
        print(f"{schools:7}  {schools * _STUDENTS:7}  {workers:7}  {percentile:6.1f}  {workers / schools:8.3f}")


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--most", type=int, default=10_000)
    main(parser.parse_args().most)
