"""The command line. `./bildung` at the root prepares the machine and hands over to this."""

from __future__ import annotations

import argparse
import contextlib
import gc
import importlib
import os
import shutil
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    _Commands = argparse._SubParsersAction[argparse.ArgumentParser]
    from bildung.demo.district import Plan
    from bildung.services.shared.context import Context

ROOT = Path(__file__).parents[2]
COMMANDS = {
    "analyse": "item, distractor and test analysis of a response file",
    "growth": "norm scores and growth of a score file",
    "bench": "the project's own benchmarks",
}


CALLED_FROM = "BILDUNG_CALLED_FROM"  # the launcher runs in its own folder; files are the caller's


def main(arguments: list[str] | None = None) -> int:
    if folder := os.environ.pop(CALLED_FROM, ""):
        os.chdir(folder)
    words = sys.argv[1:] if arguments is None else arguments
    if words[:1] == ["hub"]:
        from bildung.standins import hub

        return hub.main(words[1:])
    given = _parser(words).parse_args(words)
    if given.command == "bench" and given.what in ("load", "kill"):  # these start a server
        return _bear(given)
    if given.command in COMMANDS:
        return _run(given)
    if given.command == "contract":
        return _contract(given.file)
    if given.command == "found":
        return _found(given)
    if given.command in ("backup", "restore", "check"):
        return _keep(given)
    gc.disable()  # what is imported stays: looking through it again and again is a fifth of the start
    from bildung.store.folder import FolderProblem

    try:
        return _serve(
            given.data,
            given.host,
            given.port,
            given.command == "demo",
            getattr(given, "fresh", False),
            given.proxy,
            (given.cert, given.key) if given.cert or given.key else None,
            (given.workers, given.helpers),
            not getattr(given, "no_class", True),
        )
    except FolderProblem as error:
        return fail(str(error))


def _bear(given: argparse.Namespace) -> int:
    """What a server bears."""
    from bildung.load import bench, kill

    if given.what == "kill":
        return kill.show(given.runs)
    return bench.load(given.quick, given.runs, given.json)


def _parser(words: list[str]) -> argparse.ArgumentParser:
    """Every command with what may follow it."""
    parser = argparse.ArgumentParser(prog="./bildung", description="Plan, give, mark and judge a school's tests.")
    commands = parser.add_subparsers(dest="command", required=True)
    _add_serving(commands)
    _add_founding(commands)
    _add_keeping(commands)
    commands.add_parser("hub", help="simulate a hub of response devices", add_help=False)
    contract = commands.add_parser(
        "contract", help="write the API's OpenAPI document", epilog="example: ./bildung contract ui/openapi.json"
    )
    contract.add_argument("file", type=Path)
    for name, text in COMMANDS.items():
        # a command's own module is read only when it is the one that was asked for
        module = importlib.import_module(f"bildung.commands.{name}") if words[:1] == [name] else None
        own = commands.add_parser(name, help=text, epilog=module.EXAMPLE if module else None)
        if module:
            module.arguments(own)
    return parser


def _add_serving(commands: _Commands) -> None:
    demo = commands.add_parser(
        "demo", help="make the demo data if there is none, and serve it", epilog="example: ./bildung demo --port 8100"
    )
    demo.add_argument("--no-class", action="store_true", help="without the simulated class that is taking a test")
    demo.add_argument("--fresh", action="store_true", help="remake the data first; everything done in it is lost")
    serve = commands.add_parser(
        "serve", help="serve an existing data folder", epilog="example: ./bildung serve --data /srv/bildung"
    )
    cores = os.cpu_count() or 1
    for command, folder in ((demo, "data/demo"), (serve, "data/school")):
        command.add_argument("--port", type=int, default=8000)
        command.add_argument("--host", default="127.0.0.1", help="0.0.0.0 lets other devices in")
        command.add_argument("--data", type=Path, default=ROOT / folder, help="the data folder")
        command.add_argument(
            "--workers",
            type=int,
            default=max(1, cores // 4),
            help="processes that answer requests (default: one for every four cores; one bears 1,200 students)",
        )
        command.add_argument(
            "--helpers",
            type=int,
            default=max(1, cores // max(1, cores // 4) - 1),
            help="processes of each worker for heavy pages of staff; 0: none (default: the cores that are left)",
        )
        command.add_argument(
            "--proxy",
            action="append",
            default=[],
            metavar="ADDRESS",
            help="address of a proxy in front whose word on who asks, and on TLS, is believed; may be given several times",
        )
        command.add_argument("--cert", type=Path, help="certificate with its chain, PEM: serves by TLS, with --key")
        command.add_argument("--key", type=Path, help="the certificate's private key, PEM")


def _add_founding(commands: _Commands) -> None:
    found = commands.add_parser(
        "found",
        help="start a school's own data folder with its first coordinator",
        epilog='example: ./bildung found --name "Our Schools" --zone Europe/Berlin --user h.quill Hanne Quill',
    )
    found.add_argument("given", help="the coordinator's given name")
    found.add_argument("family", help="and family name")
    found.add_argument("--user", required=True, help="the name to sign in with")
    found.add_argument("--name", required=True, help="of the district or school")
    found.add_argument("--zone", default="Europe/Berlin", help="time zone of its screens")
    found.add_argument("--data", type=Path, default=ROOT / "data/school", help="the data folder")


def _add_keeping(commands: _Commands) -> None:
    for name, text, example in (
        (
            "backup",
            "copy a data folder, also while it is served, and verify the copy",
            "./bildung backup /media/usb/bildung-2026-11-27",
        ),
        (
            "restore",
            "put a backup in the place of a data folder; what was there is moved aside",
            "./bildung restore /media/usb/bildung-2026-11-27",
        ),
        ("check", "look at a data folder thoroughly, or at a backup", "./bildung check --data /srv/bildung"),
    ):
        keeping = commands.add_parser(name, help=text, epilog=f"example: {example}")
        if name != "check":
            keeping.add_argument(
                "place", type=Path, help="the new folder" if name == "backup" else "the backup's folder"
            )
        keeping.add_argument("--data", type=Path, default=ROOT / "data/school", help="the data folder")


def _run(given: argparse.Namespace) -> int:
    """A command without a server; whatever is wrong with its input is one line and status 2."""
    from bildung.core.errors import Refused
    from bildung.formats.problem import ImportProblem

    try:
        return int(importlib.import_module(f"bildung.commands.{given.command}").run(given))
    except BrokenPipeError:  # whoever read our output has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except (ImportProblem, Refused) as error:
        return fail(" ".join(str(error).split()), 2)


def _keep(given: argparse.Namespace) -> int:
    """backup, restore and check of a data folder."""
    from bildung.store.backup import MANIFEST, back_up, restore, verify
    from bildung.store.folder import FolderProblem, look
    from bildung.store.upkeep import check_answers, check_media

    try:
        if given.command == "backup":
            made = back_up(given.data, given.place)
            print(f"{given.place}: {made.federation}, {made.answers} answers, {made.bytes / 2**20:.1f} MB, verified")
        elif given.command == "restore":
            made, aside = restore(given.place, given.data)
            print(f"{given.data} is as it was on {made.made_at}: {made.federation}, {made.answers} answers")
            if aside is not None:
                print(f"  what was there before is in {aside}")
        elif (given.data / MANIFEST).exists():
            made = verify(given.data)
            print(
                f"{given.data} is a whole backup of {made.federation}, made on {made.made_at}, with {made.answers} answers"
            )
        else:
            if not (given.data / "bildung.sqlite").exists():
                return fail(f"{given.data} holds no data", 2)
            look(given.data, thorough=True)
            problems = [*check_media(given.data), *check_answers(given.data)]
            for problem in problems:
                print(problem)
            if problems:
                return fail(
                    f"{len(problems)} {'thing is' if len(problems) == 1 else 'things are'} not as they should be"
                )
            print(f"{given.data} is whole: tables, links, pictures and answers")
    except FolderProblem as error:
        return fail(str(error))
    return 0


def _found(given: argparse.Namespace) -> int:
    from bildung.services.door.founding import found
    from bildung.services.shared.context import Context
    from bildung.services.shared.errors import Problem
    from bildung.store.folder import FolderProblem, held
    from bildung.store.store import Store

    try:
        with held(given.data, "./bildung found"):
            ctx = Context(store=Store(given.data))
            try:
                password = found(ctx, given.name, given.zone, given.user, given.given, given.family)
            finally:
                ctx.store.close()
    except Problem as error:
        return fail(error.detail, 2)
    except FolderProblem as error:
        return fail(str(error))
    print(f"{given.name} is in {given.data}. Serve it: ./bildung serve --data {given.data}")
    print(f"  coordinator  {given.user}  temporary password {password}  (asks for an own one at once)")
    return 0


def fail(message: str, status: int = 1) -> int:
    print(f"bildung: {message}", file=sys.stderr)
    return status


Tls = tuple[Path | None, Path | None]


def _serve(
    folder: Path,
    host: str,
    port: int,
    demo: bool,
    fresh: bool,
    proxies: list[str],
    tls: Tls | None = None,
    processes: tuple[int, int] = (1, 0),
    at_work: bool = False,
) -> int:
    """processes: web workers, and helpers of each. at_work: with a simulated class."""
    from bildung.api.serve import is_here, port_is_free, serve, tls_problem
    from bildung.api.workers import Serving
    from bildung.store.folder import held, look

    if tls and (wrong := tls_problem(*tls)):
        return fail(wrong, 2)
    if not port_is_free(host, port):
        return fail(f"port {port} is in use; choose another with --port")
    if fresh and folder.exists():
        if any(folder.iterdir()) and not (folder / "demo.json").exists():
            return fail(f"{folder} holds no demo, so --fresh leaves it alone; choose another with --data", 2)
        shutil.rmtree(folder)
    if not demo and not (folder / "bildung.sqlite").exists():
        return fail(f"{folder} holds no data; ./bildung found starts one, ./bildung demo makes a made-up one", 2)
    if demo and not (folder / "demo.json").exists():
        if folder.exists() and any(folder.iterdir()):
            return fail(f"{folder} holds something other than a demo; choose another with --data", 2)
        _make(folder)
    if not is_here(host) and not proxies and not tls:
        print(
            f"Warning: {host} lets other devices in without TLS, so passwords and answers cross the network readable. "
            "See docs/running-a-server.md for TLS by a proxy or a certificate.",
            file=sys.stderr,
            flush=True,
        )
    with held(folder):
        look(folder)
        how = Serving(host=host, port=port, proxies=tuple(proxies), tls=tls, helpers=processes[1])
        return _open(folder, how, demo, processes[0], serve, at_work)


def _open(folder: Path, how: Any, demo: bool, workers: int, serve: Any, at_work: bool) -> int:
    """Serve a folder that is this process's and whole."""
    from bildung.services.shared.context import Context
    from bildung.store.store import Store

    ctx = Context(store=Store(folder))
    try:
        scheme = "https" if how.tls else "http"
        print(f"Bildung is at {scheme}://{how.host}:{how.port}/  (stop with Ctrl+C)", flush=True)
        if demo:
            from bildung.services.door.signin import welcome

            for person in welcome(ctx)["demo_people"]:
                print(f"  {person['role']:<12} {person['username']:<24} password {person['password']}", flush=True)
        with contextlib.ExitStack() as stack:
            if demo:
                stack.enter_context(_standins(ctx))
            if at_work and not how.tls:
                stack.enter_context(_class_at_work(ctx, how))
            serve(ctx, how, workers)
    finally:
        ctx.store.close()
    return 0


@contextlib.contextmanager
def _standins(ctx: Context) -> Iterator[None]:
    """The outside services of the demo, beside it: the records system it follows, the provider it signs in by,
    the test service that scores come from."""
    from bildung.demo.make import as_handed_over
    from bildung.services.shared.standins import Standins
    from bildung.standins.beside import beside
    from bildung.standins.people import accounts_of
    from bildung.standins.provider import create_provider
    from bildung.standins.records import create_records, demo_office
    from bildung.standins.testservice import create_testservice
    from bildung.standins.testtakers import service_of

    office = demo_office(as_handed_over(ctx), ctx.clock)
    with (
        beside(create_records(office)) as records,
        beside(create_provider(accounts_of(ctx))) as provider,
        beside(create_testservice(service_of(ctx))) as tests,
    ):
        standins = ctx.own(Standins)
        standins.records, standins.provider, standins.tests = records, provider, tests
        print(f"  records system (simulated)   {records}", flush=True)
        print(f"  sign-in provider (simulated) {provider}", flush=True)
        print(f"  test service (simulated)     {tests}", flush=True)
        yield


@contextlib.contextmanager
def _class_at_work(ctx: Context, how: Any) -> Iterator[None]:
    """A session that is open now, and a process of devices that take it."""
    import subprocess

    from bildung.standins.classatwork import class_at_work

    host = "127.0.0.1" if how.host in ("0.0.0.0", "localhost") else how.host
    made = class_at_work(ctx, f"http://{host}:{how.port}")
    if made is None:
        yield
        return
    print(f"  a class at work (simulated)   {len(made.students)} students, session code {made.code}", flush=True)
    devices = subprocess.Popen([sys.executable, "-m", "bildung.standins.classroom"], stdin=subprocess.PIPE, text=True)
    try:
        assert devices.stdin is not None
        devices.stdin.write(made.write())
        devices.stdin.close()
        yield
    finally:
        devices.terminate()
        with contextlib.suppress(subprocess.TimeoutExpired):
            devices.wait(3)


def _make(folder: Path, plan: Plan | None = None, quiet: bool = False) -> None:
    """In a folder beside it first, so that a stop in the middle leaves no half demo. plan: which district; the whole
    federation where none is named."""
    from bildung.demo.district import brackwater
    from bildung.demo.make import make_demo
    from bildung.services.shared.context import Context
    from bildung.store.store import Store

    def tell(part: str, seconds: float) -> None:
        if not quiet:
            print(f"  {part:<46} {seconds:5.1f} s", flush=True)

    if not quiet:
        print("Making the Brackwater Federation …", flush=True)
    started = time.monotonic()
    partial = folder.with_name(folder.name + ".partial")
    shutil.rmtree(partial, ignore_errors=True)
    ctx = Context(store=Store(partial))
    make_demo(ctx, plan or brackwater, tell)
    ctx.store.close()
    if folder.exists():
        folder.rmdir()
    partial.rename(folder)
    tell("all of it", time.monotonic() - started)


def _contract(file: Path) -> int:
    import json
    import tempfile

    from bildung.api.app import create_app
    from bildung.services.shared.context import Context
    from bildung.store.store import Store

    with tempfile.TemporaryDirectory() as folder:
        ctx = Context(store=Store(Path(folder)))
        document = create_app(ctx).openapi()
        ctx.store.close()
    file.write_text(json.dumps(document, indent=1, ensure_ascii=False) + "\n", "utf-8")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
