"""Days and times are written by the district's choice, and as the pages write them."""

from __future__ import annotations

import json
import shutil
import subprocess
import unittest
from datetime import date, datetime, time
from typing import Any

from bildung.core.school.dates import STYLES, Dates


class Written(unittest.TestCase):
    def test_a_day_in_each_style(self) -> None:
        day, at = date(2026, 11, 7), datetime(2026, 11, 7, 9, 40)
        us, gb = Dates("en-US"), Dates("en-GB")
        self.assertEqual((us.short(day), gb.short(day)), ("Nov 7", "7 Nov"))
        self.assertEqual((us.day(day), gb.day(day)), ("Nov 7, 2026", "7 Nov 2026"))
        self.assertEqual((us.long(day), gb.long(day)), ("Saturday, November 7, 2026", "Saturday 7 November 2026"))
        self.assertEqual((us.moment(at), gb.moment(at)), ("Nov 7, 9:40 AM", "7 Nov, 09:40"))
        self.assertEqual((us.dated_moment(at), gb.dated_moment(at)), ("Nov 7, 2026, 9:40 AM", "7 Nov 2026, 09:40"))

    def test_midnight_and_noon(self) -> None:
        said = [Dates("en-US").time(time(hour, 5)) for hour in (0, 11, 12, 13, 23)]
        self.assertEqual(said, ["12:05 AM", "11:05 AM", "12:05 PM", "1:05 PM", "11:05 PM"])
        self.assertEqual([Dates("en-GB").time(time(hour, 5)) for hour in (0, 12, 23)], ["00:05", "12:05", "23:05"])

    @unittest.skipUnless(shutil.which("node"), "no node")
    def test_a_browser_writes_the_same(self) -> None:
        """As ui/src/lib/words/show.ts asks it to."""
        moments = [datetime(2026, month, 1 + 2 * month, hour, 7) for month in range(1, 13) for hour in (0, 9, 12, 17)]
        script = """
const out = {};
for (const [style, twelve] of [['en-US', true], ['en-GB', false]]) {
  const clock = { hour: twelve ? 'numeric' : '2-digit', minute: '2-digit', hour12: twelve };
  out[style] = JSON.parse(process.argv[1]).map((iso) => {
    const at = new Date(iso + 'Z');
    const day = { timeZone: 'UTC', day: 'numeric', month: 'short' };
    return [
      at.toLocaleDateString(style, { ...day, year: 'numeric' }),
      at.toLocaleTimeString(style, { timeZone: 'UTC', ...clock }),
      at.toLocaleString(style, { ...day, ...clock }),
    ].map((text) => text.replaceAll('\\u202f', ' ').replace(/\\bSept\\b/, 'Sep'));
  });
}
console.log(JSON.stringify(out));
"""
        asked = json.dumps([m.isoformat() for m in moments])
        run = subprocess.run(["node", "-e", script, asked], capture_output=True, text=True, check=True, timeout=60)
        browser: dict[str, Any] = json.loads(run.stdout)
        for style in STYLES:
            written = Dates(style)
            for at, said in zip(moments, browser[style], strict=True):
                self.assertEqual([written.day(at), written.time(at), written.moment(at)], said)
