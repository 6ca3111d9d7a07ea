"""Each registry takes one more: a copy of the program gets one of each, in the places docs/architecture.md names."""

import shutil
import subprocess
import sys
from pathlib import Path

from tools.running import PATIENCE_S

ROOT = Path(__file__).parents[1]
SHAPE = '''"""A quarter of a circle."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from ..arc import Arc
from ..curve import Curve
from .shape_base import Ask, Radius, ShapeBase, Start, StartingCurve


class QuarterArc(ShapeBase):
    """A quarter of a circle, given by its radius."""

    named: ClassVar[str] = "quarter circle"
    asks: ClassVar[tuple[Ask, ...]] = (Ask("radius_mm", "Radius"),)
    kind: Literal["quarter_arc"]
    radius_mm: Radius

    def face_curve(self) -> Curve:
        return Arc(self.radius_mm, math.pi / 2).curve()

    @classmethod
    def started_from(cls, sized: StartingCurve) -> Start:
        return {"radius_mm": sized.radius_mm}
'''
CHECK = '''

def many_pieces(at: CheckContext[Any]) -> Finding | None:
    """Whether many are wanted."""
    if at.job.part.count < 40:
        return None
    return Finding("bend.many", "watch", "shape", "That is a lot of pieces.", "Make one first.")
'''
CAUSE = """
[cause.moon]
name = "Bent by the wrong moon"
brings = { broken_across = 3 }
facts = []
findings = { "strain.breaks" = 9.0 }
look = "Look up."
next = "Wait."
"""
OPERATION = '''

def sweep_the_floor(shop: Shop) -> Operation:
    """The floor is swept before anything is glued."""
    return Operation("sweep", "sweep", "Sweep the floor", "job", Times(shop).of(sweep=1), takes=(ResourceHold("broom"),))
'''
STAGE = '''"""Thanks: who helped."""

from .base import StagePage

PAGE = StagePage(answer=lambda look: "Thank your helper.")
'''
PROVES = """
from starlette.testclient import TestClient
from pathlib import Path
import bright_willow, sys, tempfile
from bright_willow.core.common.operation import resource_name
from bright_willow.core.diagnosis.causes import causes_of
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.devices.port import KINDS
from bright_willow.store.store import Store
from bright_willow.web.app import create_app

assert Path(bright_willow.__file__).is_relative_to(sys.argv[1])
job = read_job({"name": "Quarter", "shape": {"kind": "quarter_arc", "face": "inner", "radius_mm": 600},
    "part": {"thickness_mm": 40, "width_mm": 40, "count": 50}, "build_up": {"laminae": 2}})
made = plan(job, Shop())
assert round(made.geometry.mid.sweep_deg) == 90                                         # the shape
assert "bend.many" in {f.code for f in made.findings}                                   # the check
assert made.operations[0].key == "sweep" and made.operations[0].attended_s.likely == 77 # the operation and its time
assert resource_name("broom") == "the broom"                                            # the resource
assert causes_of("broken_across", made)[0].cause.key == "moon"                            # the cause
store = Store(Path(tempfile.mkdtemp()))
with store.connected():
    number = store.jobs.add(job)
client = TestClient(create_app(store), base_url="http://127.0.0.1")
shape, thanks = client.get(f"/jobs/{number}/shape").text, client.get(f"/jobs/{number}/thanks").text
assert "quarter circle" in shape and "Thank your helper." in thanks and ">Thanks<" in shape    # the stage
assert "Sweep the floor" in client.get(f"/jobs/{number}/shape/steps").text
assert made.operations[0].takes[0].name == "the broom"
assert client.get(f"/jobs/{number}/take/names").text == "Quarter"                       # the file to take along
assert KINDS["wind"].unit == "m/s" and "weather vane" in client.get("/bench").text      # the kind of sensor
print("all there")
"""
OPERATIONS = """    def operations(self, bend: Bend, make: Any, form: FormSketch) -> tuple[Operation, ...]:
        from .steps.shared_steps import sweep_the_floor

        return (sweep_the_floor(self.shop), *self._glued(bend, make, form))

"""
EXPORT = '    "names": Export("txt", "its name", "text/plain", lambda job, *_: job.name.encode(), "name"),\n'
NEW_FILES = {
    "core/shape/kinds/quarter_arc.py": SHAPE,
    "web/stages/thanks.py": STAGE,
    "web/templates/stages/thanks.html": "<h2>Thanks</h2>",
}
ADDED_AT_THE_END = {
    "core/checks/bend.py": CHECK,
    "core/methods/steps/shared_steps.py": OPERATION,
    "core/diagnosis/data/causes.toml": CAUSE,
}
# File, the line before which something is put, and what. The operation and the check are called by one family of methods.
LINES = (
    ("core/shape/shape_registry.py", "from .kinds.ring import", "from .kinds.quarter_arc import QuarterArc\n"),
    ("core/shape/shape_registry.py", "    | ArcByRadius\n", "    | QuarterArc\n"),
    ("core/methods/laminated.py", "        on_bend.crossing,", "        on_bend.many_pieces,\n"),
    ("core/methods/laminated.py", "    def operations(self, bend", OPERATIONS),
    ("core/methods/steps/shared_steps.py", "from ...common.units", "from ...common.operation import ResourceHold\n"),
    ("core/shop/data/times.toml", "[time.release]", '[time.sweep]\nname = "Sweep"\nseconds = 77.0\n'),
    ("core/common/operation.py", '"oven", "saw"]', '"broom", '),
    ("core/common/operation.py", '    "oven": (', '    "broom": ("the broom", "brooms"),\n'),
    ("core/common/findings.py", '    "measure",', '    "thanks",\n'),
    (
        "core/common/stages.py",
        '        StageRow("measure"',
        '        StageRow("thanks", "Thanks", "thanks", "say thanks"),\n',
    ),
    ("devices/port.py", '        Kind("moisture"', '        Kind("wind", "weather vane", "m/s", 0.0, 60.0),\n'),
    ("drawing/export.py", '    "stick": Export(', EXPORT),
)


def test_one_more_of_everything_is_one_file_and_its_lines(tmp_path):
    package = tmp_path / "bright_willow"
    without = shutil.ignore_patterns("__pycache__", "help")
    shutil.copytree(ROOT / "bright_willow", package, ignore=without)
    for name, text in NEW_FILES.items():
        (package / name).write_text(text)
    for name, text in ADDED_AT_THE_END.items():
        (package / name).write_text((package / name).read_text() + text)
    for name, before, line in LINES:
        text = (package / name).read_text()
        assert before in text, (name, before)
        after = before.replace("operations", "_glued") if line == OPERATIONS else before
        (package / name).write_text(text.replace(before, line + after, 1))
    proof = [sys.executable, "-c", PROVES, str(tmp_path)]
    ran = subprocess.run(proof, cwd=tmp_path, capture_output=True, text=True, timeout=PATIENCE_S, check=False)
    assert ran.stdout.strip() == "all there", ran.stderr[-2000:]
