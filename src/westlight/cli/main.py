"""Commands behind ./westlight, once the Python environment is there."""

from __future__ import annotations

import contextlib
import os
import secrets
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from rich.console import Console

from .owner import end_cleanly, is_owned, kept_up, owning
from .postgres import Cluster, GroundError, binaries

if TYPE_CHECKING:
    from westlight.engine.spec import PictureSpec
    from westlight.engine.still import StillOrder
    from westlight.studio.studio import Studio

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)
console = Console(highlight=False)
ROOT = Path(__file__).resolve().parents[3]
DATA = Path(os.environ.get("WESTLIGHT_DATA", ROOT / "var"))
CHROMIUM = "/usr/bin/chromium"


#: Set while two steps are done at once.
_side_by_side = threading.Event()


@contextmanager
def step(text: str) -> Iterator[None]:
    """Say what is being done, and how long it took."""
    begun = time.monotonic()
    # Of two at once each has lines of its own.
    alone = not _side_by_side.is_set()
    console.print(f"  {text} …", end="" if alone else "\n")
    yield
    console.print(f"{'' if alone else f'  {text}:'} {time.monotonic() - begun:.1f} s")


def ensure_demo() -> Path:
    """The demo building, made by its script if it is not there or its script has changed."""
    import hashlib

    digest = hashlib.sha256()
    for file in sorted((ROOT / "demo").glob("*.py")):
        digest.update(file.read_bytes())
    folder = DATA / "demo" / digest.hexdigest()[:12]
    if not (folder / "saltmarsh.json").exists():
        with step("Building the demo, Saltmarsh Pottery"):
            subprocess.run([sys.executable, "-m", "demo.build", str(folder)], cwd=ROOT, check=True,
                           stdout=subprocess.DEVNULL)  # fmt: skip
    return folder


def demo_ready() -> Path:
    """The demo building, and what readers make of its files."""
    from westlight.studio.demo import read_for_shelves

    folder = ensure_demo()
    read_for_shelves(folder)
    return folder


def ensure_all() -> tuple[Path, Path]:
    """The built front end and the demo, and all kernels: the demo is built while kernels are compiled."""
    web = ensure_front_end()
    _side_by_side.set()
    try:
        with ThreadPoolExecutor(1) as beside:
            demo = beside.submit(demo_ready)
            ensure_kernels()
            return web, demo.result()
    finally:
        _side_by_side.clear()


def front_end_sources() -> list[Path]:
    """Files that the built front end is made of; what the guide in the page shows lies in ``docs``."""
    web = ROOT / "web"
    found = [*web.glob("src/**/*"), *web.glob("*.json"), *web.glob("*.ts"), web / "index.html"]
    return [p for p in [*found, *ROOT.glob("docs/*.md")] if p.is_file()]


def ensure_front_end() -> Path:
    """The built front end, built again when a source is newer."""
    web, built = ROOT / "web", ROOT / "web/dist/index.html"
    newest = max(p.stat().st_mtime for p in front_end_sources())
    if built.exists() and built.stat().st_mtime >= newest:
        return built.parent
    npm = shutil.which("npm")
    if npm is None:
        raise GroundError("Node.js 20 with npm is missing. Install it: apt-get install nodejs npm")
    if not (web / "node_modules/.package-lock.json").exists():
        with step("Installing the front end's packages"):
            _quiet([npm, "ci", "--no-audit", "--no-fund"], web)
    with step("Building the front end"):
        _quiet([npm, "run", "build"], web)
    return built.parent


def _quiet(command: list[str], folder: Path) -> None:
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise GroundError(f"{' '.join(command[:3])} failed:\n{(done.stdout + done.stderr)[-2000:]}")


def ensure_kernels() -> None:
    """Kernels compiled and cached for these sources."""
    from westlight.core.warm import (
        compile_beside_tracer,
        compile_tracer,
        kernels_are_cached,
        note_complete,
    )
    from westlight.engine.apart import CompiledApart

    if kernels_are_cached():
        return
    with step("Compiling the light kernels (once)"):
        beside: CompiledApart | None = None
        # Without room for a folder beside, or if that process fails, all is compiled here: later, and what goes wrong is told.
        with contextlib.suppress(OSError):
            beside = CompiledApart(
                "from westlight.core.warm import compile_beside_tracer; compile_beside_tracer()"
            )
        try:
            compile_tracer()
            with contextlib.suppress(OSError):
                if beside is not None:
                    beside.wait()
                    beside.take()
        finally:
            if beside is not None:
                beside.close()
        compile_beside_tracer()
        note_complete()


@app.command()
def start(
    port: Annotated[int, typer.Option(help="Port of the application")] = 8620,
    host: Annotated[str, typer.Option(help="Address to listen on")] = "127.0.0.1",
    trace: Annotated[
        Path | None, typer.Option(help="File for a line on each step of the engine")
    ] = None,
) -> None:
    """Start PostgreSQL and Westlight with the demo project, and print the address."""
    if trace is not None:
        # The engine looks for it (`engine.live.trace`).
        os.environ["WESTLIGHT_TRACE"] = str(trace.absolute())
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind((host, port))
        except OSError as error:
            raise GroundError(
                f"Port {port} is in use. Stop what runs there, or choose another: "
                f"./westlight start --port {port + 1}"
            ) from error
    console.print("[bold]Westlight[/bold]")
    cluster = Cluster(DATA)
    cluster.prepare()
    end_cleanly()
    with owning(cluster.folder, f"http://{host}:{port}"):
        try:
            with step("Starting PostgreSQL"):
                cluster.start()
            web, demo = ensure_all()
            with kept_up(cluster):
                _serve(cluster, host, port, web, demo)
        finally:
            with step("Stopping PostgreSQL"):
                cluster.stop()


def _serve(cluster: Cluster, host: str, port: int, web: Path, demo: Path) -> None:
    import uvicorn

    from westlight.api.app import create_app
    from westlight.api.doors import LOOPBACK
    from westlight.api.settings import ServerSettings

    here = host in LOOPBACK
    names = ServerSettings().names + (() if here else _names_of(host))
    key = "" if here else os.environ.get("WESTLIGHT_KEY") or secrets.token_urlsafe(24)
    settings = ServerSettings(
        database_url=cluster.url, data=DATA, web=web, demo=demo, names=names, key=key,
        look_ahead=True,
    )  # fmt: skip
    address = f"http://{host}:{port}" + ("" if here else f"/?key={key}")

    class Announced(uvicorn.Server):
        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets)
            if self.started:
                if not here:
                    console.print(f"\n[yellow]{PLAIN}[/yellow]")
                console.print(f"\n  Open [bold]{address}[/bold]   (Ctrl-C ends)\n", soft_wrap=True)

    # A reverse proxy keeps its connections for a minute: it, not the server, is to end them.
    server = Announced(uvicorn.Config(create_app(settings), host=host, port=port, timeout_keep_alive=75,
                                      log_level="warning", ws_max_size=2**20, timeout_graceful_shutdown=5,
                                      # Pictures are packed already: to pack them once more cost 9 ms each.
                                      ws_per_message_deflate=False))  # fmt: skip
    server.run()


#: Said where others can listen in.
PLAIN = (
    "  Others on this network can read what goes to and from this server, the key in the address below too.\n"
    "  docs/deploy.md tells how to put it behind TLS."
)


def _names_of(host: str) -> tuple[str, ...]:
    """Names a server that listens beyond this machine is asked under."""
    names = {host, socket.gethostname(), socket.getfqdn()}
    if host in ("0.0.0.0", "::"):
        names |= {str(a[4][0]) for a in socket.getaddrinfo(socket.gethostname(), None)}
    return tuple(sorted(names))


@app.command()
def doctor() -> None:
    """Say what is missing on this machine and how to get it."""
    from importlib.util import find_spec

    node = shutil.which("node")
    version = subprocess.run([node, "--version"], capture_output=True, text=True,
                             check=False).stdout.strip() if node else ""  # fmt: skip
    node_ok = bool(version) and int(version.lstrip("v").split(".")[0]) >= 20
    writable = os.access(DATA if DATA.exists() else DATA.parent, os.W_OK)
    checks = [
        (
            "Python 3.11",
            sys.version_info[:2] == (3, 11),
            "apt-get install python3.11 python3.11-venv",
        ),
        ("Python packages", find_spec("embreex") is not None, "./westlight start installs them"),
        ("PostgreSQL", binaries() is not None, "apt-get install postgresql"),
        (f"Node.js 20 or newer {version}", node_ok, "apt-get install nodejs npm (20 or newer)"),
        ("Chromium (tests only)", Path(CHROMIUM).exists(), "apt-get install chromium"),
        (f"Data folder {DATA}", writable, "WESTLIGHT_DATA=/some/folder ./westlight start"),
    ]
    for name, good, remedy in checks:
        console.print(f"  [green]✓[/green] {name}" if good else f"  [red]✗[/red] {name}: {remedy}")
    raise typer.Exit(0 if all(good for _, good, _ in checks[:4]) else 1)


@app.command()
def validate() -> None:
    """Render the cases with known answers and write docs/validation.md."""
    ensure_kernels()
    page = ROOT / "docs/validation.md"
    done = subprocess.run([sys.executable, str(ROOT / "tests/bench/validation.py"), str(page)])
    if done.returncode:
        raise SystemExit(f"{done.returncode} cases are off by more than 1 %; see {page}.")


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def bench(
    asked: typer.Context,
    what: Annotated[
        str,
        typer.Argument(
            help="“transport”, “threads” for what more cores would reach, “cluster”, “picture” for what is seen on ten rooms, "
            "“noise” for that of their paths, “page” for the hand at the page"
        ),
    ] = "bench",
) -> None:
    """Print the engine's speeds as ratios within one run, or how far pictures are from what they should be."""
    file = ROOT / f"tests/bench/{what}.py"
    if what not in ("bench", "transport", "threads", "cluster", "picture", "noise", "page"):
        raise GroundError(
            "There is ./westlight bench, with “transport”, “threads”, “cluster”, “picture”, “noise” or “page” after it."
        )
    given = asked.args if what in ("picture", "noise", "page") else [str(ensure_demo())]
    ensure_kernels()
    done = subprocess.run([sys.executable, str(file), *given], cwd=ROOT)
    raise SystemExit(done.returncode)


@app.command()
def render(
    project: Annotated[str, typer.Argument(help="A project, or an EXR of a still or a recipe")],
    look: Annotated[str, typer.Option(help="Name of the look; the first by default")] = "",
    view: Annotated[str, typer.Option(help="Name of the view; the first by default")] = "",
    size: Annotated[int, typer.Option(help="Width in pixels")] = 1280,
    noise: Annotated[float, typer.Option(help="Stop at this noise, in per cent")] = 4.0,
    seconds: Annotated[float, typer.Option(help="Stop after this time")] = 600.0,
    out: Annotated[Path, typer.Option(help="File to write, .exr; a .png lies beside it")] = Path(
        "still.exr"
    ),
) -> None:
    """Render a still of a project without a server, or again by the recipe in an earlier one."""
    from .rendering import free_name, recipe_in, spec_of, still

    file = Path(project)
    if file.suffix in (".exr", ".json"):
        spec: PictureSpec | StillOrder = recipe_in(file)
    else:
        with _studio() as studio:
            spec = spec_of(studio, project, look, view, size)
    files = still(spec, free_name(out.resolve()), noise / 100, seconds, ["exr", "png"], console)
    console.print("\n" + "\n".join(files))


@app.command()
def scheduler(
    host: Annotated[str, typer.Option(help="Address to listen at")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="Port to listen at")] = 8786,
) -> None:
    """Run a scheduler that stills are traced through; workers join it from any machine."""
    from westlight.engine.secrecy import scheme, security_for

    from .farm import run_scheduler

    kind = scheme(security_for(f"tcp://{host}:{port}"))
    console.print(f"  Scheduler at {kind}://{host}:{port}   (Ctrl-C ends)")
    run_scheduler(host, port)


@app.command()
def certificate(
    folder: Annotated[Path, typer.Argument(help="Folder to write it into")],
) -> None:
    """Make a certificate by which scheduler and workers on several machines know each other."""
    from westlight.engine.secrecy import VARIABLE, make

    make(folder)
    console.print(
        f"  Copy {folder} to every machine and set {VARIABLE} to it there, for ./westlight start too."
    )


@app.command()
def worker(
    scheduler: Annotated[str, typer.Option(help="Address of the scheduler, tcp://host:port")],
    memory: Annotated[str, typer.Option(help="Most memory it may take, such as 8GiB")] = "auto",
) -> None:
    """Help with stills: trace units for a scheduler with all cores of this machine."""
    from .farm import run_worker

    ensure_kernels()
    console.print(f"  Working for {scheduler}   (Ctrl-C ends)")
    run_worker(scheduler, memory)


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(help="File to write, .tar")],
) -> None:
    """Copy database and files into one file; the application may run meanwhile."""
    from .backup import back_up

    with _database() as cluster, step(f"Writing {file}"):
        back_up(cluster, file.resolve())


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="A copy made by ./westlight backup")],
) -> None:
    """Put a copy in place of what there is; the application must not run."""
    from .backup import restore as put_back

    with (
        _database() as cluster,
        owning(DATA.resolve(), "a restore that is under way"),
        step(f"Restoring {file}"),
    ):
        put_back(cluster, file.resolve())
    console.print(f"  What was there before lies in {DATA}, in the newest folder before-restore-….")


@contextmanager
def _database() -> Iterator[Cluster]:
    """The cluster of the data folder, stopped again if it was not running and nobody has begun to use it."""
    cluster = Cluster(DATA)
    was_running = cluster.running()
    cluster.start()
    try:
        yield cluster
    finally:
        if not was_running and not is_owned(DATA):
            cluster.stop()


@app.command()
def gallery(
    seconds: Annotated[float, typer.Option(help="Time for each still")] = 240.0,
    only: Annotated[str, typer.Option(help="Only stills whose file name holds this")] = "",
) -> None:
    """Render stills of both example buildings into docs/gallery and write docs/gallery.md."""
    from westlight.studio import demo, lantern_row

    from .rendering import gallery_of, gallery_page, still, write_small_jpeg

    ensure_kernels()
    folder = ROOT / "docs/gallery"
    with _studio() as studio:
        shots = [x for of in (demo, lantern_row) for x in gallery_of(studio, of.NAME, of.GALLERY)]
    for shot, spec in shots:
        if only not in shot.stem:
            continue
        console.print(f"{shot.project}: {shot.view}, {shot.look}")
        with tempfile.TemporaryDirectory() as scratch:
            (file,) = still(spec, Path(scratch) / "still.exr", 0.005, seconds, ["png"], console)
            write_small_jpeg(Path(file), folder / f"{shot.stem}.jpg", shot.described)
    (folder.parent / "gallery.md").write_text(gallery_page([shot for shot, _ in shots]))


@contextmanager
def _studio() -> Iterator[Studio]:
    """The studio without its server, with the demo project in it."""
    from westlight.store import Store
    from westlight.studio.studio import Studio

    with _database() as cluster:
        store = Store(cluster.url)
        store.migrate()
        studio = Studio(store, DATA)
        studio.create_demo(ensure_demo())
        yield studio
        store.close()


def main() -> None:
    """Entry point: plain sentences instead of tracebacks for what the user can mend."""
    from westlight.core.errors import WestlightError

    try:
        app()
    except (GroundError, WestlightError) as error:
        console.print(f"\n[red]{error}[/red]")
        sys.exit(1)


if __name__ == "__main__":
    main()
