"""The program itself: over its network it asks for the passphrase; probes send."""

from __future__ import annotations

import json
import socket
import ssl
import time
from contextlib import closing, suppress
from http.client import HTTPSConnection
from pathlib import Path
from urllib.parse import urlsplit

import pytest

from tools.running import PATIENCE_S, Program, run_command


@pytest.fixture
def on_the_network(tmp_path):
    phrase = tmp_path / "phrase"
    phrase.write_text("four plain apple words\n")
    (tmp_path / "shop").mkdir()
    more = ("--lan", "--address", "127.0.0.1", "--lan-port", "0", "--passphrase-file", str(phrase))
    program = Program(tmp_path / "shop", "demo", more=more).start()
    yield program
    program.end()


def test_over_the_network_it_speaks_tls_and_asks_for_the_passphrase(on_the_network, tmp_path):
    said = on_the_network.said_until("Tablets join at ")
    address = said.split()[3].rstrip("/")
    assert address.startswith("https://127.0.0.1:") and "SHA-256" in said
    trusts = ssl.create_default_context(cafile=str(tmp_path / "shop" / "lan-ca.pem"))
    host, port = urlsplit(address).hostname, urlsplit(address).port
    cookie = ""

    def ask(path: str, body: str | None = None) -> tuple[int, str, str]:
        with closing(HTTPSConnection(host, port, timeout=PATIENCE_S, context=trusts)) as asked:
            form = {"content-type": "application/x-www-form-urlencoded"} if body else {}
            asked.request("POST" if body else "GET", path, body, {**form, "cookie": cookie})
            answer = asked.getresponse()
            return answer.status, answer.read().decode(), answer.getheader("set-cookie") or ""

    assert ask("/bench")[0] == 401
    assert ask("/join", "passphrase=wrong")[0] == 422
    status, _, cookie = ask("/join", "passphrase=four+plain+apple+words&name=saw")
    assert status == 303
    page = ask("/bench")
    assert page[0] == 200 and "A tablet at the bench" in page[1] and "saw" in page[1]
    stranger = HTTPSConnection(host, port, timeout=PATIENCE_S, context=ssl.create_default_context())
    with closing(stranger), pytest.raises(ssl.SSLCertVerificationError):
        stranger.request("GET", "/join")  # without the shop's own authority nobody trusts it


def test_without_lan_nothing_listens_off_the_machine(tmp_path):
    with Program(tmp_path).start() as program:
        lines = Path(f"/proc/{program.pid}/net/tcp").read_text().splitlines()[1:]
        inodes = {f"socket:[{line.split()[9]}]" for line in lines if line.split()[3] == "0A"}
        own = set[str]()
        for fd in Path(f"/proc/{program.pid}/fd").iterdir():
            with suppress(OSError):  # closed meanwhile
                own.add(str(fd.readlink()))
        listening = [line.split()[1] for line in lines if f"socket:[{line.split()[9]}]" in own & inodes]
        assert listening and all(at.startswith("0100007F:") for at in listening)  # 127.0.0.1
        with socket.socket(socket.AF_INET6) as other, pytest.raises(OSError):
            other.connect(("::1", program.port))


def test_what_goes_with_lan_is_said(tmp_path):
    shop, phrase = ("--data", str(tmp_path / "shop"), "--port", "0"), tmp_path / "phrase"
    phrase.write_text("short")
    for words, message in (
        (("--address", "127.0.0.1"), "need --lan"),
        (("--lan", "--passphrase-file", str(phrase)), "At least 8 letters"),
        (("--lan", "--passphrase-file", str(tmp_path / "none")), "cannot be read"),
    ):
        out = run_command("serve", *shop, *words)
        assert out.returncode == 2 and message in out.stderr and "Traceback" not in out.stderr
    phrase.write_text("long enough words")
    out = run_command("serve", *shop, "--lan", "--passphrase-file", str(phrase), "--address", "203.0.113.9")
    assert out.returncode == 2 and "not an address of this machine" in out.stderr
    assert run_command("passphrase", *shop[:2], "--passphrase-file", str(phrase)).stdout.strip() == "Passphrase saved."


def test_a_simulated_probe_sends_and_is_refused_with_a_sentence(tmp_path):
    with Program(tmp_path).start() as program:
        body = program.ask("POST", "/probes", b"name=box&kind=chamber")[1].decode()
        key = body.split('class="probe-key">')[1].split("<")[0]
        to = ("--to", program.address, "--every", "0.05")
        out = run_command("probe", "chamber", *to, "--key", key, "--speed", "600", "--for", "2")
        assert out.returncode == 0, out.stderr
        time.sleep(0.7)
        page = program.ask("GET", "/bench")[1].decode()
        assert "°C</strong>" in page and "nothing yet" not in page
        wrong = run_command("probe", "chamber", *to, "--key", "guessed")
        assert wrong.returncode == 2 and "belongs to no sensor" in wrong.stderr
        odd = run_command("probe", "sonar", "--key", "x")
        assert odd.returncode == 2 and "no such sensor" in odd.stderr
        status, said = program.ask(
            "POST", "/api/readings", json.dumps({"value": 1}).encode(), authorization=f"Bearer {key}"
        )
        assert status == 202, said
