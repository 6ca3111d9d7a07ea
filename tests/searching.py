"""How long tests by chance inputs search: the same few examples in `make test`, many fresh ones in `make check-all`."""

import os

SEARCHING = bool(os.environ.get("BRIGHT_WILLOW_SEARCH"))
TIMES = 10


def examples(few: int) -> int:
    """Return how many examples to try: so many, or ten times as many where a search was asked for."""
    return few * TIMES if SEARCHING else few
