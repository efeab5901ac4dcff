"""Assembly in a process of its own: whoever waits hears how far it is and may stop it at once.

Run as a module this file is that process: what is asked comes pickled at its input, lines of progress and at the
end the pickled answer go out. Both ends are this file, so nothing foreign is ever unpickled.
"""

from __future__ import annotations

import base64
import json
import pickle
import subprocess
import sys
import threading
from collections.abc import Sequence
from typing import IO, BinaryIO

from bildung.core.assembly.assemble import SECONDS, Assembly, Tell, assemble
from bildung.core.assembly.blueprint import Candidate, TestBlueprint
from bildung.core.assembly.program import Demands
from bildung.core.errors import Refused

EVERY = 0.2


def assemble_apart(
    blueprint: TestBlueprint,
    items: Sequence[Candidate],
    demands: Demands,
    seconds: float = SECONDS,
    tell: Tell | None = None,
) -> Assembly:
    """As `assemble`. tell: called several times a second; what it raises stops the work and passes through."""
    process = subprocess.Popen(
        [sys.executable, "-m", "bildung.core.assembly.apart"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert process.stdin is not None and process.stdout is not None
    heard = _Heard(process.stdout)
    try:
        asked = base64.b64encode(pickle.dumps((blueprint, list(items), demands, seconds))).decode()
        process.stdin.write(asked + "\n")
        process.stdin.close()
        while heard.thread.is_alive():
            if tell is not None:
                tell(*heard.last)
            heard.thread.join(EVERY)
        process.wait()
    finally:
        process.kill()
        process.wait()
        heard.thread.join()
        process.stdout.close()
    if heard.answer is None:
        raise Refused("the work on the forms broke off; ask again")
    answer = pickle.loads(base64.b64decode(heard.answer))
    if isinstance(answer, Refused):
        raise answer
    assert isinstance(answer, Assembly)
    return answer


class _Heard:
    """What the other process says, read as it comes."""

    def __init__(self, lines: IO[str]) -> None:
        self.last: tuple[str, float, float] = ("beginning", float("inf"), 0.0)
        self.answer: str | None = None
        self.thread = threading.Thread(target=self._listen, args=(lines,), daemon=True)
        self.thread.start()

    def _listen(self, lines: IO[str]) -> None:
        for line in lines:
            if line.startswith("said "):
                what, best, bound = json.loads(line[5:])
                self.last = (what, best, bound)
            elif line.startswith("answer "):
                self.answer = line[7:].strip()


def _work(given: BinaryIO) -> None:
    blueprint, items, demands, seconds = pickle.loads(base64.b64decode(given.readline()))

    def tell(what: str, best: float, bound: float) -> None:
        print("said " + json.dumps([what, best, bound]), flush=True)

    answer: Assembly | Refused
    try:
        answer = assemble(blueprint, items, demands, seconds, tell)
    except Refused as error:
        answer = error
    print("answer " + base64.b64encode(pickle.dumps(answer)).decode(), flush=True)


if __name__ == "__main__":
    _work(sys.stdin.buffer)
