"""Copies taken and brought back while people write: each copy is of one moment, nothing is unsound, nobody sees a 500."""

from __future__ import annotations

import http.client
import json
import sqlite3
import threading
import uuid

import pytest

from bright_willow.store.store import Store
from tests.sample import fill
from tools.running import PATIENCE_S, Program

PAGES = ("/", "/book", "/jobs/2/measure", "/book/learnt", "/days")
ANSWERS = {200, 303, 308, 404, 409, 422, 503}


@pytest.fixture
def program(tmp_path):
    store = Store(tmp_path)
    with store.connected():
        fill(store)
    store.close()
    with Program(tmp_path, often=True).start() as made:
        yield made


def sent(program, path: str, body: bytes, kind: str) -> int:
    connection = http.client.HTTPConnection("127.0.0.1", program.port, timeout=PATIENCE_S)
    try:
        connection.request("POST", path, body, {"content-type": kind})
        return connection.getresponse().status
    finally:
        connection.close()


def multipart(body: bytes) -> tuple[bytes, str]:
    mark = uuid.uuid4().hex
    head = f'--{mark}\r\ncontent-disposition: form-data; name="file"; filename="c.sqlite3"\r\n\r\n'.encode()
    return head + body + f"\r\n--{mark}--\r\n".encode(), f"multipart/form-data; boundary={mark}"


def test_brought_back_while_people_write(program, tmp_path):
    stop, seen, written = threading.Event(), [], []

    def writer(n: int) -> None:
        count = 0
        while not stop.is_set():
            count += 1
            label = f"w{n}-{count}"
            body = f"label={label}&day=2026-11-20&chord=465&rise=177.5&face=outer&mishap=".encode()
            status, _ = program.ask("POST", "/jobs/2/pieces", body)
            seen.append(status)
            if status == 303:
                written.append(label)

    def reader() -> None:
        n = 0
        while not stop.is_set():
            n += 1
            seen.append(program.ask("GET", PAGES[n % len(PAGES)], accept="text/html")[0])

    people = [threading.Thread(target=writer, args=(n,)) for n in range(3)] + [threading.Thread(target=reader)]
    for person in people:
        person.start()
    copies = []
    try:
        for _ in range(4):
            status, copy = program.ask("GET", "/shop/backup")
            assert status == 200
            copies.append(copy)
            assert sent(program, "/shop/restore", *multipart(copies[0])) in (303, 503)
    finally:
        stop.set()
        for person in people:
            person.join(60)
    assert set(seen) <= ANSWERS and seen.count(200) > 1 and len(written) > 10, sorted(set(seen))
    labels = []
    for n, copy in enumerate(copies):
        file = tmp_path / f"copy{n}.sqlite3"
        file.write_bytes(copy)
        db = sqlite3.connect(file)
        assert db.execute("pragma integrity_check").fetchone() == ("ok",)
        assert db.execute("pragma foreign_key_check").fetchall() == []
        whole = "select count(*) from piece p where p.label like 'w%' and not exists (select 1 from measurement m where m.piece_id = p.id)"  # fmt: skip
        assert db.execute(whole).fetchone() == (0,)  # a piece and its measurement together, or neither
        labels.append({row[0] for row in db.execute("select label from piece")})
        db.close()
    # brought back once more with nobody writing, it is that copy and nothing else; and it can be written
    assert sent(program, "/shop/restore", *multipart(copies[0])) == 303
    body = json.loads(program.ask("GET", "/book/bends.json")[1])
    assert {b["piece"] for b in body["bends"]} == labels[0]
    status, _ = program.ask("POST", "/jobs/2/pieces", b"label=after&day=2026-11-20&chord=465&rise=177.5&face=outer&mishap=")  # fmt: skip
    assert status == 303 and b"after" in program.ask("GET", "/jobs/2/measure", accept="text/html")[1]
