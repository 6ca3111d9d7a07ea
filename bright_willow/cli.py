"""The command line: serve, demo, backup, restore, passphrase, probe, quick, plan, export, schema."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from .quick_command import print_answer, size_of_arc
from .serving import NetworkOptions, choose_passphrase, run, stop

if TYPE_CHECKING:
    from .core.shop.shop import Shop

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Works out how to bend wood. Lengths in files are in mm.",
)
Data = Annotated[Path | None, typer.Option("--data", help="folder for the database (default: your user folder)")]
Port = Annotated[int, typer.Option("--port", min=0, max=65535, help="port on this machine; 0 picks a free one")]


def data_folder(chosen: Path | None, kind: str) -> Path:
    """Where the database lives."""
    from platformdirs import user_data_path

    return chosen or user_data_path("bright-willow", appauthor=False) / kind


UseLan = Annotated[bool, typer.Option("--lan", help="let tablets join over the local network (passphrase and TLS)")]
LanAddress = Annotated[str, typer.Option("--address", help="with --lan: the address of this machine to use")]
LanPort = Annotated[int, typer.Option("--lan-port", min=0, max=65535, help="with --lan: the port for tablets")]
PhraseFile = Annotated[
    Path | None, typer.Option("--passphrase-file", help="with --lan: a file that holds the passphrase")
]


def _lan_asked(lan: bool, address: str, port: int, file: Path | None) -> NetworkOptions | None:
    if not lan and (address or file):
        raise stop("--address and --passphrase-file need --lan.")
    return NetworkOptions(address, port, file) if lan else None


@app.command()
def serve(
    port: Port = 8765,
    data: Data = None,
    lan: UseLan = False,
    address: LanAddress = "",
    lan_port: LanPort = 8766,
    passphrase_file: PhraseFile = None,
) -> None:
    """Open your own shop in the browser, on this machine only unless asked."""
    asked = _lan_asked(lan, address, lan_port, passphrase_file)
    run(data_folder(data, "shop"), port, demo=False, lan=asked)


@app.command()
def demo(
    port: Port = 8765,
    data: Data = None,
    fresh: Annotated[bool, typer.Option("--fresh", help="reset the sample shop first")] = False,
    lan: UseLan = False,
    address: LanAddress = "",
    lan_port: LanPort = 8766,
    passphrase_file: PhraseFile = None,
    beside: Annotated[str, typer.Option(hidden=True, help="your own shop, which opened this one and closes it")] = "",
) -> None:
    """Open the sample shop, Marrow Lane, and its made-up jobs."""
    folder = data_folder(data, "demo")
    if fresh and folder.exists():
        _remove_demo(folder)
    run(folder, port, demo=True, lan=_lan_asked(lan, address, lan_port, passphrase_file), beside=beside)


def _remove_demo(folder: Path) -> None:
    """Take the sample shop away, where the demo made it and nothing else did."""
    from .store.open_folder import FILE, filled_by, only_one
    from .store.records import CannotOpen

    if not (folder / FILE).exists():
        if not folder.is_dir() or any(folder.iterdir()):
            raise stop(f"{folder} holds other files; nothing was removed.")
        return
    try:
        with only_one(folder):
            if filled_by(folder / FILE) != "demo":
                raise stop(f"{folder} holds a real shop, not the sample shop; nothing was removed.")
            for path in folder.glob(f"{FILE}*"):
                path.unlink()
    except CannotOpen as error:
        raise stop(str(error)) from None


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="where to write the copy")],
    data: Data = None,
    of_demo: Annotated[bool, typer.Option("--demo", help="of the sample shop")] = False,
) -> None:
    """Copy the whole shop into one file, also while it is open."""
    from .store.backup import copied
    from .store.open_folder import FILE
    from .store.records import CannotOpen

    path = data_folder(data, "demo" if of_demo else "shop") / FILE
    if not path.is_file():
        raise stop(f"There is no shop in {path.parent}.")
    if file.is_dir():
        raise stop(f"{file} is a folder; name the file.")
    try:
        copied(path, file.absolute())
    except CannotOpen as error:
        raise stop(str(error)) from None
    typer.echo(
        f"Wrote {file}: jobs with their history, forms, pieces, measurements, lots, your woods and the shop's settings."
    )


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="a copy made by backup")],
    data: Data = None,
    of_demo: Annotated[bool, typer.Option("--demo", help="in place of the sample shop")] = False,
) -> None:
    """Put a copy in the place of the shop, after checking it; what stood there is saved beside it."""
    from .store.backup import clear_unfinished, restored
    from .store.open_folder import only_one
    from .store.records import CannotOpen

    folder = data_folder(data, "demo" if of_demo else "shop")
    try:
        with only_one(folder):
            clear_unfinished(folder)
            done = restored(folder, file)
    except CannotOpen as error:
        raise stop(str(error)) from None
    typer.echo(f"The shop in {folder} now comes from {file}.")
    for message in done.left_out:
        typer.echo(message)
    if done.aside:
        typer.echo(f"The previous shop is saved in {done.aside}.")


@app.command()
def passphrase(
    data: Data = None,
    of_demo: Annotated[bool, typer.Option("--demo", help="of the sample shop")] = False,
    file: Annotated[Path | None, typer.Option("--passphrase-file", help="a file that holds the passphrase")] = None,
) -> None:
    """Choose the passphrase for tablets anew; whoever has joined must join again."""
    from .store.network_access import NetworkAccess
    from .store.open_folder import only_one
    from .store.records import CannotOpen
    from .store.store import Store

    folder = data_folder(data, "demo" if of_demo else "shop")
    try:
        with only_one(folder):
            Store(folder)  # brings along what an earlier version kept of the network
            choose_passphrase(NetworkAccess(folder), file, again=True)
    except CannotOpen as error:
        raise stop(str(error)) from None
    typer.echo("Passphrase saved.")


@app.command()
def probe(
    kind: Annotated[
        str, typer.Argument(metavar="KIND", help="kind of sensor: chamber (steam box), wood, vacuum or moisture")
    ],
    key: Annotated[str, typer.Option("--key", help="key of the sensor, made on the Bench page")],
    to: Annotated[str, typer.Option("--to", help="address of the program")] = "http://127.0.0.1:8765",
    speed: Annotated[
        float, typer.Option("--speed", min=0.01, max=10_000, help="speed of its clock (60 = an hour a minute)")
    ] = 1.0,
    every: Annotated[float, typer.Option("--every", min=0.02, max=3600, help="seconds between two readings")] = 2.0,
    fault: Annotated[
        str, typer.Option("--fault", help="fault to simulate: silent, stuck, absurd, disorder, dry or leak")
    ] = "",
    seconds: Annotated[float | None, typer.Option("--for", min=0, help="stop after this many seconds")] = None,
    ca: Annotated[Path | None, typer.Option("--ca", help="the shop's lan-ca.pem, for TLS")] = None,
) -> None:
    """A simulated sensor: sends what a real one would show, at any speed, with faults to order."""
    from .core.common.errors import PlanError
    from .devices.sender import Refused, send

    try:
        for said in send(kind, to=to, key=key, speed=speed, every_s=every, fault=fault, seconds=seconds, ca=ca):
            typer.echo(said)
            sys.stdout.flush()
    except PlanError as error:
        raise stop(str(error)) from None
    except Refused as error:
        raise stop(str(error)) from None
    except KeyboardInterrupt:
        raise typer.Exit(0) from None


def _read_json(path: Path, what: str) -> Any:
    try:
        return json.loads(path.read_text("utf-8-sig"))
    except OSError:
        raise stop(f"{what} {path} cannot be opened.") from None
    except (ValueError, RecursionError):
        raise stop(f"{what} {path} is not JSON.") from None


def _shop(file: Path | None) -> Shop:
    """The shop of a file, or one with the usual figures; faults end the command."""
    from pydantic import ValidationError

    from .core.job.faults import faults_of
    from .core.shop.shop import Shop

    try:
        return Shop.model_validate(_read_json(file, "The shop file")) if file else Shop()
    except ValidationError as error:
        raise stop("\n".join(f"{f.field}: {f.message}" for f in faults_of(error))) from None


def _planned(job_file: Path, shop_file: Path | None, experience_file: Path | None) -> tuple[Any, Any, Any]:
    """Job, shop and plan from files; faults are told and end the command."""
    from pydantic import ValidationError

    from .core.common.errors import PlanError
    from .core.job.faults import JobFaulty, faults_of
    from .core.learning.belief import NOTHING_LEARNT, ExperienceFile, learn
    from .core.plan.plan import plan as make_plan
    from .core.plan.read_job import read_job

    shop = _shop(shop_file)
    try:
        learnt = NOTHING_LEARNT
        if experience_file:
            data = _read_json(experience_file, "The experience file")
            learnt = learn(ExperienceFile.model_validate(data).bends)
        job = read_job(_read_json(job_file, "The job file"), shop.units, shop.woods)
        return job, shop, make_plan(job, shop, learnt)
    except JobFaulty as error:
        raise stop("\n".join(f"{f.field}: {f.message}" for f in error.faults)) from None
    except ValidationError as error:
        raise stop("\n".join(f"{f.field}: {f.message}" for f in faults_of(error))) from None
    except PlanError as error:
        raise stop(f"{error.field}: {error}") from None


JobFile = Annotated[Path, typer.Argument(metavar="JOB.json", help="a job file, docs/job-format.md")]
ShopFile = Annotated[Path | None, typer.Option("--shop", metavar="SHOP.json", help="the shop's own figures")]
ExperienceOption = Annotated[
    Path | None, typer.Option("--experience", metavar="FILE", help="measured bends to use for predictions")
]


@app.command()
def quick(
    thickness: Annotated[str, typer.Option(help="of the part, in the plane of the bend: 24, 1 in")],
    wood: Annotated[str, typer.Option(help="a wood of the table: oak_white, “white ash”")],
    radius: Annotated[str, typer.Option(help="of the arc")] = "",
    angle: Annotated[str, typer.Option(help="of the arc, degrees")] = "",
    length: Annotated[str, typer.Option(help="along the arc")] = "",
    chord: Annotated[str, typer.Option(help="straight line from end to end")] = "",
    rise: Annotated[str, typer.Option(help="from the chord to the high point")] = "",
    width: Annotated[str, typer.Option(help="across the bend")] = "",
    face: Annotated[str, typer.Option(help="face the size is measured on: inside, center, outside")] = "inside",
    count: Annotated[int, typer.Option(min=1, max=500, help="pieces")] = 1,
    steam: Annotated[bool, typer.Option("--steam", help="steam it instead of gluing strips")] = False,
    iron: Annotated[bool, typer.Option("--iron", help="bend it over a hot iron")] = False,
    inches: Annotated[
        bool, typer.Option("--inches", help="figures without a unit are inches; answer in inches")
    ] = False,
    shop: ShopFile = None,
    as_json: Annotated[bool, typer.Option("--json", help="print the answer and the job as JSON")] = False,
) -> None:
    """Print the quick answer for an arc: what to make, the form, the overbend, what to get, when, what to watch."""
    from .core.wood.species import woods_named
    from .web.quick_view import FACES

    own = _shop(shop).model_copy(update={"units": "in"} if inches else {})
    if len(woods := woods_named(wood, own.woods)) != 1:
        which = f"one of several woods: {', '.join(w.name for w in woods[:8])}" if woods else "not in the table"
        raise stop(f"“{wood}” is {which}.")
    faces = {name: key for key, name in FACES.items()}
    if face not in faces:
        raise stop(f"--face is one of {', '.join(faces)}.")
    asked = size_of_arc(radius, angle, length, chord, rise) | {
        "shape": "arc",
        "how": "steamed" if steam else "iron" if iron else "glued",
        "shape.face": faces[face],
        "part.thickness_mm": thickness,
        "part.count": str(count),
        "stock.species": woods[0].key,
        **({"part.width_mm": width} if width else {}),
    }
    print_answer(asked, own, as_json=as_json)


@app.command()
def plan(job: JobFile, shop: ShopFile = None, experience: ExperienceOption = None) -> None:
    """Print the whole plan of a job as JSON."""
    from .core.plan.plan_file import plan_json

    _, _, made = _planned(job, shop, experience)
    sys.stdout.write(plan_json(made, indent=2).decode() + "\n")


@app.command()
def export(
    job: JobFile,
    to: Annotated[
        Path, typer.Option("--to", metavar="form.pdf|.svg|.dxf|.csv", help="the file name's ending sets the kind")
    ],
    shop: ShopFile = None,
    experience: ExperienceOption = None,
    paper: Annotated[str, typer.Option(help="for PDF: a4, letter or a3")] = "a4",
) -> None:
    """Write the form of a job to a file at full size."""
    from .core.common.errors import PlanError
    from .drawing.export import EXPORTS

    kind = to.suffix.lower().lstrip(".")
    if kind not in EXPORTS:
        raise stop(f"“{to.name}” should end in one of {', '.join('.' + k for k in EXPORTS)}.")
    document, its_shop, made = _planned(job, shop, experience)
    try:
        to.write_bytes(EXPORTS[kind].make(document, made, its_shop.rule, paper, None))
    except PlanError as error:
        raise stop(str(error)) from None
    except OSError:
        raise stop(f"{to} cannot be written.") from None
    typer.echo(f"Wrote {to}: {EXPORTS[kind].message}.")


@app.command()
def schema(
    of: Annotated[str, typer.Option("--of", help="job, plan, shop or experience")] = "job",
) -> None:
    """Print the JSON Schema of a file format."""
    from pydantic import TypeAdapter

    from .core.learning.belief import ExperienceFile
    from .core.plan.plan_file import PlanFile
    from .core.plan.read_job import job_schema
    from .core.shop.shop import Shop

    known: dict[str, Any] = {"job": None, "plan": PlanFile, "shop": Shop, "experience": ExperienceFile}
    if of not in known:
        raise stop(f"There is no format “{of}”. Choose one of {', '.join(known)}.")
    mode = "serialization" if of == "plan" else "validation"
    made = TypeAdapter(known[of]).json_schema(mode=mode) if known[of] else job_schema()  # type: ignore[arg-type]
    typer.echo(json.dumps(made, indent=2))


def main() -> None:
    """Entry point."""
    app()


if __name__ == "__main__":
    main()
