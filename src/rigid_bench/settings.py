"""Settings of the running program: from the environment (`RIGID_BENCH_...`), else from one file, else the defaults.

The file has the same names, a line each; `rigid-bench settings --example` writes it with every setting explained.
"""

import difflib
import os
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, Literal

from dotenv import dotenv_values
from pydantic import Field, ValidationError, field_validator, model_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.wording.language import N_, _
from rigid_bench.languages import has_catalogue

_PREFIX = "RIGID_BENCH_"
#: Where the file is looked for unless this variable names another.
_FILE_VARIABLE, _FILE = "RIGID_BENCH_SETTINGS", Path("/etc/rigid-bench/rigid-bench.env")
#: Variables with our prefix that are no settings of the running program.
_OTHERS = {_FILE_VARIABLE, "RIGID_BENCH_TRACEBACK"}
_SECRET = {"mail_password", "metrics_token", "oidc_client_secret", "file_store_secret"}
#: Names of this machine itself, where a stand-in is tried without HTTPS.
_LOOPBACK = ("127.0.0.1", "localhost")
_PASSWORD = re.compile(r"(?<=://)([^:@/]*):[^@/]*@")


class SettingRejected(RigidBenchError):
    """A setting cannot be meant."""


class Settings(BaseSettings):
    """Where the database is, how people reach the program, what one hand-in may use, what is kept how long."""

    model_config = SettingsConfigDict(env_prefix=_PREFIX, extra="ignore")

    database_url: str = Field(
        default="postgresql://rigid_bench@127.0.0.1:5432/rigid_bench",
        description=N_("The database: a postgresql:// address with user and password."),
    )
    language: str = Field(
        default="en",
        description=N_(
            "The language that is spoken. English ships with it; en-XA shows which words go past the catalogue."
        ),
    )
    allowed_hosts: str = Field(
        default="127.0.0.1,localhost",
        description=N_("Names by which the server may be called, parted by commas, such as bench.school.example."),
    )
    public_address: str = Field(
        default="",
        description=N_("Where people reach the program, such as https://bench.school.example; for letters."),
    )
    trusted_proxies: str = Field(
        default="",
        description=N_("Addresses of reverse proxies whose X-Forwarded-For and -Proto are believed, parted by commas."),
    )
    path_prefix: str = Field(
        default="",
        description=N_("The path under which a reverse proxy serves it, such as /bench; empty for a name of its own."),
    )
    web_processes: int = Field(default=1, ge=1, le=64, description=N_("How many processes answer requests."))
    log_format: Literal["text", "json"] = Field(
        default="text", description=N_("Logs as lines for people, or as JSON with an id for each request.")
    )
    metrics_token: str = Field(
        default="",
        description=N_("Whoever asks /metrics must send it as a bearer token; without one only this machine may ask."),
    )
    password_sign_in: bool = Field(
        default=True, description=N_("People may sign in with a name and a password that are kept here.")
    )
    oidc_issuer: str = Field(
        default="",
        description=N_(
            "The school's identity provider (OpenID Connect), such as https://accounts.school.example; empty "
            "for none. It is told to come back to /sign-in/school/back."
        ),
    )
    oidc_client_id: str = Field(default="", description=N_("What that provider calls this program."))
    oidc_client_secret: str = Field(default="", description=N_("And the secret that it gave it."))
    oidc_name: str = Field(default="your school account", description=N_("What people call their accounts there."))
    oidc_role_claim: str = Field(default="roles", description=N_("The claim that holds a person's roles."))
    oidc_teacher_roles: str = Field(default="teacher", description=N_("Roles of teachers in it, parted by commas."))
    oidc_administrator_roles: str = Field(
        default="", description=N_("Roles of people who look after this program's accounts, parted by commas.")
    )
    oidc_sourced_id_claim: str = Field(
        default="",
        description=N_(
            "The claim that holds the school's own id of a person, by which imported accounts are found "
            "(OneRoster's sourcedId); empty for none."
        ),
    )
    session_hours: int = Field(default=12, ge=1, le=24 * 30, description=N_("A sign-in lasts so long, hours."))
    idle_minutes: int = Field(
        default=0,
        ge=0,
        le=60 * 24,
        description=N_("A sign-in that is not used ends after so many minutes; 0 for never."),
    )
    upload_bytes: int = Field(
        default=50_000_000, ge=1_000, le=2_000_000_000, description=N_("The largest hand-in, bytes.")
    )
    class_bytes: int = Field(
        default=5_000_000_000,
        ge=0,
        description=N_("The hand-ins of one class may take so much in all, bytes; 0 for any."),
    )
    file_store: str = Field(
        default="",
        description=N_(
            "An S3-compatible store for the contents of files, as s3://bucket or s3://bucket/prefix; empty "
            "keeps them in the database. Backups hold what is in the database: the store needs its own."
        ),
    )
    file_store_endpoint: str = Field(default="", description=N_("Its address, such as https://objects.school.example."))
    file_store_region: str = Field(default="us-east-1", description=N_("Its region, where it has some."))
    file_store_key: str = Field(default="", description=N_("The id of the key that it gave this program."))
    file_store_secret: str = Field(default="", description=N_("And the key's secret."))
    virus_scanner: str = Field(
        default="",
        description=N_(
            "A clamd that looks through every file that is sent, as host:port or as the path of its socket; "
            "empty for none. While it does not answer, no files are taken."
        ),
    )
    measure_seconds: float = Field(
        default=120.0, gt=0, le=3600, description=N_("One build may be measured so long, seconds.")
    )
    measure_bytes: int = Field(
        default=4 * 1024**3, ge=1024**3, description=N_("The measuring process may take so much address space, bytes.")
    )
    heartbeat_seconds: float = Field(
        default=5.0, gt=0, le=300,
        description=N_("A worker says that it lives so often, seconds; silent for four times as long, its job goes on "
        "elsewhere."),
    )  # fmt: skip
    poll_seconds: float = Field(
        default=2.0,
        gt=0,
        le=300,
        description=N_("A worker looks for jobs so often where nobody tells it of one, seconds."),
    )
    chores_cron: str = Field(
        default="* * * * * */15",
        description=N_(
            "When cards are returned whose time has come, and jobs of killed workers are taken up: a cron line "
            "whose sixth field is seconds."
        ),
    )
    late_seconds: float = Field(
        default=120.0, gt=0, description=N_("A job that waits longer is late, seconds: teachers and watchers are told.")
    )
    erase_archived_days: int = Field(
        default=0, ge=0, le=36_500,
        description=N_("So many days after a class was archived it is erased, with all builds and marks; 0 keeps it."),
    )  # fmt: skip
    log_days: int = Field(
        default=0, ge=0, le=36_500, description=N_("Entries of the log are erased after so many days; 0 keeps them.")
    )
    mail_server: str = Field(
        default="", description=N_("The school's mail server for notices by e-mail; none sends none.")
    )
    mail_port: int = Field(default=587, ge=1, le=65_535, description=N_("Its port."))
    mail_security: Literal["starttls", "tls", "none"] = Field(
        default="starttls", description=N_("How it is spoken to.")
    )
    mail_login: str = Field(default="", description=N_("The name to sign in with there, if one is needed."))
    mail_password: str = Field(default="", description=N_("And the password."))
    mail_from: str = Field(default="rigid-bench@localhost", description=N_("Whom letters are from."))

    @field_validator("language")
    @classmethod
    def _is_spoken(cls, value: str) -> str:
        if not has_catalogue(value):
            raise ValueError(_("there is no catalogue of '{language}'", language=value))
        return value

    @field_validator("database_url")
    @classmethod
    def _is_postgresql(cls, value: str) -> str:
        if not value.startswith(("postgresql://", "postgres://")):
            raise ValueError(_("it is no postgresql:// address"))
        return value.replace("postgres://", "postgresql://", 1)

    @field_validator("allowed_hosts")
    @classmethod
    def _has_hosts(cls, value: str) -> str:
        names = [name.strip() for name in value.split(",") if name.strip()]
        if not names:
            raise ValueError(_("with no name at all nobody could call the server"))
        wrong = next((name for name in names if "/" in name or ":" in name), None)
        if wrong:
            raise ValueError(_("'{wrong}' is no name of a host: leave out https:// and the port", wrong=wrong))
        return ",".join(names)

    @field_validator("public_address")
    @classmethod
    def _is_address(cls, value: str) -> str:
        if value and not value.startswith(("http://", "https://")):
            raise ValueError(_("it begins with neither https:// nor http://"))
        return value.rstrip("/")

    @field_validator("oidc_issuer")
    @classmethod
    def _is_issuer(cls, value: str) -> str:
        if value and not value.startswith(("https://", *(f"http://{host}" for host in _LOOPBACK))):
            raise ValueError(_("it does not begin with https://"))
        return value.rstrip("/")

    @field_validator("file_store")
    @classmethod
    def _is_file_store(cls, value: str) -> str:
        if value and not re.fullmatch(r"s3://[a-z0-9][a-z0-9.-]+(/[\w./-]*)?", value):
            raise ValueError(_("it is no address such as s3://bucket/prefix"))
        return value

    @field_validator("virus_scanner")
    @classmethod
    def _is_scanner(cls, value: str) -> str:
        if value and not value.startswith("/") and not re.fullmatch(r"[^:\s]+:\d{1,5}", value):
            raise ValueError(_("it is neither host:port nor a path"))
        return value

    @field_validator("path_prefix")
    @classmethod
    def _is_path(cls, value: str) -> str:
        if value and not re.fullmatch(r"(/[A-Za-z0-9._~-]+)+/?", value):
            raise ValueError(_("it is no path such as /bench"))
        return value.rstrip("/")

    @field_validator("chores_cron")
    @classmethod
    def _is_cron(cls, value: str) -> str:
        if len(value.split()) not in (5, 6):
            raise ValueError(_("a cron line has five fields, and a sixth for seconds"))
        return value

    @model_validator(mode="after")
    def _goes_together(self) -> "Settings":
        if self.mail_password and not self.mail_login:
            raise ValueError(_("there is a mail_password, and no mail_login that it belongs to"))
        if self.oidc_issuer and not self.oidc_client_id:
            raise ValueError(_("there is an oidc_issuer, and no oidc_client_id"))
        if not self.password_sign_in and not self.oidc_issuer:
            raise ValueError(_("without password_sign_in and without an oidc_issuer nobody could sign in"))
        return self

    def role_of(self, claims: Mapping[str, Any]) -> Literal["administrator", "teacher", "student"]:
        """Return the role that the school's identity provider gives a person."""
        given = claims.get(self.oidc_role_claim) or []
        roles = set(given.split(",") if isinstance(given, str) else map(str, given))
        if roles & _parted(self.oidc_administrator_roles):
            return "administrator"
        return "teacher" if roles & _parted(self.oidc_teacher_roles) else "student"

    @property
    def hosts(self) -> list[str]:
        """Names by which the server may be called."""
        return self.allowed_hosts.split(",")


def _parted(text: str) -> set[str]:
    return {word.strip() for word in text.split(",") if word.strip()}


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingInForce:
    """A setting as it is in force."""

    #: With the prefix, as in the environment.
    name: str
    #: Passwords in it are covered.
    value: str
    default: str
    source: Literal["environment", "file", "default"]
    meaning: str


def settings_file() -> Path | None:
    """Return the file of the settings, if there is one.

    Raises
    ------
    SettingRejected
        The variable names a file that is not there, or cannot be read.
    """
    named = os.environ.get(_FILE_VARIABLE)
    path = Path(named) if named else _FILE
    if path.is_file() and os.access(path, os.R_OK):
        return path
    if named:
        raise SettingRejected(
            _FILE_VARIABLE, _("there is no file '{named}' that can be read", named=named), _("Check the path")
        )
    return None


@cache
def settings() -> Settings:
    """Read the settings once.

    Raises
    ------
    SettingRejected
        One cannot be meant, or there is no setting of that name.
    """
    given = _given()
    known = {f"{_PREFIX}{field.upper()}" for field in Settings.model_fields}
    for name in sorted(set(given) - known - _OTHERS):
        near = difflib.get_close_matches(name, known, n=1)
        step = _("Did you mean {near}?", near=near[0]) if near else _("`rigid-bench settings` lists all")
        raise SettingRejected(name, _("there is no setting of this name"), step)
    try:
        return Settings.model_validate({name.removeprefix(_PREFIX).lower(): value for name, value in given.items()})
    except ValidationError as exc:
        first = exc.errors()[0]
        name = f"{_PREFIX}{str(first['loc'][0]).upper()}" if first["loc"] else "settings"
        problem = first["msg"].removeprefix("Value error, ").lower()
        raise SettingRejected(name, problem, _("`rigid-bench settings` explains each")) from exc


def _given() -> dict[str, str]:
    """Return what is set by the file and the environment, which comes before it, without what is set to nothing."""
    path = settings_file()
    in_file = {name: value or "" for name, value in dotenv_values(path).items()} if path else {}
    wrong = next((name for name in in_file if not name.startswith(_PREFIX)), None)
    if wrong:
        raise SettingRejected(
            str(path),
            _("'{wrong}' is no setting", wrong=wrong),
            _("Names of settings begin with {prefix}", prefix=_PREFIX),
        )
    return in_file | {name: value for name, value in os.environ.items() if name.startswith(_PREFIX)}


def in_force(settings: Settings) -> Iterator[SettingInForce]:
    """List every setting with its value, its default and where it comes from."""
    path = settings_file()
    in_file = set(dotenv_values(path)) if path else set()
    for field, info in Settings.model_fields.items():
        name = f"{_PREFIX}{field.upper()}"
        yield SettingInForce(
            name=name,
            value=_covered(field, str(getattr(settings, field))),
            default=_covered(field, str(info.default)),
            source="environment" if name in os.environ else "file" if name in in_file else "default",
            meaning=info.description or "",
        )


def _covered(field: str, value: str) -> str:
    if field in _SECRET:
        return "(set)" if value else ""
    return _PASSWORD.sub(r"\1:(set)@", value)


def example_file() -> Iterator[str]:
    """Write the file of the settings, line by line: each explained, with its default, out of force."""
    for field, info in Settings.model_fields.items():
        yield f"# {info.description}"
        yield f"#{_PREFIX}{field.upper()}={info.default}"
        yield ""
