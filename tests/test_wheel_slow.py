"""The built wheel, installed into a fresh environment, runs the sample shop."""

import os
import select
import shutil
import signal
import subprocess
import sys
import urllib.request
import venv
from pathlib import Path

from tools.running import PATIENCE_S

ROOT = Path(__file__).parents[1]
ASK = [sys.executable, "-m", "pip", "--disable-pip-version-check", "-q"]


def test_the_wheel_installs_and_runs_the_demo(tmp_path):
    source = tmp_path / "source"
    shutil.copytree(ROOT / "bright_willow", source / "bright_willow", ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("pyproject.toml", "LICENSE", "README.md"):
        shutil.copy(ROOT / name, source)
    subprocess.run(
        [*ASK, "wheel", "--no-deps", "--no-build-isolation", "-w", tmp_path, source], check=True, timeout=PATIENCE_S
    )
    (wheel,) = tmp_path.glob("bright_willow-*.whl")
    venv.create(tmp_path / "fresh", with_pip=True, symlinks=True)
    programs = tmp_path / "fresh" / "bin"
    # the project's own versions keep the test steady; what to install comes from the wheel alone
    pins = [*(ROOT / "requirements.txt").read_text().splitlines()]
    (tmp_path / "pins.txt").write_text("\n".join(p.split(" ")[0] for p in pins if "==" in p))
    fresh = [programs / "python", "-m", "pip", "--disable-pip-version-check", "-q", "install"]
    subprocess.run([*fresh, "-c", tmp_path / "pins.txt", wheel], check=True, timeout=400)
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONPATH"}
    command = [programs / "bright-willow", "demo", "--port", "0", "--data", tmp_path / "shop"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=tmp_path, env=environment) as demo:
        try:
            assert select.select([demo.stdout], [], [], PATIENCE_S)[0]
            address = demo.stdout.readline().split()[5]
            for path in ("", "jobs/5/shape", "static/css/willow.css", "static/vendor/bootstrap.min.css"):
                with urllib.request.urlopen(address + path, timeout=PATIENCE_S) as answer:
                    assert answer.status == 200
        finally:
            demo.send_signal(signal.SIGINT)
            demo.wait(10)
    shipped = list((tmp_path / "fresh").rglob("bright_willow*.dist-info/licenses/LICENSE"))
    assert len(shipped) == 1
