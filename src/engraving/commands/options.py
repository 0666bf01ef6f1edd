"""Options of the command line: quantities, choices and files."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click

from engraving.errors import ArtworkError, InputError
from engraving.jobspec import SizePart
from engraving.units import parse_dpi, parse_length, parse_speed

F = TypeVar("F", bound=Callable[..., Any])


class Quantity(click.ParamType[float]):
    """An option read by one of the `units` parsers."""

    def __init__(self, name: str, parse: Callable[..., float]) -> None:
        self.name = name
        self._parse = parse

    def convert(
        self, value: Any, param: click.Parameter | None, _ctx: click.Context | None
    ) -> float:
        """Return the number in core units; see `engraving.units`."""
        if isinstance(value, float):
            return value
        name = param.opts[0] if param else self.name
        try:
            return self._parse(str(value))
        except InputError as error:
            raise InputError(f"{name}: {error.message}", field=name) from None


LENGTH = Quantity("length", parse_length)
SPEED = Quantity("speed", parse_speed)
DPI = Quantity("dpi", parse_dpi)
FILE = click.Path(path_type=Path)


def options(*each: Callable[[F], F]) -> Callable[[F], F]:
    """Return what gives a command several options, in their order."""

    def apply(command: F) -> F:
        for option in reversed(each):
            command = option(command)
        return command

    return apply


def size_of(given: dict[str, Any], ratio: float, pitch_mm: float) -> SizePart:
    """Return the size that --width and --height ask for, of a picture of some ratio.

    Raises
    ------
    InputError
        When one of them is not above 0.
    """
    width, height = given["width"], given["height"]
    if width is None and height is None:
        width = 80.0
    for name, value in (("--width", width), ("--height", height)):
        if value is not None and value <= 0:
            raise InputError(f"{name} must be above 0 mm; it is {value:g} mm.")
    width = width if width is not None else height * ratio
    height = height if height is not None else width / ratio
    return SizePart(width_mm=width, height_mm=height, pitch_mm=pitch_mm)


def choice(option: str, value: str, choices: Any) -> str:
    """Return a value that is one of the choices.

    Raises
    ------
    InputError
        When it is none; the message lists them.
    """
    names = [str(one) for one in choices]
    if value not in names:
        raise InputError(f"{option} is “{value}”; choose one of {', '.join(names)}.")
    return value


def above_zero(**values: float | None) -> None:
    """Hold options above 0; their names have underscores for hyphens.

    Raises
    ------
    InputError
        When one is not.
    """
    for name, value in values.items():
        if value is not None and not value > 0:
            option = name.replace("_", "-")
            raise InputError(f"--{option} must be above 0; it is {value:g}.")


def existing(path: Path) -> Path:
    """Return a file that is there.

    Raises
    ------
    ArtworkError
        When it is not.
    """
    if not path.is_file():
        raise ArtworkError(f"There is no file “{path.name}”.")
    return path
