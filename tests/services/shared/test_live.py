"""Open pages are told what changed: each only what it listens to, and nobody waits for a slow one."""

from __future__ import annotations

import asyncio
import threading
import unittest

from bildung.services.shared.bus import Bus


class Telling(unittest.TestCase):
    def setUp(self) -> None:
        self.bus = Bus()

    def test_a_page_hears_its_own_topic_in_order_and_no_other(self) -> None:
        async def listen() -> list[int]:
            with self.bus.listen("session:1") as heard:
                for n in range(5):
                    self.bus.publish("session:1", {"n": n})
                    self.bus.publish("session:2", {"n": -1})
                await asyncio.sleep(0)
                return [heard.get_nowait()["n"] for _ in range(heard.qsize())]

        self.assertEqual(asyncio.run(listen()), [0, 1, 2, 3, 4])

    def test_what_another_thread_says_arrives(self) -> None:
        async def listen() -> dict[str, object]:
            with self.bus.listen("session:1") as heard:
                threading.Thread(target=self.bus.publish, args=("session:1", {"handed_in": 7})).start()
                return await asyncio.wait_for(heard.get(), 5)

        self.assertEqual(asyncio.run(listen()), {"handed_in": 7})

    def test_a_page_that_does_not_read_misses_messages_and_holds_nobody_up(self) -> None:
        async def listen() -> tuple[int, int]:
            with self.bus.listen("session:1") as slow, self.bus.listen("session:1") as quick:
                got = 0
                for n in range(700):
                    self.bus.publish("session:1", {"n": n})
                    await asyncio.sleep(0)
                    got += quick.get_nowait()["n"] == n
                return slow.qsize(), got

        kept, got = asyncio.run(listen())
        self.assertEqual((kept, got), (500, 700))

    def test_who_left_is_told_nothing_more_and_a_loop_that_ended_breaks_nobody(self) -> None:
        async def leave() -> None:
            with self.bus.listen("session:1"):
                pass

        asyncio.run(leave())
        self.assertEqual(self.bus._listeners, {})

        loop = asyncio.new_event_loop()

        async def stay() -> None:
            self.left = self.bus.listen("session:1")
            self.left.__enter__()

        loop.run_until_complete(stay())
        loop.close()
        self.bus.publish("session:1", {"n": 1})
        self.left.__exit__(None, None, None)
        self.assertEqual(self.bus._listeners, {})
