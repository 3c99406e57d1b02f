"""The one door for what comes as a file or as pasted text: size, encoding, and what no text holds."""

from django.core.files.uploadedfile import UploadedFile

from rocklash.commands.base import Command
from valvetrain.errors import BuildFileError
from valvetrain.formats.plain_table import decode

LARGEST = 1_000_000  # bytes of a log or a table


def sent_bytes(command: Command, enough: str, largest: int = LARGEST) -> bytes:
    """The file that was sent, or else the text pasted. Raises BuildFileError for more than `largest` bytes; `enough` says what is plenty."""
    file: UploadedFile[bytes] | None = command.files.get("file")
    raw = file.read(largest + 1) if file else str(command.data.get("text", "")).encode()
    if len(raw) > largest:
        raise BuildFileError(f"This is larger than {largest / 1e6:g} MB. {enough}")
    return bytes(raw)


def sent_text(command: Command, enough: str, largest: int = LARGEST) -> str:
    """The same as text, in any usual encoding, with plain line ends. Raises BuildFileError for what is no text."""
    return decode(sent_bytes(command, enough, largest))
