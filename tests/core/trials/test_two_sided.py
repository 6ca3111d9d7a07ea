"""The best steaming time: by hand, by its laws, and found again in pieces bent by chance."""

import math

import numpy as np
import pytest
from scipy.integrate import dblquad

from bright_willow.core.common.errors import PlanError
from bright_willow.core.trials.two_sided import EDGE, LONG_SD, SHORT_SD, SteamedPiece, best_time


def sigmoid(z: float) -> float:
    return 1 / (1 + math.exp(-z))


def ask(*seen, earliest=15.0, latest=60.0):
    pieces = [SteamedPiece(m, came) for m, came in seen]
    return best_time(pieces, earliest_min=earliest, latest_min=latest, over=(5.0, 180.0))


def test_before_anything_speaks_it_lies_between_both_edges():
    made = ask((30.0, "whole"))
    assert made.best.likely == pytest.approx(30, rel=0.12)  # the middle of 15 and 60
    assert made.too_short.likely == pytest.approx(15, rel=0.2) and made.too_long.likely == pytest.approx(60, rel=0.2)
    assert made.best.low < made.best.likely < made.best.high


@pytest.mark.parametrize("came", ["splintered", "brittle", "broken", "whole"])
def test_the_weight_of_one_piece_against_an_integral(came):
    """Mean of the best time's logarithm, by quadrature over both edges, of one piece at 20 min."""
    la, lb, u = math.log(15), math.log(60), math.log(20)

    def told(a, b):
        short, long = sigmoid((u - a) / EDGE), sigmoid((b - u) / EDGE)
        message = {"whole": short * long, "splintered": 1 - short, "brittle": short * (1 - long)}
        return message.get(came, 1 - short * long)

    def weigh(a, b):
        if b <= a:
            return 0.0
        return told(a, b) * math.exp(-0.5 * ((a - la) / SHORT_SD) ** 2 - 0.5 * ((b - lb) / LONG_SD) ** 2)

    area = (lb - 4 * LONG_SD, lb + 4 * LONG_SD, lambda _: la - 4 * SHORT_SD, lambda _: la + 4 * SHORT_SD)
    total = dblquad(lambda a, b: weigh(a, b), *area, epsrel=1e-4)[0]
    # below the median from the middle half of the weight lies: the likely time is that median
    likely = math.log(ask((20.0, came)).best.likely)
    under = dblquad(lambda a, b: weigh(a, b) * ((a + b) / 2 < likely), *area, epsrel=1e-3)[0]
    assert under / total == pytest.approx(0.5, abs=0.03)


def test_splinters_ask_for_longer_and_brittle_breaks_for_shorter():
    plain = ask((30.0, "whole"))
    longer, shorter = ask((30.0, "whole"), (25.0, "splintered")), ask((30.0, "whole"), (35.0, "brittle"))
    assert longer.best.likely > plain.best.likely > shorter.best.likely
    assert longer.too_short.likely > plain.too_short.likely and shorter.too_long.likely < plain.too_long.likely
    assert longer.too_long.likely == pytest.approx(plain.too_long.likely, rel=0.1)  # each speaks for its own edge
    assert all(low <= p <= high for low, p, high in zip(plain.low, plain.chance, plain.high, strict=True))
    top = plain.settings[int(np.argmax(plain.chance))]
    assert top == pytest.approx(plain.best.likely, rel=0.15)


def test_pieces_far_from_the_plan_are_believed():
    """Thirty whole at a quarter of the planned time, all brittle at the plan: the edge goes there."""
    far = ask(*[(4.0, "whole")] * 30, *[(30.0, "brittle")] * 10, earliest=15.0, latest=60.0)
    assert far.too_short.likely < 4.0 < far.too_long.likely < 30.0


def test_what_was_true_is_found_again():
    """Shops drawn from the prior, 24 pieces at 0.6, 1 and 1.6 of the plan: eight in ten of the true best within."""
    rng, within, off = np.random.default_rng(7), 0, []
    for _ in range(120):
        a, b = rng.normal(math.log(15), SHORT_SD), rng.normal(math.log(60), LONG_SD)
        if b <= a:
            continue
        seen = []
        for minutes in np.repeat((18.0, 30.0, 48.0), 8):
            u = math.log(minutes)
            if rng.random() > sigmoid((u - a) / EDGE):
                seen.append((float(minutes), "splintered"))
            elif rng.random() > sigmoid((b - u) / EDGE):
                seen.append((float(minutes), "brittle"))
            else:
                seen.append((float(minutes), "whole"))
        made, true = ask(*seen), math.exp((a + b) / 2)
        within += made.best.low <= true <= made.best.high
        off.append(math.log(made.best.likely / true))
    assert 0.72 <= within / len(off) <= 0.95 and abs(np.median(off)) < 0.05


def test_what_is_no_time_is_refused():
    for bad in (0.0, -1.0, math.nan):
        with pytest.raises(PlanError):
            ask((bad, "whole"))
        with pytest.raises(PlanError):
            ask((10.0, "whole"), earliest=bad)
