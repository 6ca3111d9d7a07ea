"""The command line: serve, demo, plan, export, schema."""

from __future__ import annotations

import json
import shutil
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
    import socket

    import uvicorn

    from .store.book import Store
    from .web.app import create_app

    store = Store(folder)
    if demo:
        from .demo.marrow_lane import fill

        with store.connected():
            if not store.jobs() and not store.jobs_put_away():
                fill(store)
    # the protocol by name: without it every answer waits for an acknowledgement, some 40 ms
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError:
        raise _stop(f"Port {port} is taken. Choose another: --port {port + 1 if port < 65535 else 8123}.") from None
    listener.listen(128)
    typer.echo(f"Bright Willow is open at http://127.0.0.1:{listener.getsockname()[1]}/  (Ctrl+C closes it)")
    typer.echo(f"Everything is kept in {folder}")
    config = uvicorn.Config(create_app(store), log_level="warning", server_header=False)
    uvicorn.Server(config).run(sockets=[listener])


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
        if any(p.name.startswith("bright-willow.sqlite3") for p in folder.iterdir()):
            for path in folder.glob("bright-willow.sqlite3*"):
                path.unlink()
        elif any(folder.iterdir()):
            raise _stop(f"{folder} holds something else; nothing was removed.")
        else:
            shutil.rmtree(folder)
    _run(folder, port, demo=True)


def _read_json(path: Path, what: str) -> Any:
    try:
        return json.loads(path.read_text("utf-8"))
    except OSError:
        raise _stop(f"{what} {path} cannot be opened.") from None
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError):
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
        to.write_bytes(EXPORTS[kind].make(document, made, its_shop.units, paper, None))
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
