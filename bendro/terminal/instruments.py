"""Simulated instruments from a terminal: sending to a lane that is open on a screen, or as files that a browser takes for its camera and microphone."""

from __future__ import annotations

import secrets
import sys
import time
from pathlib import Path
from typing import Annotated, Literal

import typer

from bendro.core.measuring.heard import Instrument
from bendro.instruments.simulate import events


def instrument(
    kind: Annotated[Literal["gate", "scale", "meter", "sound", "felt", "camera", "microphone"], typer.Argument(help="What sends; camera and microphone write a file for a browser instead")],
    code: Annotated[str, typer.Option(help="The code that the lane shows under Instruments")] = "",
    to: Annotated[str, typer.Option(help="Address of Bendro")] = "http://localhost:8713",
    trials: Annotated[int, typer.Option(min=1, max=500)] = 3,
    every_s: Annotated[float, typer.Option(min=0, max=600, help="Seconds between two events")] = 1.0,
    faults: Annotated[bool, typer.Option(help="Lose, double and delay some events")] = False,
    seed: Annotated[int | None, typer.Option(help="The same again with the same number")] = None,
    first: Annotated[int, typer.Option(min=1, help="Number of the first event")] = 1,
    lanes: Annotated[int, typer.Option(min=0, max=6, help="So many let go together, as a heat")] = 0,
    clip: Annotated[str, typer.Option(help="Of the camera: roll, drop, heat, spin or impact")] = "roll",
    write: Annotated[Path | None, typer.Option(help="Of the camera and microphone: the file")] = None,
) -> None:
    """A simulated instrument: plausible events, sent one by one; what the lane made of each is printed."""
    if kind == "camera" or kind == "microphone":
        _write(kind, clip, write)
        return
    if not code:
        print("Say under which code the lane listens: --code, as it stands under Instruments.", file=sys.stderr)
        raise typer.Exit(2)
    _send(kind, code, to, trials, every_s, faults, seed, first, lanes)


def _write(kind: Literal["camera", "microphone"], clip: str, write: Path | None) -> None:
    from bendro.instruments.made import MADE, write_camera, write_microphone  # only here: drawing is slow to load

    if kind == "microphone":
        path = write or Path("microphone.wav")
        write_microphone(path)
        print(f"{path}: a clap and a thud. Start Chromium with --use-fake-device-for-media-stream --use-file-for-fake-audio-capture={path}")
        return
    scene = MADE.get(clip)
    if scene is None:
        print(f"There is no made clip “{clip}”. Choose one of {', '.join(MADE)}.", file=sys.stderr)
        raise typer.Exit(2)
    path = write or Path(f"{clip}.y4m")
    write_camera(scene, path)
    print(f"{path}: {scene.says} Start Chromium with --use-fake-device-for-media-stream --use-file-for-fake-video-capture={path}")
    for name, value in scene.true.items():
        print(f"  true of it: {name} {value:.4f}")


def _send(kind: Instrument, code: str, to: str, trials: int, every_s: float, faults: bool, seed: int | None, first: int, lanes: int) -> None:
    import httpx  # only here: the other commands start without it

    made = events(kind, trials, seed=secrets.randbits(32) if seed is None else seed, faults=faults, first=first, lanes=lanes)
    for at, event in enumerate(made):
        if at and every_s:
            time.sleep(every_s)
        try:
            answer = httpx.post(f"{to.rstrip('/')}/api/instruments/{code}", content=event.model_dump_json(), headers={"content-type": "text/plain"}, timeout=10)
        except httpx.HTTPError as why:
            print(f"Bendro does not answer at {to}: {why}. Is it started, and is the address right?", file=sys.stderr)
            raise typer.Exit(2) from why
        if answer.status_code != 200:
            print(answer.json()["detail"] if "detail" in answer.text else answer.text, file=sys.stderr)
            raise typer.Exit(2)
        print(answer.text.strip())


COMMANDS = {"instrument": instrument}
