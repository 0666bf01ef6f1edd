"""The command ``old-ember``: the workshop started, looked after, carried elsewhere.

What the settings read from the environment is set before they are loaded, so nothing of
Django is imported before a command runs. Errors are one sentence on stderr, status 2.
"""

import os
import runpy
import sys
from pathlib import Path
from typing import Any

import click

from workshop import __version__
from workshop.program import tree

_GIVES_WAY = 10
"""How far below the others in rank the worker runs (POSIX nice)."""
_BACKUP = click.Path(path_type=Path, dir_okay=False)


@click.group(invoke_without_command=True)
@click.version_option(__version__, prog_name="old-ember")
@click.option(
    "--data",
    type=click.Path(path_type=Path, file_okay=False),
    help="The folder of all data; else OLD_EMBER_VAR, or where the system keeps such.",
)
@click.pass_context
def cli(context: click.Context, data: Path | None) -> None:
    """Photographs to raster engraving jobs. Without a command: serve."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings.base")
    if data is not None:
        os.environ["OLD_EMBER_VAR"] = str(data.absolute())
    _check_tasks()
    if context.invoked_subcommand is None:
        context.invoke(serve)


def _check_tasks() -> None:
    """Say in words what is wrong with the Redis of the tasks, where one is named."""
    address = os.environ.get("OLD_EMBER_REDIS")
    if not address:
        return
    import redis  # noqa: PLC0415 (few have one)

    try:
        redis.Redis.from_url(address).ping()
    except ValueError:
        raise click.ClickException(
            "OLD_EMBER_REDIS is no address; write redis://host:port/0 or unix:///path."
        ) from None
    except redis.RedisError:
        raise click.ClickException(
            "The Redis that OLD_EMBER_REDIS names does not answer; start it first."
        ) from None


@cli.command()
@click.option("--host", help="The address pages are asked for; off loopback all sign in.")
@click.option("--port", type=click.IntRange(1, 65535), help="8000 if nothing is said.")
@click.option("--demo", is_flag=True, help="Begin with the tickets of an imaginary shop.")
@click.option("--no-stand-in", is_flag=True, help="Without simulated machines.")
@click.option("--pace", type=float, default=1.0, help="How fast these are; 0: at once.")
def serve(
    host: str | None = None,
    port: int | None = None,
    *,
    demo: bool = False,
    no_stand_in: bool = False,
    pace: float = 1.0,
) -> None:
    """Run all of it on one address; Ctrl-C ends all of it."""
    for name, value in (("HOST", host), ("PORT", port)):
        if value is not None:
            os.environ[name] = str(value)
    ports = () if no_stand_in else tree.standin_ports(two=demo)
    tree.tell_ports(ports)
    _prepare(demo=demo)
    from django.conf import settings  # noqa: PLC0415 (after the environment)

    if why := tree.taken(settings.HOST, settings.PORT):
        raise click.ClickException(why)
    click.echo(f"Data: {settings.VAR}")
    sys.exit(tree.run(tree.programs(ports, pace)))


def _prepare(*, demo: bool) -> None:
    """Bring the tables up to date, and fill an empty shelf."""
    _command("migrate", verbosity=0)
    _command("load_demo" if demo else "fill_shelf")


def _command(name: str, *arguments: str, **options: Any) -> None:
    import django  # noqa: PLC0415 (after the environment)
    from django.core.management import CommandError, call_command  # noqa: PLC0415

    django.setup()
    try:
        call_command(name, *arguments, **options)
    except CommandError as error:
        raise click.ClickException(str(error)) from None


@cli.command()
def web() -> None:
    """Run the web server alone."""
    runpy.run_module("workshop.serve", run_name="__main__")


@cli.command()
def worker() -> None:
    """Run what does the long work; it gives way to whoever waits for a page."""
    if hasattr(os, "nice"):
        os.nice(_GIVES_WAY)
    _command("run_huey", "--quiet")


@cli.command()
def link() -> None:
    """Run what speaks to the machines."""
    runpy.run_module("workshop.link", run_name="__main__")


@cli.command(
    "stand-in",
    context_settings={"ignore_unknown_options": True, "help_option_names": []},
)
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def stand_in(arguments: tuple[str, ...]) -> None:
    """Run a simulated machine; --help lists what can be set."""
    sys.argv = ["old-ember stand-in", *arguments]
    runpy.run_module("standins.controller", run_name="__main__")


@cli.command()
@click.argument("to", type=_BACKUP)
def backup(to: Path) -> None:
    """Put everything into one zip."""
    _command("migrate", verbosity=0)
    _command("backup", str(to))


@cli.command()
@click.argument("source", type=_BACKUP)
def restore(source: Path) -> None:
    """Put a backup into an empty folder."""
    _command("restore", str(source))


@cli.command()
def where() -> None:
    """Say where the data lie."""
    from django.conf import settings  # noqa: PLC0415 (after the environment)

    click.echo(settings.VAR)


@cli.group()
def users() -> None:
    """Who may sign in from other computers."""


@users.command("add")
@click.argument("name")
@click.option("--role", type=click.Choice(["looks", "prepares", "burns"]), default="burns")
def users_add(name: str, role: str) -> None:
    """Make somebody who may sign in, or give them another role and password."""
    _command("migrate", verbosity=0)
    _command("operator", name, "--role", role)


@users.command("remove")
@click.argument("name")
def users_remove(name: str) -> None:
    """Let somebody sign in no more; what they did keeps their name."""
    _command("operator", name, "--remove")


@users.command("list")
def users_list() -> None:
    """List who may sign in, and what they may do."""
    _command("migrate", verbosity=0)
    _command("operator", "--list")


def main(arguments: list[str] | None = None) -> int:
    """Run the command, and return its exit status."""
    try:
        cli.main(arguments, standalone_mode=False, prog_name="old-ember")
    except click.ClickException as error:
        click.echo(error.format_message(), err=True)
        return 2
    except click.exceptions.Abort:
        return 130
    return 0
