"""The sample shop opened beside the shop of the user's own, as a program of its own."""

import time
import urllib.request

from bright_willow.services.sample_shop import SampleShop


def opened(sample, beside):
    """The address of the sample shop, once it is open."""
    sample.open(beside)
    assert sample.is_opening and not sample.address
    while sample.is_opening:
        time.sleep(0.05)
    return sample.address


def test_the_sample_shop_opens_beside_and_ends_with_its_program(tmp_path):
    sample = SampleShop(tmp_path)
    at = opened(sample, "http://127.0.0.1:8765/")
    with urllib.request.urlopen(at) as page:
        text = page.read().decode()
    assert "Marrow Lane" in text and 'href="http://127.0.0.1:8765/"' in text
    sample.open("http://127.0.0.1:8765/")
    assert at == sample.address  # it is open already
    sample._program.stdin.close()  # as when the program that opened it is gone
    assert sample._program.wait(10) == 0 and sample.address == ""
    again = opened(sample, "http://elsewhere.example/")
    with urllib.request.urlopen(again) as page:
        assert "elsewhere" not in page.read().decode()  # only this machine is gone back to
    sample.close()
    assert sample.address == ""
