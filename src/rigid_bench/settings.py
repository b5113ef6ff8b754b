"""Settings of the running program, from the environment (`RIGID_BENCH_...`)."""

from functools import cache
from typing import Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where the database is, and what one hand-in may use."""

    model_config = SettingsConfigDict(env_prefix="RIGID_BENCH_")

    #: A `postgresql://` address with user and password.
    database_url: str = "postgresql://rigid_bench@127.0.0.1:5432/rigid_bench"
    #: Largest hand-in, in bytes.
    upload_bytes: int = 50_000_000
    #: Longest time that one build may be measured, seconds.
    measure_seconds: float = 120.0
    #: Most memory (address space) of the measuring process, bytes.
    measure_bytes: int = 4 * 1024**3
    #: Names by which the server may be called, parted by commas, such as `bench.school.example`; others are refused.
    allowed_hosts: str = "127.0.0.1,localhost"
    #: A signed-in session lasts this long, hours.
    session_hours: int = 12
    #: A worker says that it lives this often, seconds; silent for four times as long, its job goes to another.
    heartbeat_seconds: float = 5.0
    #: A worker looks for jobs so often where nobody tells it of one, seconds.
    poll_seconds: float = 2.0
    #: When cards are returned whose set time has come, and jobs of killed workers are taken up: a cron line whose sixth
    #: field is seconds.
    chores_cron: str = "* * * * * */15"
    #: A job that waits longer than this is late, seconds: teachers and whoever watches the program are told.
    late_seconds: float = 120.0
    #: So many days after a class was put into the archive it is erased, with all builds and marks; 0 keeps it.
    erase_archived_days: int = Field(default=0, ge=0)
    #: The school's mail server, by name, for notices that people want by e-mail; "" sends none.
    mail_server: str = ""
    mail_port: int = 587
    mail_security: Literal["starttls", "tls", "none"] = "starttls"
    mail_login: str = ""
    mail_password: str = ""
    #: Whom letters are from.
    mail_from: str = "rigid-bench@localhost"
    #: Where people reach the program, for letters, such as `https://bench.school.example`.
    public_address: str = ""


@cache
def settings() -> Settings:
    """Read the settings once."""
    return Settings()
