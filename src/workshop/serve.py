"""The web server: warms the compiled kernels in the background, then serves."""

import ctypes
import gc
import logging
import os
import sys
import threading
from collections.abc import Callable
from contextlib import suppress

import waitress
from django.conf import settings

from workshop.tasting import get_ready
from workshop.wsgi import application

_RECEIVED = 256 * 1024
"""A picture is received in so many bytes at once: a third of the time of 8 KB."""
_M_ARENA_MAX = -8  # malloc.h
_TURN_S = 0.0005
_FIRST_PAGE_S = 1.0
"""For so long nothing is warmed: whoever started the program waits for its first page."""


def main() -> int:
    """Serve until told to end; return the exit status."""
    from workshop.jobs.pictures.engine import warm_up  # noqa: PLC0415 (after settings)

    if settings.REQUIRE_LOGIN and not _operator_exists():
        print(
            f"On {settings.HOST} everyone must sign in, and there is no operator yet.\n"
            "Make one first: make operator NAME=…",
            file=sys.stderr,
        )
        return 2
    _share_heaps()
    # The kernels run beside the interpreter; short turns let them hand over sooner.
    sys.setswitchinterval(_TURN_S)
    logging.getLogger("waitress").setLevel(logging.ERROR)
    # A proxy that speaks TLS says so in a header; from others it is not believed.
    proxied = {
        "trusted_proxy": "127.0.0.1",
        "trusted_proxy_headers": {"x-forwarded-proto", "x-forwarded-for"},
        "clear_untrusted_proxy_headers": True,
    }
    server = waitress.create_server(
        application,
        host=settings.HOST,
        port=settings.PORT,
        recv_bytes=_RECEIVED,
        threads=24,  # pages at machines keep one each; see bench/machines/state.py
        max_request_body_size=220 * 2**20,
        ident="",
        channel_timeout=300,
        **(proxied if settings.BEHIND_TLS else {}),
    )
    # Port 0 takes any that is free.
    print(f"Old Ember: http://{settings.HOST}:{server.effective_port}/", flush=True)
    getting_ready = threading.Timer(_FIRST_PAGE_S, _get_warm, [warm_up])
    getting_ready.daemon = True
    getting_ready.start()
    server.run()
    return 0


def _share_heaps() -> None:
    """Let all threads share two heaps, where the C library has one for each (glibc).

    What a thread lets go of is of use to its own heap alone: half a gigabyte lay idle.
    """
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(_M_ARENA_MAX, 2)


def _get_warm(warm_up: Callable[[], None]) -> None:
    """Warm the kernels; what is there then stays, and is not looked through for waste.

    Looking through all of it holds every request up for a tenth of a second.
    """
    get_ready()
    warm_up()
    gc.collect()
    gc.freeze()


def _operator_exists() -> bool:
    from django.contrib.auth import get_user_model  # noqa: PLC0415 (needs Django)

    return bool(get_user_model().objects.filter(is_active=True).exists())


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings.base")
    sys.exit(main())
