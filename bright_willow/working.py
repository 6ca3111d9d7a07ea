"""What runs in a process of its own, because files made by others may ask for any time and any memory.

Such a process answers one question after another on its input and output, each a length of 8 bytes and so many bytes
of pickle, within a limit of memory on top of its own and a limit of processor time for each.
"""

from __future__ import annotations

import pickle
import sys
from collections.abc import Callable
from typing import Any, BinaryIO

LENGTH = 8


def limit_memory(most_bytes: int) -> None:
    """Not more than so much on top of what the process itself takes."""
    try:
        import resource
        from pathlib import Path

        pages = [int(n) for n in Path("/proc/self/statm").read_text().split()[:2]]
        taken, held = (n * resource.getpagesize() for n in pages)
        most = taken - held + most_bytes
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
    except (ImportError, OSError, ValueError):
        return  # not on this system: the time limit stands


def limit_time(seconds: float) -> None:
    """Not more than so much processor time from now on."""
    try:
        import resource

        used = resource.getrusage(resource.RUSAGE_SELF)
        most = int(used.ru_utime + used.ru_stime + seconds) + 2
        resource.setrlimit(resource.RLIMIT_CPU, (most, resource.getrlimit(resource.RLIMIT_CPU)[1]))
    except (ImportError, OSError, ValueError):
        return


def send(pipe: BinaryIO, thing: Any) -> None:
    """Write one thing. Raises: OSError."""
    body = pickle.dumps(thing)
    pipe.write(len(body).to_bytes(LENGTH, "big") + body)
    pipe.flush()


def receive(pipe: BinaryIO) -> Any:
    """Read one thing. Raises: EOFError where there is none any more."""
    size = int.from_bytes(head, "big") if len(head := pipe.read(LENGTH)) == LENGTH else -1
    body = pipe.read(size) if size >= 0 else b""
    if len(body) != size:
        raise EOFError
    return pickle.loads(body)


def serve(answer: Callable[..., Any], *, memory_bytes: int, seconds: float) -> None:
    """Answer questions, each the arguments of a function, until the input ends. What the function raises is sent back;
    running out of memory too."""
    asked, told = sys.stdin.buffer, sys.stdout.buffer
    limit_memory(memory_bytes)
    while True:
        try:
            arguments = receive(asked)
        except EOFError:
            return
        limit_time(seconds)
        try:
            sent = (True, answer(*arguments))
        except Exception as error:
            sent = (False, error)
        send(told, sent)
