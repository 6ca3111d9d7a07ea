"""Forms that send a file: a job, an outline, a profile, a backup, another shop's logbook, a picture."""

from __future__ import annotations

from .fields import Field
from .form_spec import FieldView, FormSpec

UNITS = (("file", "from the file"), ("mm", "mm"), ("cm", "cm"), ("in", "inches"), ("m", "meters"))
UNIT = Field("unit", "Units", "choice", choices=UNITS)
TEACHES = (("yes", "use for predictions"), ("less", "count at one third"), ("no", "save, don't use"))
OUTLINES = ".svg,.dxf,.csv,.txt,.tsv"
PHOTO_HINT = "JPEG or PNG, up to 20 MB; location data is removed"


def _file(label: str, accept: str, hint: str = "", *, name: str = "file", required: bool = False) -> Field:
    return Field(name, label, "file", hint, accept=accept, required=required)


FILE_FORMS = {
    "job": (
        _file(
            "Open a job file, drawing or point list: JSON, ZIP, SVG, DXF, CSV",
            f"application/json,.json,.zip,{OUTLINES}",
        ),
        UNIT,
        Field("teaches", "Measured bends in the file", "choice", choices=TEACHES),
    ),
    "outline": (
        _file("File", OUTLINES),
        UNIT,
        Field("scale", "Scale", "number"),
        Field("which", "Which outline", "count"),
    ),
    "profile": (_file("Profile outline from a file", ".svg,.dxf", required=True), UNIT),
    "backup": (_file("Restore a backup", ".sqlite3"),),
    "logbook": (_file("Import another shop’s logbook", ".zip"),),
    "picture": (_file("Add a picture", "image/jpeg,image/png", PHOTO_HINT, name="photo"),),
}
STARTS = {"unit": "file", "teaches": "yes", "scale": 1.0, "which": 1}


def file_inputs(kind: str, prefix: str, fault: str = "") -> dict[str, FieldView]:
    """Return the inputs of a form that sends a file, as they stand before anything is chosen.

    kind: of FILE_FORMS. prefix: of their ids. fault: what is wrong with the file. Raises: KeyError.
    """
    fields = FILE_FORMS[kind]
    return FormSpec(fields, prefix).inputs("mm", STARTS, faults={fields[0].name: fault} if fault else {})
