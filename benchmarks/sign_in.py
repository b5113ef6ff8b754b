"""A class signs in at once behind one address: seconds until all are in, beside the bare hashes of as many passwords.

Numerator: thirty sign-ins over HTTP, all sent at one moment. Denominator: thirty checks of the same hash, as many at a
time as there are cores, in this process.
"""

import os
import time
from concurrent.futures import ThreadPoolExecutor

import httpx2

from benchmarks.rush import signed_in
from benchmarks.school import PASSWORD, make_class, scratch_database
from rigid_bench.settings import Settings
from rigid_bench.web.security.passwords import hash_password, is_password
from tests.support.program import serving

_STUDENTS = 30


def main() -> None:
    """Print the table."""
    password_hash = hash_password(PASSWORD)
    with ThreadPoolExecutor(len(os.sched_getaffinity(0))) as pool:
        started = time.perf_counter()
        assert all(pool.map(lambda _: is_password(PASSWORD, password_hash), range(_STUDENTS)))
        bare_s = time.perf_counter() - started
    with scratch_database() as database:
        _, people, _, _ = make_class(database, students=_STUDENTS, name="crowd")
        with serving(Settings(database_url=database.url)) as address, ThreadPoolExecutor(_STUDENTS) as pool:
            started = time.perf_counter()
            clients = list(pool.map(lambda person: signed_in(address, person.login), people))
            all_s = time.perf_counter() - started
            assert all(is_in(client) for client in clients)
    print("sign-ins  all in s  bare hashes s  ratio")
    print(f"{_STUDENTS:8} {all_s:9.2f} {bare_s:14.2f} {all_s / bare_s:6.1f}")


def is_in(client: httpx2.Client) -> bool:
    """Say whether somebody is signed in there."""
    return client.get("/").url.path == "/"


if __name__ == "__main__":
    main()
