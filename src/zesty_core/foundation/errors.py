"""The one family of errors. Every message names the thing, the value and what is allowed."""

from __future__ import annotations

_MOST_SHOWN = 100


class ZestyError(Exception):
    """Anything that can be said to a user in one line.

    ``code`` is stable for programs; ``path`` names the faulty field where there is one.
    """

    code = "failed"

    def __init__(self, message: str, *, path: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.path = path

    def as_json(self) -> dict[str, str | None]:
        """Shape shared by the API and the command line."""
        return {"code": self.code, "message": self.message, "path": self.path}


class BadInput(ZestyError):  # noqa: N818 - the family name says it is an error
    """What was given cannot be worked on; the caller can mend it."""

    code = "bad_input"


class BadSetting(BadInput):
    """A setting has a value that is not allowed; ``path`` says which."""

    code = "bad_setting"

    def __init__(self, path: str, value: object, allowed: str) -> None:
        super().__init__(f"{path}: {allowed}, got {_shown(value)}", path=path)
        self.value = value
        self.allowed = allowed

    def under(self, prefix: str) -> BadSetting:
        """Return the same fault seen from further out (``ratio`` -> ``steps[3].params.ratio``)."""
        return BadSetting(f"{prefix}{self.path}", self.value, self.allowed)


def _shown(value: object) -> str:
    """The value as given; a long one is cut."""
    text = repr(value)
    return text if len(text) <= _MOST_SHOWN else f"{text[:_MOST_SHOWN]}..."


class BadRecipe(BadInput):
    """A recipe document that cannot be read at all."""

    code = "bad_recipe"


class UnreadableAudio(BadInput):
    """A file that is no sound file, or a damaged or unsupported one."""

    code = "unreadable_audio"

    def __init__(self, name: str, reason: str) -> None:
        super().__init__(f"{name}: {reason}")
        self.name = name
        self.reason = reason


class MissingFile(UnreadableAudio):
    """There is no such file, or it is gone: removed by hand, or lost with a disk."""

    code = "missing_file"


class Duplicate(BadInput):
    """The same file is here already."""

    code = "duplicate"

    def __init__(self, name: str, known_as: str) -> None:
        super().__init__(f'{name}: is here already as "{known_as}"; it was not taken in twice')


class NotReady(ZestyError):  # noqa: N818
    """What was asked for is being made; ask again in a moment."""

    code = "not_ready"


class UnwritableAudio(ZestyError):  # noqa: N818
    """The result could not be written; nothing is left half-written."""

    code = "unwritable_audio"

    def __init__(self, name: str, reason: str) -> None:
        super().__init__(f"{name} was not written: {reason}")
        self.name = name
        self.reason = reason


class Cancelled(ZestyError):  # noqa: N818
    """The user stopped the work."""

    code = "cancelled"

    def __init__(self) -> None:
        super().__init__("Stopped before it was done. Nothing was written.")
