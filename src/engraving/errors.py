"""The one family of errors the core raises.

::

    EngravingError          a sentence an operator understands
    ├── InputError          a typed-in value or an option is not usable
    │   └── ChoiceError     a name that is not among the choices
    ├── ArtworkError        the picture cannot be read or used
    └── JobError            the job as a whole cannot be computed

Every message says what was expected, what was found, and, for choices, what
the options are. ``field`` names the field the message belongs to, so that a
form can show it in its place.
"""

from collections.abc import Iterable


class EngravingError(Exception):
    """Something the operator can put right.

    Parameters
    ----------
    message : str
        One sentence: what is wrong and what to do.
    field : str, optional
        The field the message belongs to.
    """

    def __init__(self, message: str, *, field: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.field = field


class InputError(EngravingError):
    """A typed-in value or an option cannot be used."""


class ChoiceError(InputError):
    """A name that is not among the choices.

    Parameters
    ----------
    what : str
        What was being chosen, such as "dot method".
    found : str
        The name that was given.
    options : iterable of str
        The names that would have been right.
    """

    def __init__(
        self, what: str, found: str, options: Iterable[str], *, field: str = ""
    ) -> None:
        super().__init__(
            f"“{found}” is not a {what}; choose one of {', '.join(options)}.",
            field=field,
        )


class ArtworkError(EngravingError):
    """The picture cannot be read or used."""


class JobError(EngravingError):
    """The job as a whole cannot be computed."""
