"""A hub of response devices that ships with the application, since there is none here: a small process that speaks JSON over a
local WebSocket (docs/live.md), with simulated devices that answer by ability, lose their connection and send twice.

`./bildung hub --devices 28`
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import itertools
import json
import random
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import dataclass, field

LETTERS = "ABCDEFGH"
PORT = 8791
TWICE, LOST = 0.15, 0.08  # shares of presses that come twice, of devices that are out of reach for a while
LOST_SECONDS = 6.0

Send = Callable[[dict[str, object]], Awaitable[None]]


@dataclass(kw_only=True)
class SimulatedDevice:
    """ability: the chance to know the answer. pace: seconds that its student thinks, on average."""

    number: int
    ability: float
    pace: float


@dataclass(kw_only=True)
class Hub:
    """The devices and who listens to them."""

    devices: list[SimulatedDevice]
    rng: random.Random
    ids: itertools.count[int] = field(default_factory=itertools.count)
    working: set[asyncio.Task[None]] = field(default_factory=set)

    async def ask(self, options: int, right: str, send: Send) -> None:
        """A question is open: every device answers in its own time."""
        self.stop()
        for device in self.devices:
            task = asyncio.create_task(self._answer(device, options, right, send))
            self.working.add(task)
            task.add_done_callback(self.working.discard)

    def stop(self) -> None:
        for task in self.working:
            task.cancel()

    def choose(self, device: SimulatedDevice, options: int, right: str) -> str:
        """What a student of this ability presses: the right one where they know it, a guess where not."""
        letters = LETTERS[: max(2, min(options, len(LETTERS)))]
        known = len(right) == 1 and right in letters and self.rng.random() < device.ability
        return right if known else self.rng.choice(letters)

    async def _answer(self, device: SimulatedDevice, options: int, right: str, send: Send) -> None:
        await asyncio.sleep(self.rng.expovariate(1 / device.pace))
        if self.rng.random() < LOST:
            await send({"type": "lost", "device": device.number})
            await asyncio.sleep(LOST_SECONDS * self.rng.random())
            await send({"type": "back", "device": device.number})
        press: dict[str, object] = {
            "type": "press",
            "id": f"press-{next(self.ids)}",
            "device": device.number,
            "option": self.choose(device, options, right),
        }
        await send(press)
        if self.rng.random() < TWICE:
            await send(press)

    async def talk(self, heard: AsyncIterator[str | bytes], send: Send) -> None:
        """One page: what it asks, until it goes."""
        await send({"type": "hello", "hub": "simulated", "devices": [d.number for d in self.devices]})
        async for text in heard:
            try:
                said = json.loads(text)
                kind = said["type"]
            except (ValueError, TypeError, KeyError):
                await send({"type": "problem", "says": "a message is a JSON object with a type"})
                continue
            if kind == "question":
                right = str((said.get("simulate") or {}).get("right", ""))
                await self.ask(int(said.get("options", 4)), right, send)
            elif kind == "stop":
                self.stop()
            else:
                await send({"type": "problem", "says": "question or stop"})
        self.stop()


def make_hub(devices: int, seed: int = 1, pace: float = 4.0) -> Hub:
    """Devices 1, 2, … of a class of mixed ability."""
    rng = random.Random(seed)
    return Hub(
        devices=[
            SimulatedDevice(
                number=n, ability=min(0.95, max(0.1, rng.gauss(0.55, 0.22))), pace=pace * (0.5 + rng.random())
            )
            for n in range(1, devices + 1)
        ],
        rng=rng,
    )


async def serve_hub(hub: Hub, port: int = PORT, ready: Callable[[int], None] = lambda port: None) -> None:
    """Until it is canceled. Listens on this machine only."""
    from websockets.asyncio.server import ServerConnection, serve

    async def handle(connection: ServerConnection) -> None:
        async def send(message: dict[str, object]) -> None:
            with contextlib.suppress(Exception):  # the page went away
                await connection.send(json.dumps(message))

        await hub.talk(connection.__aiter__(), send)

    async with serve(handle, "127.0.0.1", port) as server:
        ready(next(iter(server.sockets)).getsockname()[1])
        await server.serve_forever()


def main(words: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="./bildung hub", description="A simulated hub of response devices.")
    parser.add_argument("--devices", type=int, default=28)
    parser.add_argument("--port", type=int, default=PORT)
    parser.add_argument("--pace", type=float, default=4.0, help="seconds that a student thinks, on average")
    given = parser.parse_args(words)
    if not 1 <= given.devices <= 200:
        parser.error("--devices: 1 to 200")

    def ready(port: int) -> None:
        print(f"Response devices (simulated): {given.devices} on ws://127.0.0.1:{port}  (stop with Ctrl+C)", flush=True)

    with contextlib.suppress(KeyboardInterrupt):
        asyncio.run(serve_hub(make_hub(given.devices, pace=given.pace), given.port, ready))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
