"""Printing in a process of its own."""

from __future__ import annotations

import unittest
from unittest import mock

from bildung.reports import apart
from bildung.reports.document import Document, Text


class Stopped(Exception):
    pass


class Apart(unittest.TestCase):
    def document(self, words: int) -> Document:
        text = " ".join(f"word{at}" for at in range(words))
        return Document(title="A report", lead="Much to read.", where="here", foot="by nobody", blocks=[Text(text)])

    def test_what_is_longer_than_a_pipe_holds_reaches_a_process_that_is_slow_to_begin(self) -> None:
        """Looked at a hundred times before the other process has so much as begun to read."""
        told: list[int] = []
        with mock.patch.object(apart, "EVERY", 0.01), mock.patch.object(apart, "LONGEST", 120.0):
            made = apart.print_apart(self.document(20_000), "A4", lambda: told.append(1))
        self.assertTrue(made.startswith(b"%PDF"))
        self.assertGreater(len(told), 10)

    def test_whoever_stops_it_ends_the_other_process(self) -> None:
        started: list[object] = []
        begin = apart.subprocess.Popen

        def remembered(*words: object, **named: object) -> object:
            started.append(begin(*words, **named))  # type: ignore[call-overload]
            return started[-1]

        def stop() -> None:
            raise Stopped

        with mock.patch.object(apart.subprocess, "Popen", remembered), self.assertRaises(Stopped):
            apart.print_apart(self.document(20_000), "A4", stop)
        self.assertIsNotNone(started[0].returncode)  # type: ignore[attr-defined]
