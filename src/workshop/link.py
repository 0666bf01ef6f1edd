"""The machine link: owns every controller, whatever becomes of the other processes."""

import os
import signal
import sys
import threading
import time

from django.conf import settings

from workshop.controller.errors import LinkError
from workshop.controller.server import LinkServer

_TURN_S = 0.0005
_HEARS_S = 0.2


def main() -> int:
    """Serve until told to end; what moves then is stopped in good order."""
    try:
        server = LinkServer(settings.LINK_FOLDER, tuple(settings.LINK_HOSTS))
    except LinkError as error:
        sys.stderr.write(f"{error}\n")
        return 2
    # A stop is to be heard while programs are sent: short turns hand over sooner.
    sys.setswitchinterval(_TURN_S)
    told: list[int] = []
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda number, _: told.append(number))
    threading.Thread(target=server.serve, daemon=True).start()
    sys.stdout.write("The machine link is ready.\n")
    sys.stdout.flush()
    # A signal may reach another thread, which does not wake this one; and only this
    # one acts on it, so it looks from time to time.
    while not told:
        time.sleep(_HEARS_S)
    server.close()
    return 0


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings.base")
    sys.exit(main())
