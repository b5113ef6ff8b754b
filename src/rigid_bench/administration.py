"""Commands for whoever runs an installation: settings, backups, upgrades, the first accounts."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import N_, _, translated

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

app = typer.Typer()


@app.command("settings")
def show_settings(
    example: Annotated[
        bool, typer.Option("--example", help=N_("Write the file of the settings, each explained."))
    ] = False,
    json: Annotated[bool, typer.Option("--json", help=N_("Print them as JSON."))] = False,
) -> None:
    """List every setting in force with where it comes from; refuse what cannot be meant."""
    from json import dumps

    from rigid_bench.settings import example_file, in_force, settings, settings_file

    if example:
        print("\n".join(example_file()))
        return
    shown = list(in_force(settings()))
    if json:
        print(dumps([{"name": own.name, "value": own.value, "source": own.source} for own in shown], indent=2))
        return
    for own in shown:
        print(f"{own.name}={own.value}  ({own.source})\n    {translated(own.meaning)}")
    print(_("File: {path}", path=settings_file() or _("none")))


@app.command()
def backup(
    to: Annotated[Path, typer.Argument(help=N_("A folder, in which it is named after the time; or a file."))],
    keep: Annotated[int, typer.Option(help=N_("In a folder: so many stay, older ones go; 0 keeps all."), min=0)] = 0,
) -> None:
    """Write a backup of the whole database, while it is in use."""
    from rigid_bench.settings import settings
    from rigid_bench.store.backup import write_backup

    path = write_backup(settings().database_url, to, keep=keep)
    print(f"{path}: {path.stat().st_size / 1e6:.1f} MB")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help=N_("A backup."))],
    check: Annotated[bool, typer.Option("--check", help=N_("Only say whether it is whole."))] = False,
) -> None:
    """Read a backup into an empty database, and bring it up to date."""
    from rigid_bench.settings import settings
    from rigid_bench.store.backup import read_manifest, restore_backup

    manifest = read_manifest(file) if check else restore_backup(file, settings().database_url)
    made = {"made_at": f"{manifest.made_at:%Y-%m-%d %H:%M}", "program": manifest.program}
    whole = _("Whole: of {made_at} UTC, by version {program}", **made)
    print(whole if check else _("Restored: of {made_at} UTC, by version {program}", **made))


@app.command()
def upgrade(
    dry_run: Annotated[bool, typer.Option("--dry-run", help=N_("Run all steps and take them back."))] = False,
    backup_to: Annotated[Path | None, typer.Option("--backup", help=N_("Write a backup there before."))] = None,
) -> None:
    """Bring the database up to this version; with a backup before it there is a way back."""
    from rigid_bench.settings import settings
    from rigid_bench.store.backup import write_backup
    from rigid_bench.store.database import check_database, is_empty, migrate, pending, try_migrations

    url = settings().database_url
    check_database(url)
    steps = pending(url)
    for revision, about in steps:
        print(f"{revision}  {about}")
    if not steps:
        print(_("The database is up to date."))
    elif dry_run:
        try_migrations(url)
        print(_("All of it would go through; nothing was changed."))
    else:
        if backup_to and not is_empty(url):
            print(_("Backup: {path}", path=write_backup(url, backup_to)))
        migrate(url)
        print(_("Done."))


@app.command()
def add_teacher(
    login: Annotated[str, typer.Argument(help=N_("The sign-in name."))],
    name: Annotated[str, typer.Argument(help=N_("The name that students see."))],
) -> None:
    """Add a teacher, and print the password; the first one administers the school."""
    from rigid_bench.app.people.account_fields import check_new_person
    from rigid_bench.app.people.people import add_administrator_or_teacher
    from rigid_bench.store.codes import new_password
    from rigid_bench.web.security.passwords import hash_password

    password = new_password()
    newcomer = check_new_person(login=login, name=name, password=password)
    with _session() as session:
        user = add_administrator_or_teacher(session, newcomer, password_hash=hash_password(password))
        typer.echo(
            _("{name}: sign-in name {login}, password {password}", name=user.name, login=user.login, password=password)
        )


@app.command()
def reset_password(login: Annotated[str, typer.Argument(help=N_("The sign-in name."))]) -> None:
    """Give a teacher or student a new password, and print it."""
    from rigid_bench.app.people.people import reset_password as set_new_password
    from rigid_bench.store.codes import new_password
    from rigid_bench.store.queries import people_queries
    from rigid_bench.web.security.passwords import hash_password

    password = new_password()
    with _session() as session:
        user = people_queries.user_by_login(session, login.strip().lower())
        if user is None:
            raise NotFound(_("sign-in name"), _("nobody has '{login}'", login=login), _("Check the spelling"))
        set_new_password(session, user, hash_password(password), who_id=None)
        typer.echo(
            _("{name}: sign-in name {login}, password {password}", name=user.name, login=user.login, password=password)
        )


@contextmanager
def _session() -> "Iterator[Session]":
    """Give a session on the database that the settings name, brought up to date."""
    from rigid_bench.settings import settings
    from rigid_bench.store.database import Database, check_database, migrate

    url = settings().database_url
    check_database(url)
    migrate(url)
    database = Database(url)
    try:
        with database.session() as session:
            yield session
    finally:
        database.close()
