"""Taking a file in piece by piece; whatever breaks off goes on where it was."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import IO

from django.utils import timezone

from zesty_core.foundation.errors import BadInput, UnwritableAudio, ZestyError
from zesty_server.http.file_names import display_name
from zesty_server.recordings.models import Recording
from zesty_server.recordings.services import check_size, take_in
from zesty_server.uploads.digests import digest_so_far, forget_digest
from zesty_server.uploads.models import Upload

_CHUNK_BYTES = 1 << 20
#: A part that nobody has gone on with for so long is removed.
KEPT_DAYS = 7


class UploadMoved(ZestyError):  # noqa: N818
    """A piece does not join what is here; ask how much has come in and go on from there."""

    code = "upload_moved"


class UploadBusy(ZestyError):  # noqa: N818
    """Another window is bringing in the same file."""

    code = "upload_busy"


def begin_upload(name: str, size_bytes: int, modified_ms: int) -> Upload:
    """Begin with a file, or find the part of it that came in before.

    Raises :class:`BadInput` for a bad name or size, :class:`UnwritableAudio` for a full disk.
    """
    _remove_forgotten()
    name = display_name(name)[-255:]
    known = Upload.objects.filter(name=name, size_bytes=size_bytes, modified_ms=modified_ms).first()
    check_size(name, size_bytes, size_bytes - (known.received_bytes if known else 0))
    if known and Upload.objects.filter(pk=known.pk).update(touched_at=timezone.now()):
        return known
    upload, _ = Upload.objects.get_or_create(
        name=name, size_bytes=size_bytes, modified_ms=modified_ms
    )
    upload.path.parent.mkdir(parents=True, exist_ok=True)
    return upload


def add_piece(upload: Upload, stream: IO[bytes], offset: int, size_bytes: int) -> Recording | None:
    """Write a piece behind what is here; with the last one the file becomes a recording.

    What of a piece arrives before the connection breaks is kept.

    Raises
    ------
    UploadMoved
        ``offset`` is not how much has come in.
    UploadBusy
        Another request is writing.
    BadInput
        The piece goes past the end, or the whole is no sound file or a duplicate: then it is gone.
    UnwritableAudio
        The disk is full; what is here is kept.
    """
    with _only_writer(upload) as file:
        received = os.fstat(file.fileno()).st_size
        if offset != received:
            raise UploadMoved(
                f"{upload.name}: {received} bytes have come in, the piece begins at {offset}",
                path="offset",
            )
        if size_bytes <= 0 or offset + size_bytes > upload.size_bytes:
            raise BadInput(
                f"{upload.name}: a piece of {size_bytes} bytes at {offset} does not fit into "
                f"{upload.size_bytes} bytes",
                path="offset",
            )
        left = size_bytes
        digest = digest_so_far(str(upload.pk), offset)
        try:
            while left > 0 and (chunk := stream.read(min(_CHUNK_BYTES, left))):
                file.write(chunk)
                left -= len(chunk)
                if digest:
                    digest.update(chunk)
            file.flush()
            os.fsync(file.fileno())
        except OSError as fault:
            raise UnwritableAudio(
                upload.name, f"the disk did not take it ({fault.strerror})"
            ) from None
        if left > 0:
            raise UploadMoved(f"{upload.name}: the connection broke off, {left} bytes are missing")
        if not Upload.objects.filter(pk=upload.pk).update(touched_at=timezone.now()):
            discard(upload)
            raise UploadMoved(f"{upload.name}: was given up while this piece came in")
        if offset + size_bytes < upload.size_bytes:
            return None
        try:
            sha256 = digest.hexdigest() if digest else None
            return take_in(upload.path, upload.name, upload.size_bytes, sha256)
        finally:
            discard(upload)


def discard(upload: Upload) -> None:
    """Forget an upload and what has come in of it."""
    forget_digest(str(upload.pk))
    upload.path.unlink(missing_ok=True)
    Upload.objects.filter(pk=upload.pk).delete()


@contextmanager
def _only_writer(upload: Upload) -> Iterator[IO[bytes]]:
    """The part, open for adding to it; refused while another request has it."""
    with upload.path.open("ab") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise UploadBusy(f"{upload.name}: is being brought in by another window") from None
        yield file


def _remove_forgotten() -> None:
    for old in Upload.objects.filter(touched_at__lt=timezone.now() - timedelta(days=KEPT_DAYS)):
        discard(old)
