"""The web process: ``python -m zesty_server.web PORT [ADDRESS [--held]]``, started by ``zesty serve``.

One thread takes requests in and sends answers out, for all clients at once, however slow they are;
a request reaches one of the threads that answer when its whole body is there.
"""

from __future__ import annotations

import os
import sys
import tempfile
from importlib import import_module

from zesty_server.lifeline import end_with_parent

_THREADS = 12
_MEBIBYTE = 1 << 20
_MOST_CONNECTIONS = 2_000
#: A client that neither sends nor takes anything for so long is let go.
_SILENT_S = 60
#: A larger file comes in pieces.
MOST_BODY_BYTES = 1024 * _MEBIBYTE
#: A slow client holds up the thread that answers it only behind so much.
_MOST_UNSENT_BYTES = 1024 * _MEBIBYTE


def main(port: int, host: str = "127.0.0.1", held: str = "") -> None:
    """Serve until a signal to stop, or until the parent ends; held, from the end of the input on."""
    end_with_parent()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zesty_server.config.settings")
    from django.conf import settings
    from django.core.wsgi import get_wsgi_application
    from waitress import serve

    application = get_wsgi_application()
    import_module(settings.ROOT_URLCONF)
    if held:
        sys.stdin.read()
    # Bodies and answers that wait lie in the data folder, not in the system's temporary one.
    tempfile.tempdir = str(settings.WORK_FOLDER)
    # The server in front, where there is one, speaks from this machine.
    proxy = {
        "trusted_proxy": "127.0.0.1",
        "trusted_proxy_count": 1,
        "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
    }
    serve(
        application,
        host=host,
        port=port,
        threads=_THREADS,
        ident=None,
        connection_limit=_MOST_CONNECTIONS,
        channel_timeout=_SILENT_S,
        cleanup_interval=15,
        asyncore_use_poll=True,
        recv_bytes=_MEBIBYTE // 4,
        inbuf_overflow=4 * _MEBIBYTE,
        max_request_body_size=MOST_BODY_BYTES,
        outbuf_overflow=8 * _MEBIBYTE,
        outbuf_high_watermark=_MOST_UNSENT_BYTES,
        _quiet=True,
        **(proxy if settings.BEHIND_HTTPS else {}),
    )


if __name__ == "__main__":
    main(int(sys.argv[1]), *sys.argv[2:])
