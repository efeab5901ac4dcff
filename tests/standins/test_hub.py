"""The simulated hub of response devices, spoken to over its WebSocket as any page would."""

from __future__ import annotations

import asyncio
import contextlib
import json
import unittest
from typing import Any

from websockets.asyncio.client import connect

from bildung.standins.hub import SimulatedDevice, make_hub, serve_hub


class Hub(unittest.IsolatedAsyncioTestCase):
    async def asyncSetUp(self) -> None:
        started: asyncio.Future[int] = asyncio.get_running_loop().create_future()
        self.hub = make_hub(20, seed=4, pace=0.01)
        self.serving = asyncio.create_task(serve_hub(self.hub, 0, started.set_result))
        self.address = f"ws://127.0.0.1:{await started}"

    async def asyncTearDown(self) -> None:
        self.serving.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await asyncio.wait_for(self.serving, 10)

    async def test_every_device_answers_some_twice_with_one_id_and_some_are_lost_for_a_while(self) -> None:
        async with connect(self.address) as page:
            hello = json.loads(await page.recv())
            self.assertEqual((hello["hub"], len(hello["devices"])), ("simulated", 20))
            await page.send(json.dumps({"type": "question", "id": "7", "options": 4, "simulate": {"right": "C"}}))
            heard: list[dict[str, Any]] = []
            while len({m["device"] for m in heard if m["type"] == "press"}) < 20:
                heard.append(json.loads(await asyncio.wait_for(page.recv(), 20)))
        presses = [m for m in heard if m["type"] == "press"]
        self.assertTrue(all(m["option"] in "ABCD" for m in presses))
        self.assertGreater(len(presses), len({m["id"] for m in presses}))
        self.assertEqual({m["type"] for m in heard}, {"press", "lost", "back"})

    async def test_what_it_cannot_read_is_told_and_it_goes_on(self) -> None:
        async with connect(self.address) as page:
            await page.recv()
            for wrong in ("no JSON", "[]", '{"type": "dance"}'):
                await page.send(wrong)
                self.assertEqual(json.loads(await page.recv())["type"], "problem")

    def test_who_knows_more_is_right_more_often(self) -> None:
        able, unable = (SimulatedDevice(number=1, ability=a, pace=1) for a in (0.9, 0.1))
        right = [sum(self.hub.choose(d, 4, "B") == "B" for _ in range(400)) for d in (able, unable)]
        self.assertGreater(right[0], right[1] + 150)
        guessed = {self.hub.choose(able, 3, "") for _ in range(60)}
        self.assertEqual(guessed, {"A", "B", "C"}, "of a question said aloud nothing is known")
