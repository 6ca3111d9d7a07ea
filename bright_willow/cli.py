"""The command line: serve, demo, backup, restore, plan, export, schema."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Works out how to bend wood. Lengths in files are in mm.",
)
Data = Annotated[Path | None, typer.Option("--data", help="folder for the database; by default the user's own")]
Port = Annotated[int, typer.Option("--port", min=0, max=65535, help="port on this machine; 0 takes a free one")]


def data_folder(chosen: Path | None, kind: str) -> Path:
    """Where the database lives."""
    from platformdirs import user_data_path

    return chosen or user_data_path("bright-willow", appauthor=False) / kind


def _run(folder: Path, port: int, *, demo: bool) -> None:
    from .store.opening import only_one
    from .store.records import CannotOpen

    try:
        with only_one(folder) as address:
            _serve(folder, port, address, demo=demo)
    except CannotOpen as error:
        raise _stop(str(error)) from None


def _serve(folder: Path, port: int, address: Path, *, demo: bool) -> None:
    """Serve a folder that is held for this program alone, until Ctrl+C."""
    import os

    import uvicorn

    from .log import log_to
    from .store.book import Store
    from .web.app import create_app

    store = Store(folder)
    if demo:
        _fill_demo(store)
    store.hold_open()
    listener = _listening(port)
    at = f"http://127.0.0.1:{listener.getsockname()[1]}/"
    address.write_text(at, "utf-8")
    log_to(folder)
    typer.echo(f"Bright Willow is open at {at}  (Ctrl+C closes it)")
    typer.echo(f"Everything is kept in {folder}")
    sys.stdout.flush()
    config = uvicorn.Config(create_app(store), log_level="warning", server_header=False, timeout_graceful_shutdown=2)
    server = uvicorn.Server(config)
    server.run(sockets=[listener])
    if server.started:
        # whatever still works on a thread has nothing left to tell anybody; what was acknowledged is on the disk
        address.unlink(missing_ok=True)
        sys.stdout.flush()
        os._exit(0)


def _fill_demo(store: Any) -> None:
    from .demo.marrow_lane import fill

    with store.connected():
        if store.is_empty:
            fill(store)
            store.note("filled by", "demo")


def _listening(port: int) -> Any:
    import errno
    import socket

    # the protocol by name: without it every answer waits for an acknowledgement, some 40 ms
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        other = port + 1 if 1024 <= port < 65535 else 8123
        what = "may not be used by you" if error.errno == errno.EACCES else "is taken"
        raise _stop(f"Port {port} {what}. Choose another: --port {other}.") from None
    return listener


def _stop(says: str) -> typer.Exit:
    typer.echo(says, err=True)
    return typer.Exit(2)


@app.command()
def serve(port: Port = 8765, data: Data = None) -> None:
    """Open your own shop in the browser, on this machine only."""
    _run(data_folder(data, "shop"), port, demo=False)


@app.command()
def demo(
    port: Port = 8765,
    data: Data = None,
    fresh: Annotated[bool, typer.Option("--fresh", help="start the sample shop anew")] = False,
) -> None:
    """Open the sample shop, Marrow Lane, and its made-up jobs."""
    folder = data_folder(data, "demo")
    if fresh and folder.exists():
        _remove_demo(folder)
    _run(folder, port, demo=True)


def _remove_demo(folder: Path) -> None:
    """Take the sample shop away, where the demo made it and nothing else did."""
    from .store.opening import FILE, filled_by, only_one
    from .store.records import CannotOpen

    if not (folder / FILE).exists():
        if not folder.is_dir() or any(folder.iterdir()):
            raise _stop(f"{folder} holds something else; nothing was removed.")
        return
    try:
        with only_one(folder):
            if filled_by(folder / FILE) != "demo":
                raise _stop(f"{folder} holds a shop that is not the sample shop; nothing was removed.")
            for path in folder.glob(f"{FILE}*"):
                path.unlink()
    except CannotOpen as error:
        raise _stop(str(error)) from None


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="where to write the copy")],
    data: Data = None,
    of_demo: Annotated[bool, typer.Option("--demo", help="of the sample shop")] = False,
) -> None:
    """Copy the whole shop into one file, also while it is open."""
    from .store.copies import copied
    from .store.opening import FILE
    from .store.records import CannotOpen

    path = data_folder(data, "demo" if of_demo else "shop") / FILE
    if not path.is_file():
        raise _stop(f"There is no shop in {path.parent}.")
    if file.is_dir():
        raise _stop(f"{file} is a folder; name the file.")
    try:
        copied(path, file.absolute())
    except CannotOpen as error:
        raise _stop(str(error)) from None
    typer.echo(f"Wrote {file}: jobs with their history, forms, pieces, measurements, lots, own woods and the shop.")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="a copy made by backup")],
    data: Data = None,
    of_demo: Annotated[bool, typer.Option("--demo", help="in place of the sample shop")] = False,
) -> None:
    """Put a copy in the place of the shop, after checking it; what stood there is kept aside."""
    from .store.copies import restored
    from .store.opening import only_one
    from .store.records import CannotOpen

    folder = data_folder(data, "demo" if of_demo else "shop")
    try:
        with only_one(folder):
            aside = restored(folder, file)
    except CannotOpen as error:
        raise _stop(str(error)) from None
    typer.echo(f"The shop in {folder} is now that of {file}.")
    if aside:
        typer.echo(f"What stood there before is kept in {aside}.")


def _read_json(path: Path, what: str) -> Any:
    try:
        return json.loads(path.read_text("utf-8-sig"))
    except OSError:
        raise _stop(f"{what} {path} cannot be opened.") from None
    except (ValueError, RecursionError):
        raise _stop(f"{what} {path} is not JSON.") from None


def _planned(job_file: Path, shop_file: Path | None, experience_file: Path | None) -> tuple[Any, Any, Any]:
    """Job, shop and plan from files; faults are told and end the command."""
    from pydantic import ValidationError

    from .core.experience.belief import NOTHING_LEARNT, ExperienceFile, learn
    from .core.ground.errors import OutOfRange
    from .core.job.faults import JobFaulty, faults_of
    from .core.plan.plan import plan as make_plan
    from .core.plan.read import read_job
    from .core.shop.shop import Shop

    try:
        shop = Shop.model_validate(_read_json(shop_file, "The shop file")) if shop_file else Shop()
        learnt = NOTHING_LEARNT
        if experience_file:
            data = _read_json(experience_file, "The experience file")
            learnt = learn(ExperienceFile.model_validate(data).bends)
        job = read_job(_read_json(job_file, "The job file"), shop.units, shop.woods)
        return job, shop, make_plan(job, shop, learnt)
    except JobFaulty as error:
        raise _stop("\n".join(f"{f.field}: {f.says}" for f in error.faults)) from None
    except ValidationError as error:
        raise _stop("\n".join(f"{f.field}: {f.says}" for f in faults_of(error))) from None
    except OutOfRange as error:
        raise _stop(f"{error.field}: {error}") from None


JobFile = Annotated[Path, typer.Argument(metavar="JOB.json", help="a job file, docs/job-format.md")]
ShopFile = Annotated[Path | None, typer.Option("--shop", metavar="SHOP.json", help="the shop's own figures")]
ExperienceOption = Annotated[Path | None, typer.Option("--experience", metavar="FILE", help="bends to learn from")]


@app.command()
def plan(job: JobFile, shop: ShopFile = None, experience: ExperienceOption = None) -> None:
    """Print the whole plan of a job as JSON."""
    from .core.plan.wire import plan_json

    _, _, made = _planned(job, shop, experience)
    sys.stdout.write(plan_json(made, indent=2).decode() + "\n")


@app.command()
def export(
    job: JobFile,
    to: Annotated[Path, typer.Option("--to", metavar="form.pdf|.svg|.dxf|.csv", help="the ending says what kind")],
    shop: ShopFile = None,
    experience: ExperienceOption = None,
    paper: Annotated[str, typer.Option(help="for PDF: a4, letter or a3")] = "a4",
) -> None:
    """Write the form of a job to a file at full size."""
    from .core.ground.errors import OutOfRange
    from .drawing.export import EXPORTS

    kind = to.suffix.lower().lstrip(".")
    if kind not in EXPORTS:
        raise _stop(f"“{to.name}” should end in one of {', '.join('.' + k for k in EXPORTS)}.")
    document, its_shop, made = _planned(job, shop, experience)
    try:
        to.write_bytes(EXPORTS[kind].make(document, made, its_shop.rule, paper, None))
    except OutOfRange as error:
        raise _stop(str(error)) from None
    except OSError:
        raise _stop(f"{to} cannot be written.") from None
    typer.echo(f"Wrote {to}: {EXPORTS[kind].says}.")


@app.command()
def schema(
    of: Annotated[str, typer.Option("--of", help="job, plan, shop or experience")] = "job",
) -> None:
    """Print the JSON Schema of a file format."""
    from pydantic import TypeAdapter

    from .core.experience.belief import ExperienceFile
    from .core.plan.read import job_schema
    from .core.plan.wire import PlanFile
    from .core.shop.shop import Shop

    known: dict[str, Any] = {"job": None, "plan": PlanFile, "shop": Shop, "experience": ExperienceFile}
    if of not in known:
        raise _stop(f"There is no format “{of}”; choose one of {', '.join(known)}.")
    mode = "serialization" if of == "plan" else "validation"
    made = TypeAdapter(known[of]).json_schema(mode=mode) if known[of] else job_schema()  # type: ignore[arg-type]
    typer.echo(json.dumps(made, indent=2))


def main() -> None:
    """Entry point."""
    app()
