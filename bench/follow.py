"""A clip of one minute followed in a real browser: how long that takes, beside its own length. `bin/bench follow`."""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path
from uuid import uuid4

import av
import numpy as np
from playwright.sync_api import sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from tests.conftest import Application, new_study, sign_up
from tests.ui.conftest import ARGUMENTS, go, way

WIDE, HIGH, FPS, SECONDS = 1280, 720, 30, 60
#: A thing that goes to and fro across the picture, in points.
SIZE, SWING = 40, 500
FALL = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}]


def where(t: float) -> tuple[float, float]:
    return WIDE / 2 + SWING * float(np.sin(t)), HIGH / 2 + 120 * float(np.sin(1.7 * t))


def film(path: Path) -> None:
    ground = (140 + 40 * np.sin(np.arange(WIDE) / 60)[None, :, None] + 10 * np.sin(np.arange(HIGH) / 5)[:, None, None]).astype(np.uint8).repeat(3, axis=2)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=FPS, options={"preset": "veryfast", "crf": "23"})
        stream.width, stream.height, stream.pix_fmt = WIDE, HIGH, "yuv420p"
        stream.codec_context.time_base = Fraction(1, FPS)
        for n in range(FPS * SECONDS):
            picture = ground.copy()
            x, y = (int(v) for v in where(n / FPS))
            picture[y - SIZE // 2 : y + SIZE // 2, x - SIZE // 2 : x + SIZE // 2] = (180, 30, 30)
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            frame.pts, frame.time_base = n, Fraction(1, FPS)
            out.mux(stream.encode(frame))
        out.mux(stream.encode())


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="bendro-follow-") as folder, sync_playwright() as playwright:
        clip = Path(folder) / "minute.mp4"
        film(clip)
        app = Application(Path(folder) / "data")
        app.folder.mkdir()
        app.start()
        try:
            teacher = sign_up(app)
            study = new_study(teacher, f"Follow {uuid4()}", measures=FALL)
            browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.context.add_cookies([{"name": n, "value": v, "url": app.url} for n, v in teacher.http.cookies.items()])
            go(page, app, study, "run")
            way(page, "Follow it through a clip")
            page.get_by_label("A video").set_input_files(clip)
            page.locator("[data-frame='0']").wait_for()
            page.get_by_role("button", name="Touch the thing").click()
            page.locator("[data-touching=thing]").wait_for()
            box = page.locator("[data-frame]").bounding_box()
            assert box is not None
            x, y = where(0.0)
            begun = time.monotonic()
            page.mouse.click(box["x"] + x / WIDE * box["width"], box["y"] + y / HIGH * box["height"])
            page.locator("[data-following=done], [data-following=lost]").wait_for(timeout=300_000)
            took = time.monotonic() - begun
            print(page.locator("[data-following]").inner_text())
            print(f"a clip of {SECONDS} s ({WIDE} × {HIGH}, {FPS} a second) followed in {took:.1f} s: {took / SECONDS:.2f} of its own length")
            browser.close()
        finally:
            app.stop()


if __name__ == "__main__":
    main()
