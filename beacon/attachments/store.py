"""Where the files of attachments lie: in a folder, or in a bucket. A name there never stands for half a file."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import FileSystemStorage, default_storage

from beacon.whole import write_whole


@contextmanager
def _as_files_fail() -> Iterator[None]:
    """Makes what a bucket raises the OSError that a folder would raise."""
    if isinstance(default_storage, FileSystemStorage):
        yield
        return
    # A server whose files lie in a folder has no use for a bucket's client.
    from botocore.exceptions import BotoCoreError, ClientError

    try:
        yield
    except (BotoCoreError, ClientError) as why:
        raise OSError(f"the bucket does not answer as it should: {why}") from why


def read(name: str) -> bytes:
    """What lies under a name. Raises OSError where nothing does, or the store is away."""
    with _as_files_fail(), default_storage.open(name) as file:
        return bytes(file.read())


def put(name: str, content: bytes) -> None:
    """Keeps bytes under a name, whole or not at all; what is there already is trusted only where it is the same.

    Raises OSError where there is no room or the store is away, and then what was there before still is.
    """
    with _as_files_fail():
        if default_storage.exists(name) and read(name) == content:
            return
        if isinstance(default_storage, FileSystemStorage):
            write_whole(Path(default_storage.path(name)), content)
        else:
            default_storage.save(name, ContentFile(content))
