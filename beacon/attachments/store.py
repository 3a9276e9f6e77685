"""Where the files of attachments lie: in a folder, or in a bucket. A name there never stands for half a file."""

from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage, default_storage

from beacon.whole import write_whole


def read(name: str) -> bytes:
    """What lies under a name. Raises OSError where nothing does."""
    with default_storage.open(name) as file:
        return bytes(file.read())


def put(name: str, content: bytes) -> None:
    """Keeps bytes under a name, whole or not at all; what is there already is trusted only where it is the same.

    Raises OSError where there is no room, and then what was there before still is.
    """
    if default_storage.exists(name):
        if read(name) == content:
            return
        if not isinstance(default_storage, FileSystemStorage):
            default_storage.delete(name)
    if isinstance(default_storage, FileSystemStorage):
        write_whole(Path(default_storage.path(name)), content)
    else:
        default_storage.save(name, ContentFile(content))
