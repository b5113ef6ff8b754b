"""Answers to drills over HTTP: milliseconds from sending to the judgement, beside its health page.

Numerator: a student's answer to each of many drills of a kind, shown just before, as a browser would; and the same
where this process never saw the drill. Denominator: the page that says that the server lives.
"""

import statistics
import time
from collections.abc import Callable

import httpx2

from benchmarks.rush import signed_in
from benchmarks.school import make_class, scratch_database
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.settings import Settings
from tests.support.program import serving

_SEEDS = 12
_GOAL_MS = 200


def main() -> None:
    """Print the table."""
    with scratch_database() as database:
        _, people, _, _ = make_class(database, students=1, name="practice")
        with serving(Settings(database_url=database.url)) as address:
            client = signed_in(address, people[0].login)
            alive = statistics.median(_ms(lambda: client.get("/healthz")) for _ in range(40))
            print(f"a page without a question: {alive:.1f} ms; goal for an answer {_GOAL_MS} ms")
            print(f"{'kind':20} {'median ms':>9} {'95 % ms':>8} {'unseen ms':>9} {'ratio':>6}")
            for kind in KINDS:
                shown, unseen = _of_kind(client, kind)
                ordered = sorted(shown)
                most = ordered[int(0.95 * (len(ordered) - 1))]
                median = statistics.median(shown)
                print(f"{kind:20} {median:9.0f} {most:8.0f} {statistics.median(unseen):9.0f} {median / alive:6.1f}")


def _of_kind(client: httpx2.Client, kind: str) -> tuple[list[float], list[float]]:
    """Answer drills that were shown just before, and drills that were not; return the milliseconds of each."""
    shown: list[float] = []
    unseen: list[float] = []
    for level in KINDS[kind].levels:
        for seed in range(_SEEDS):
            address = f"/practice/{kind}?seed={seed}&level={level}"
            token = client.get(address).text.split('name="csrf" value="')[1].split('"')[0]
            for number, times in ((seed, shown), (seed + 1000, unseen)):
                drill = drill_of(kind, number, level)
                answers = [str(own) for own in drill.answer] or []
                sent = {"csrf": token, "seed": str(number), "level": str(level), "answer": answers, "nothing": "true"}
                times.append(_ms(lambda sent=sent: client.post(f"/practice/{kind}", data=sent)))  # type: ignore[misc]
    return shown, unseen


def _ms(ask: Callable[[], httpx2.Response]) -> float:
    started = time.perf_counter()
    answer = ask()
    took = 1000 * (time.perf_counter() - started)
    assert answer.status_code == 200, answer.text[:300]
    return took


if __name__ == "__main__":
    main()
