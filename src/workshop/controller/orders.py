"""What a session's thread is asked to do by other threads, and what comes of it."""

import logging
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from queue import Empty, SimpleQueue
from typing import Any

from workshop.controller.errors import LinkError

_MOMENT_S = 0.1
_log = logging.getLogger(__name__)


@dataclass
class _Order:
    """Something that is to be done, and what came of it."""

    act: Callable[[], Any]
    done: threading.Event
    given_up: bool = False
    result: Any = None
    fault: LinkError | None = None


class Orders:
    """A line of orders: many give them, one thread carries them out."""

    def __init__(self) -> None:
        self._line: SimpleQueue[_Order] = SimpleQueue()

    def ask(self, act: Callable[[], Any], wait_s: float) -> Any:
        """Let something be done; return what comes of it.

        Raises
        ------
        LinkError
            When it cannot be done, or takes too long.
        """
        order = _Order(act, threading.Event())
        self._line.put(order)
        if not order.done.wait(wait_s):
            # Nobody counts on it any more; it may not begin later, by itself.
            order.given_up = True
            raise LinkError("The machine takes too long to answer.")
        if order.fault is not None:
            raise order.fault
        return order.result

    def take(self, told: Callable[[LinkError], None], *, wait: bool) -> None:
        """Carry out what is asked for by now.

        Parameters
        ----------
        told : callable
            Is told why something was not done, besides who asked.
        wait : bool
            Wait a moment for the first.
        """
        with suppress(Empty):
            while True:
                order = (
                    self._line.get(timeout=_MOMENT_S) if wait else self._line.get_nowait()
                )
                wait = False
                if not order.given_up:
                    _carry_out(order, told)


def _carry_out(order: _Order, told: Callable[[LinkError], None]) -> None:
    try:
        order.result = order.act()
    except LinkError as error:
        order.fault = error
        told(error)
    except Exception as error:  # noqa: BLE001 (who asked is told)
        _log.exception("an order failed")
        order.fault = LinkError(f"The link could not do this ({error}).")
    finally:
        order.done.set()
