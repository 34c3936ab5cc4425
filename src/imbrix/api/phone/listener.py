"""The listener for phones: off until asked for, on an address and port of choice, in a thread of its own."""

import contextlib
import ipaddress
import socket
import threading
import time

import uvicorn

from imbrix.api.connections import Patient
from imbrix.api.phone.app import create_phone_app
from imbrix.core.errors import ConflictError, InvalidError
from imbrix.work.ground.workspace import Workspace
from imbrix.work.handover.phones import Phones

HTTP_PORT = 80
ADDRESSES_S = 30.0
"""So long the addresses of this machine are taken to stay: a name service that does not answer takes seconds."""


class Listener:
    """Serves the phone page of one project at a time."""

    def __init__(self, space: Workspace) -> None:
        self.phones = Phones()
        self.slug = ""
        self.address = ""
        self._space = space
        self._server: uvicorn.Server | None = None
        self._thread: threading.Thread | None = None
        self._lock = threading.Lock()
        self._addresses: tuple[float, list[str]] | None = None

    def addresses(self) -> list[str]:
        """The addresses by which others may reach this machine, the likeliest first."""
        now = time.monotonic()
        if self._addresses is None or now - self._addresses[0] > ADDRESSES_S:
            self._addresses = now, own_addresses()
        return self._addresses[1]

    def open(self, slug: str, host: str, port: int) -> None:
        """Listen for a project's phones. Raises InvalidError for no address of this machine, ConflictError."""
        self._space.layout(slug)
        with self._lock:
            if self._server is not None:
                raise ConflictError("phones are let in already: close that first")
            try:
                at = ipaddress.ip_address(host)
            except ValueError:
                raise InvalidError(f"{host!r} is no address: four numbers with points between them") from None
            if at.is_unspecified:  # a phone needs one that it can open
                raise InvalidError(f"{host} is every address of this machine: choose the one that the phone can reach")
            family = socket.AF_INET6 if at.version == 6 else socket.AF_INET
            listener = socket.socket(family)
            listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                listener.bind((host, port))
            except (OSError, OverflowError) as error:
                listener.close()
                why = getattr(error, "strerror", None) or error
                raise ConflictError(f"{host}, port {port}, cannot be used ({why}): choose another") from None
            named = f"[{host}]" if ":" in host else host
            used = listener.getsockname()[1]
            where = named if used == HTTP_PORT else f"{named}:{used}"  # as a browser names it
            app = create_phone_app(self._space, slug, self.phones, where)
            config = uvicorn.Config(
                app, http=Patient, log_level="warning", ws="none", server_header=False, lifespan="off"
            )
            self._server = uvicorn.Server(config)
            self._thread = threading.Thread(target=self._server.run, args=([listener],), daemon=True)
            self._thread.start()
            self.slug, self.address = slug, f"http://{where}"

    def close(self) -> None:
        """Listen no longer; all phones are sent away."""
        with self._lock:
            self.phones.send_all_away()
            if self._server is not None and self._thread is not None:
                self._server.should_exit = True
                self._thread.join(5)
            self._server = self._thread = None
            self.slug = self.address = ""

    def wait(self, seconds: float = 5.0) -> None:
        """Wait until it answers, for tests."""
        until = time.monotonic() + seconds
        while self._server is not None and not self._server.started and time.monotonic() < until:
            time.sleep(0.01)


def own_addresses() -> list[str]:
    """The addresses by which others may reach this machine, the likeliest first."""
    found: list[str] = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as one, contextlib.suppress(OSError):
        one.connect(("192.0.2.1", 9))  # nothing is sent: it only tells which way out there is (RFC 5737)
        found.append(one.getsockname()[0])
    with contextlib.suppress(OSError):
        found += [str(each[4][0]) for each in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)]
    return [one for one in dict.fromkeys(found) if not one.startswith("127.")]
