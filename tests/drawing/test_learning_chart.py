"""The chart of what is learnt: dots where they belong, and those off the scale said to be so."""

from defusedxml.ElementTree import fromstring

from bright_willow.core.common.estimate import Estimate
from bright_willow.drawing.learning_chart import Dot, LearningRow, learning_chart

NS = "{http://www.w3.org/2000/svg}"


def test_dots_stand_in_order_and_off_scale_ones_are_marked():
    ratios = [0.5, 1.0, 2.0, 9.5, -0.3]
    dots = tuple(Dot(r, 0.05, f"piece <{r}>", r < 0) for r in ratios)
    root = fromstring(learning_chart([LearningRow("Ash & oak", Estimate(0.8, 1.1, 1.6, "learned"), 3, dots)]))
    xs = [float(c.get("cx")) for c in root.iter(f"{NS}circle")]
    assert len(xs) == 3 and xs == sorted(xs)
    assert abs((xs[1] - xs[0]) - (xs[2] - xs[1])) < 0.01  # a log scale: halves and doubles alike
    texts = [t.text for t in root.iter(f"{NS}text")]
    assert "9.5" in texts and "-0.3" in texts
    (band,) = [r for r in root.iter(f"{NS}rect") if r.get("class") == "band"]
    assert float(band.get("x")) < xs[1] < float(band.get("x")) + float(band.get("width")) < xs[2]
