"""Serving: this machine alone, or beside it the network for tablets, until Ctrl+C."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import typer


def stop(message: str) -> typer.Exit:
    """Says why on the error stream; what is returned ends the command when it is raised."""
    typer.echo(message, err=True)
    return typer.Exit(2)


UVICORN: dict[str, Any] = {
    "log_level": "warning",
    "server_header": False,
    "proxy_headers": False,
    "timeout_graceful_shutdown": 2,
}
OWN_SHARE, NETWORK_SHARE = 0.45, 0.35  # of the files this program may open, for connections to either port
LEAST_ROOM = 64  # connections, where no number was worked out
MOST_ON_NETWORK = 256  # connections, a quarter of them from one address


@dataclass(frozen=True)
class NetworkOptions:
    """What was asked of the network: which of this machine's addresses, which port, a file with the passphrase."""

    address: str
    port: int
    passphrase_file: Path | None


def run(folder: Path, port: int, *, demo: bool, lan: NetworkOptions | None = None, beside: str = "") -> None:
    """Hold a data folder for this program alone and serve it. Raises: typer.Exit with a sentence.

    beside: the address of the program that opened this one; this one ends when its standard input does.
    """
    from .store.open_folder import only_one
    from .store.records import CannotOpen

    try:
        with only_one(folder) as address:
            _serve(folder, port, address, demo=demo, lan=lan, beside=beside)
    except CannotOpen as error:
        raise stop(str(error)) from None


def _serve(folder: Path, port: int, address: Path, *, demo: bool, lan: NetworkOptions | None, beside: str) -> None:
    """Serve a folder that is held for this program alone, until Ctrl+C."""
    import os
    import signal

    import uvicorn

    if sys.stderr.isatty():  # reading the program in takes a second or two
        typer.echo("Opening Bright Willow …", err=True)
    from .log import log_to
    from .store.backup import clear_unfinished
    from .store.network_access import NetworkAccess
    from .store.store import Store
    from .web.app import create_app
    from .web.connections import ConnectionActivity, Connections, room_for

    clear_unfinished(folder)
    store = Store(folder)
    if demo:
        _fill_demo(store)
    store.hold_open()
    access = NetworkAccess(folder)
    if lan:
        choose_passphrase(access, lan.passphrase_file)
    own = Connections(most := room_for(OWN_SHARE), most)
    listener = _listening(port, connections=own)
    at = f"http://127.0.0.1:{listener.getsockname()[1]}/"
    address.write_text(at, "utf-8")
    log_to(folder)
    application = create_app(store)
    application.state.connections.append(own)
    application.state.beside = beside if beside.startswith("http://127.0.0.1:") else ""
    config = uvicorn.Config(ConnectionActivity(application, own), **UVICORN)

    class Serving(uvicorn.Server):
        """Pages that look on are let go first."""

        def handle_exit(self, sig: int, frame: Any) -> None:
            application.state.hub.is_closing = True
            super().handle_exit(sig, frame)

    server = Serving(config)
    for sig in (signal.SIGINT, signal.SIGTERM):  # from now on, also while it is still starting
        signal.signal(sig, server.handle_exit)
    typer.echo(f"Bright Willow is open at {at}  (Ctrl+C closes it)")
    typer.echo(f"Everything is saved in {folder}")
    sys.stdout.flush()
    if beside:
        _end_with_input(server)
    if lan:
        _with_network(server, application, access, listener, lan)
    else:
        server.run(sockets=[listener])
    if server.started:
        # whatever still works on a thread has nothing left to tell anybody; what was acknowledged is on the disk
        address.unlink(missing_ok=True)
        sys.stdout.flush()
        os._exit(0)


def _end_with_input(server: Any) -> None:
    """End a server when its standard input ends: with the program that opened it."""
    import threading

    def wait() -> None:
        sys.stdin.read()
        server.should_exit = True

    threading.Thread(target=wait, daemon=True).start()


def choose_passphrase(access: Any, file: Path | None, *, again: bool = False) -> None:
    """The passphrase of the network: from a file, or asked for where none was chosen yet; again: asked for anyhow."""
    from .store.records import NotKept
    from .web.lan import set_passphrase, too_weak

    if file is None and access.passphrase_hash and not again:
        return
    if file is not None:
        try:
            phrase = file.read_text("utf-8").strip()
        except (OSError, UnicodeError):
            raise stop(f"The passphrase file {file} cannot be read.") from None
    else:
        phrase = typer.prompt("Choose a passphrase for tablets", hide_input=True, confirmation_prompt=True)
    if message := too_weak(phrase):
        raise stop(message)
    try:
        set_passphrase(access, phrase)
    except NotKept as error:
        raise stop(str(error)) from None


def _with_network(server: Any, application: Any, access: Any, listener: Any, lan: NetworkOptions) -> None:
    """Serve this machine as ever, and beside it the network, over TLS and behind the gate, until Ctrl+C."""
    import asyncio
    import contextlib

    import uvicorn

    from .web.connections import ConnectionActivity, Connections, room_for
    from .web.lan import Lan, NetworkGate, certificate, own_address

    address = lan.address or own_address()
    theirs = Connections(most := min(MOST_ON_NETWORK, room_for(NETWORK_SHARE)), max(1, most // 4))
    for own in application.state.connections:
        own.before_it.append(theirs)
    application.state.connections.append(theirs)
    outside = _listening(lan.port, address, connections=theirs)
    try:
        cert, fingerprint = certificate(access.path.parent, [address, "localhost"])
    except (OSError, ValueError) as error:
        raise stop(f"No certificate could be made for {address}: {error}.") from None
    known = Lan(access, address, outside.getsockname()[1], fingerprint)
    application.state.lan = known
    typer.echo(f"Tablets join at {known.url}  (certificate SHA-256 {fingerprint})")
    _print_code(known.url)
    sys.stdout.flush()

    class SecondServer(uvicorn.Server):
        """A server that leaves signals to the other."""

        @contextlib.contextmanager
        def capture_signals(self) -> Any:
            yield

    gate = NetworkGate(application, known, application.state.planners)
    second = SecondServer(
        uvicorn.Config(ConnectionActivity(gate, theirs), lifespan="off", ssl_certfile=str(cert), **UVICORN)
    )

    async def both() -> None:
        beside = asyncio.create_task(second.serve(sockets=[outside]))
        await server.serve(sockets=[listener])
        second.should_exit = True
        await beside

    asyncio.run(both())


def _print_code(url: str) -> None:
    """The address as a code to photograph, where there is a terminal."""
    if sys.stdout.isatty():
        import segno

        segno.make(url, micro=False).terminal(compact=True)


def _fill_demo(store: Any) -> None:
    from .demo.marrow_lane import fill

    with store.connected():
        if store.is_empty:
            fill(store)
            store.note("filled by", "demo")


def _listening(port: int, address: str = "127.0.0.1", *, connections: Any = None) -> Any:
    import errno
    import socket

    from .web.connections import Connections, LimitedListener

    # the protocol by name: without it every answer waits for an acknowledgement, some 40 ms
    listener = LimitedListener(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.connections = connections or Connections(LEAST_ROOM, LEAST_ROOM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((address, port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        if error.errno in (errno.EADDRNOTAVAIL, errno.EINVAL) or isinstance(error, socket.gaierror):
            raise stop(f"{address} is not an address of this machine: give one with --address.") from None
        other = port + 1 if 1024 <= port < 65535 else 8123
        what = "may not be used by you" if error.errno == errno.EACCES else "is taken"
        raise stop(f"Port {port} {what}. Choose another: --port {other}.") from None
    return listener
