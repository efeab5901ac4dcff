"""Pictures and a sound for the demo, drawn here so that they are ours."""

from __future__ import annotations

import io
import wave

import numpy as np
from PIL import Image, ImageDraw

SHEET, INK, SEA, LAND, SUN = "#ffffff", "#16242a", "#86a5a6", "#cfcba8", "#f0dfaf"


def _png(picture: Image.Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()


def plane(points: dict[str, tuple[int, int]], size: int = 10) -> bytes:
    """A grid from 0 to size with named points; 40 pixels a unit, the origin at 40, 440."""
    picture = Image.new("RGB", (480, 480), SHEET)
    pen = ImageDraw.Draw(picture)
    for at in range(size + 1):
        x = 40 + at * 40
        pen.line((x, 40, x, 440), fill="#d5dbd8")
        pen.line((40, x, 440, x), fill="#d5dbd8")
        pen.text((x - 3, 446), str(at), fill=INK, font_size=14)
        pen.text((16, 440 - at * 40 - 9), str(at), fill=INK, font_size=14)
    pen.line((40, 30, 40, 440), fill=INK, width=3)
    pen.line((40, 440, 450, 440), fill=INK, width=3)
    for name, (x, y) in points.items():
        at_x, at_y = 40 + x * 40, 440 - y * 40
        pen.ellipse((at_x - 6, at_y - 6, at_x + 6, at_y + 6), fill="#14505c")
        pen.text((at_x + 9, at_y - 18), name, fill=INK, font_size=17)
    return _png(picture)


def bars(title: str, values: dict[str, int], unit: str) -> bytes:
    """A bar chart with a scale by fives."""
    picture = Image.new("RGB", (560, 360), SHEET)
    pen = ImageDraw.Draw(picture)
    top = (max(values.values()) + 4) // 5 * 5
    pen.text((60, 12), f"{title} ({unit})", fill=INK, font_size=18)
    for value in range(0, top + 1, 5):
        y = 310 - value * 250 / top
        pen.line((60, y, 540, y), fill="#d5dbd8")
        pen.text((28, y - 9), str(value), fill=INK, font_size=14)
    width = 480 / len(values)
    for at, (name, value) in enumerate(values.items()):
        x = 60 + at * width
        pen.rectangle((x + width * 0.2, 310 - value * 250 / top, x + width * 0.8, 310), fill="#456a80")
        pen.text((x + width * 0.2, 318), name, fill=INK, font_size=14)
    return _png(picture)


def harbor() -> bytes:
    """The harbor from above: pier at the left, lighthouse on its head, island at the right, ferry between."""
    picture = Image.new("RGB", (600, 400), SEA)
    pen = ImageDraw.Draw(picture)
    pen.polygon([(0, 0), (600, 0), (600, 60), (420, 90), (260, 70), (120, 120), (0, 150)], fill=LAND)
    pen.rectangle((110, 110, 140, 300), fill="#8a5a1c")
    pen.ellipse((108, 286, 142, 320), fill="#bf3f27")
    pen.ellipse((430, 220, 560, 330), fill=LAND, outline=INK, width=2)
    pen.polygon([(270, 230), (350, 230), (335, 260), (285, 260)], fill=SHEET, outline=INK)
    pen.rectangle((295, 208, 325, 230), fill=SUN, outline=INK)
    return _png(picture)


def plant() -> bytes:
    """A bean plant: flower at the top, leaves, stem, roots below the soil."""
    picture = Image.new("RGB", (400, 480), SHEET)
    pen = ImageDraw.Draw(picture)
    pen.rectangle((0, 330, 400, 480), fill="#cdb08a")
    pen.line((200, 110, 200, 350), fill="#4a6a2f", width=10)
    for x, y in ((120, 210), (280, 180), (130, 280)):
        pen.line((200, y + 20, x, y), fill="#4a6a2f", width=4)
        pen.ellipse((x - 42, y - 20, x + 42, y + 20), fill="#6f9a49", outline="#4a6a2f", width=2)
    for at in range(6):
        angle = at * np.pi / 3
        x, y = 200 + 26 * np.cos(angle), 90 + 26 * np.sin(angle)
        pen.ellipse((x - 16, y - 16, x + 16, y + 16), fill="#bf3f27")
    pen.ellipse((186, 76, 214, 104), fill=SUN)
    for x in (120, 160, 200, 240, 280):
        pen.line((200, 345, x, 440), fill="#8a5a1c", width=4)
    return _png(picture)


def bell(strokes: int) -> bytes:
    """A bell that strikes so many times, as WAV."""
    rate, gap = 16_000, 1.1
    time = np.arange(int(rate * 1.6)) / rate
    tone = np.zeros(time.size)
    for pitch, loudness, fading in ((523, 0.5, 2.2), (1046, 0.25, 3.5), (1568, 0.12, 6)):
        tone += loudness * np.sin(2 * np.pi * pitch * time) * np.exp(-fading * time)
    whole = np.zeros(int(rate * (gap * strokes + 1.2)))
    for at in range(strokes):
        start = int(rate * gap * at)
        whole[start : start + tone.size] += tone[: whole.size - start]
    samples = (np.clip(whole, -1, 1) * 28_000).astype("<i2")
    out = io.BytesIO()
    with wave.open(out, "wb") as written:
        written.setnchannels(1)
        written.setsampwidth(2)
        written.setframerate(rate)
        written.writeframes(samples.tobytes())
    return out.getvalue()
