"""Connections that ask for nothing: counted, cut off in time, and never in the way of the shop's own page."""

from __future__ import annotations

import asyncio
import contextlib
import http.client
import resource
import socket
import ssl

import pytest

from bright_willow.web.connections import FIRST_REQUEST_S, ONCE_A_S, AcceptErrors, Connections
from tools.running import PATIENCE_S, Program


class Wire:
    """A connection that notes when it is cut off."""

    cut = False

    def shutdown(self, how) -> None:
        self.cut = True


def test_the_longest_silent_makes_room_and_who_has_asked_stays():
    now = [0.0]
    port = Connections(3, 3, lambda: now[0])
    wires = [Wire() for _ in range(6)]
    for n in range(3):
        now[0] = float(n)
        assert port.admits(("a", n), wires[n])
    port.has_asked(("a", 0))
    assert port.admits(("b", 3), wires[3]) and [w.cut for w in wires[:4]] == [False, True, False, False]
    for peer in (("a", 2), ("b", 3)):
        port.has_asked(peer)
    assert not port.admits(("c", 4), wires[4]) and port.refused == 1 and len(port) == 3
    port.has_gone(("a", 0), wires[5])  # an earlier one of the same name: nothing happens
    assert len(port) == 3
    port.has_gone(("a", 0), wires[0])
    assert port.admits(("c", 4), wires[4])


def test_one_address_takes_no_more_than_its_share():
    port = Connections(10, 2, lambda: 0.0)
    wires = [Wire() for _ in range(4)]
    for n, who in enumerate(("a", "a", "b", "a")):
        assert port.admits((who, n), wires[n])
    assert [w.cut for w in wires] == [True, False, False, False] and len(port) == 3


def test_silence_ends_in_time():
    now = [0.0]
    port = Connections(9, 9, lambda: now[0])
    early, late, asked = Wire(), Wire(), Wire()
    port.admits(("a", 1), early)
    port.admits(("a", 2), asked)
    port.has_asked(("a", 2))
    now[0] = FIRST_REQUEST_S - 0.1
    port.admits(("a", 3), late)
    assert port.end_silent() == 0
    now[0] = FIRST_REQUEST_S
    assert port.end_silent() == 1 and early.cut and not late.cut and not asked.cut


def test_errors_of_accepting_are_said_once_a_minute(caplog):
    now, loop = [0.0], asyncio.new_event_loop()
    said = AcceptErrors(lambda: now[0])
    context = {"message": "socket.accept() out of system resource", "exception": OSError(24, "Too many open files")}
    with caplog.at_level("WARNING", "bright_willow"):
        for _ in range(50):
            said(loop, context)
        assert len(caplog.records) == 1 and "Traceback" not in caplog.text
        now[0] = ONCE_A_S
        said(loop, context)
        assert "51 so far" in caplog.records[-1].getMessage()
    with caplog.at_level("ERROR", "asyncio"):
        said(loop, {"message": "something else", "exception": ValueError("no")})
    assert "something else" in caplog.text
    loop.close()


@pytest.fixture
def lan(tmp_path):
    phrase = tmp_path / "phrase"
    phrase.write_text("four plain apple words")
    more = ("--lan", "--address", "127.0.0.1", "--lan-port", "0", "--passphrase-file", str(phrase))
    program = Program(tmp_path / "shop", "serve", more=more, often=True).start()
    try:
        yield program, int(program.said_until("Tablets join at").split()[3].rstrip("/").rpartition(":")[2])
    finally:
        program.end()


def silent(port: int, count: int, stack: contextlib.ExitStack) -> list[socket.socket]:
    return [stack.enter_context(socket.create_connection(("127.0.0.1", port), PATIENCE_S)) for _ in range(count)]


def test_a_flood_of_silent_connections_stops_nobody(lan):
    """Of both ports, with few files to open: the shop's own page answers, and a tablet can still join."""
    program, port = lan
    resource.prlimit(program.pid, resource.RLIMIT_NOFILE, (200, 200))
    with contextlib.ExitStack() as stack:
        held = silent(port, 300, stack)
        assert program.ask("GET", "/api/health")[0] == 200
        held += silent(program.port, 150, stack)
        assert program.ask("GET", "/", accept="text/html")[0] == 200
        context = ssl.create_default_context()
        context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
        tablet = http.client.HTTPSConnection("127.0.0.1", port, timeout=PATIENCE_S, context=context)
        tablet.request("GET", "/join", headers={"host": "127.0.0.1"})
        assert tablet.getresponse().status == 200
        tablet.close()
    log = program.folder / "bright-willow.log"
    assert not log.exists() or log.stat().st_size < 2_000
