"""Walls round the measuring process: what a file makes it do by a fault of the kernel stays in it.

It gains no privileges, opens no connection, starts no program, reads what it is made of and nothing of the school's,
writes into its scratch folder alone, and knows no address of the database. The walls are Linux's own, put up by the
process itself: Landlock for files, seccomp for system calls (landlock(7), seccomp(2)).
"""

import contextlib
import errno
import os
import site
import sys
import sysconfig
import tempfile
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from pathlib import Path

#: Variables that the process has no need of: passwords may be in them.
_SECRET_PREFIXES = ("RIGID_BENCH_", "PG")
#: System calls that measuring has no need of: connections, other programs, other processes, mounts, the kernel's keys.
_DENIED = (
    "socket", "connect", "bind", "listen", "accept", "accept4", "execve", "execveat", "ptrace", "process_vm_readv",
    "process_vm_writev", "pidfd_open", "pidfd_getfd", "mount", "umount2", "pivot_root", "chroot", "unshare", "setns",
    "fsopen", "open_tree", "move_mount", "init_module", "finit_module", "delete_module", "kexec_load", "bpf",
    "perf_event_open", "userfaultfd", "io_uring_setup", "add_key", "request_key", "keyctl", "reboot", "swapon",
    "settimeofday", "clock_settime", "sethostname", "quotactl", "acct",
)  # fmt: skip
#: What programs are made of and read while they run, beside Python's own folders.
_READ = (
    "/usr", "/lib", "/lib64", "/etc/ld.so.cache", "/etc/fonts", "/etc/localtime", "/etc/mime.types", "/dev/null",
    "/dev/urandom", "/dev/random", "/dev/zero", "/sys/devices/system/cpu", "/proc/cpuinfo", "/proc/meminfo",
)  # fmt: skip
_WRITTEN = ("/dev/null",)


@dataclass(frozen=True, slots=True, kw_only=True)
class Walls:
    """Which of the walls stand."""

    #: Files are read where programs lie, and written in the scratch folder alone.
    files: bool
    #: No connections, no other programs.
    system_calls: bool

    @property
    def facts(self) -> dict[str, bool]:
        """By name, for logs and watchers."""
        return asdict(self)


def available() -> Walls:
    """Say which walls this machine has; whether a process stands within them its `confine` says."""
    return Walls(files=_landlock_version() > 0, system_calls=_has_seccomp())


@contextlib.contextmanager
def without_secrets() -> Iterator[None]:
    """Start within it what must not know passwords: they are in no environment that it inherits."""
    secret = {name: value for name, value in os.environ.items() if name.startswith(_SECRET_PREFIXES)}
    for name in secret:
        del os.environ[name]
    try:
        yield
    finally:
        os.environ.update(secret)


def confine(scratch: str) -> Walls:
    """Put up the walls round this process, for good; those that the machine lacks are left out, and that is said.

    Parameters
    ----------
    scratch
        A folder of its own: temporary files go there, and nothing is written anywhere else.
    """
    tempfile.tempdir = scratch
    # in this order: to find seccomp's library a program is started
    has_no_calls = _wall_off_system_calls()
    return Walls(files=_wall_off_files(scratch), system_calls=has_no_calls)


def _wall_off_files(scratch: str) -> bool:
    version = _landlock_version()
    if version < 1:
        return False
    from landlock import FSAccess, Ruleset  # type: ignore[import-untyped]  # it ships no types

    # rights that an older kernel does not know cannot be asked for
    rights = FSAccess.all()
    reading = FSAccess.READ_FILE | FSAccess.READ_DIR
    rules = Ruleset(restrict_rules=rights)
    for path in _existing(_READ + _python_folders()):
        rules.allow(path, rules=reading if os.path.isdir(path) else FSAccess.READ_FILE)
    for path in _existing(_WRITTEN):
        rules.allow(path, rules=FSAccess.READ_FILE | FSAccess.WRITE_FILE)
    rules.allow(scratch, rules=rights & ~FSAccess.EXECUTE)
    rules.apply()
    return True


def _python_folders() -> tuple[str, ...]:
    """Return where Python, its packages and this program lie."""
    named = [sys.prefix, sys.base_prefix, sys.exec_prefix, *site.getsitepackages(), *sysconfig.get_paths().values()]
    return tuple(dict.fromkeys([*named, *filter(None, sys.path)]))


def _existing(paths: tuple[str, ...]) -> Iterator[str]:
    return (path for path in paths if Path(path).exists())


def _wall_off_system_calls() -> bool:
    if not _has_seccomp():
        return False
    import pyseccomp  # type: ignore[import-untyped]  # it ships no types

    rules = pyseccomp.SyscallFilter(pyseccomp.ALLOW)
    for call in _DENIED:
        # a machine of another kind has not all of them
        with contextlib.suppress(ValueError, OSError, RuntimeError):
            rules.add_rule(pyseccomp.ERRNO(errno.EPERM), call)
    rules.load()
    return True


def _landlock_version() -> int:
    try:
        from landlock import landlock_abi_version

        return int(landlock_abi_version())
    except (ImportError, OSError, RuntimeError):
        return 0


def _has_seccomp() -> bool:
    try:
        import pyseccomp

        return bool(pyseccomp.get_api() > 0)
    except (ImportError, OSError, RuntimeError):
        return False
