"""Groups and timers run a lesson: seeded, so that the same class comes again; with a slow one, voids, a reading that is far off, and a tablet that
falls silent and comes back with what it held."""

from __future__ import annotations

import asyncio
import contextlib
import math
import random
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

from bendro.core.errors import PlanRefused
from bendro.core.planning.rehearsal import Model, modelled

from .device import Device, Over, Refused

#: Seconds from one release to the next of a group that is neither quick nor slow (common practice: building up, aiming, walking back).
HANDLING_S, SCATTER = 14.0, 0.35
#: One group takes so many times as long; so many of a hundred trials are void, and so many readings are far off.
SLOW, VOID, FAR = 2.2, 0.06, 0.03
#: A tablet is silent for so long, in seconds, after so many of its trials; it keeps one meanwhile.
SILENT_S, SILENT_AFTER = 40.0, 2
#: A thumb is late at the landing by so much on average and scatters by so much, in s (common practice: about 0.1 s of scatter).
LATE_S, THUMB_S = 0.02, 0.07
#: The lane waits so long for further phones.
PHONES_S = 1.2
#: Where nothing is known of the physics: about so much of each quantity, in its unit, and so much more at each level.
ABOUT: Mapping[str, float] = {"s": 1.6, "ms": 160.0, "m": 3.2, "cm": 320.0, "mm": 3_200.0, "ft": 10.0, "in": 120.0, "g": 40.0, "V": 1.4, "mV": 600.0, "count": 4.0, "°": 40.0}
STEP_UP, NOISE = 0.16, 0.06
FAULT = "it slipped from the hand"
Told = Callable[[str], None]


@dataclass
class Hall:
    """What everybody in the room can see: when what falls touches the ground, by the name of its fall."""

    speed: float
    tell: Told
    lands_at: dict[str, float] = field(default_factory=dict)
    kept: int = 0


@dataclass(frozen=True)
class Rules:
    """Of one group. silent: its tablet falls silent once."""

    seed: int
    slow: bool = False
    silent: bool = False


async def run_class(url: str, code: str, *, groups: Sequence[str] | None = None, timers: int = 4, seed: int = 1, speed: float = 1.0, most: int | None = None, tell: Told = print) -> int:
    """Let a class run the lesson until every turn is kept or the lesson is closed; how many trials it kept. groups: None for those of the
    lesson. speed: so many times as quick as a class, > 0; what falls, falls as it does. most: trials that a group keeps at most. Raises Refused when the code lets nobody in."""
    first = Device(url, "wall")
    await first.join(code)
    draft = first.study["draft"]
    labels = list(groups) if groups is not None else [g.strip() for g in draft["groups"] if g.strip()]
    if groups is None and not labels:
        labels = list(dict.fromkeys(t["group"] for t in first.study["turns"])) if draft["study_kind"] == "contest" else [""]
    hall = Hall(speed=speed, tell=tell)
    dice = random.Random(seed)
    slow, silent = (dice.sample(range(len(labels)), 2) if len(labels) > 2 else (-1, -1))
    timed = bool(draft["measures"][0]["timed"]) and not any(t["heat"] for t in first.study["turns"])
    phones = [Device(url, "timer") for _ in range(timers if timed else 0)]
    devices = [Device(url, "group", label) for label in labels]
    for one in (*devices, *phones):
        await one.join(code)
        await one.listen()
        tell(f"{one.label} is in.")
    await first.listen()
    watching = [asyncio.create_task(_time(p, hall, random.Random(f"{seed} {p.label}"))) for p in phones]
    try:
        rules = [Rules(seed=seed, slow=n == slow, silent=n == silent) for n in range(len(labels))]
        await asyncio.gather(*(_run(d, hall, r, most) for d, r in zip(devices, rules, strict=True)))
    finally:
        for task in watching:
            task.cancel()
        await asyncio.gather(*watching, return_exceptions=True)
        await asyncio.gather(*(d.close() for d in (first, *devices, *phones)))
    return hall.kept


def _filled(device: Device) -> set[tuple[int, str]]:
    return {(t["block"], t["level"]) for t in device.trials.values() if t["state"] == "kept" and t["place"] in ("turn", "extra")}


def _silent(device: Device, group: str, now: float, after_s: float) -> bool:
    """Whether nothing is heard of a group's tablets."""
    own = [s for s in device.screens.values() if s["role"] == "group" and s["label"] == group]
    return bool(own) and all(s["away_at"] is not None and now - datetime.fromisoformat(s["away_at"]).timestamp() > after_s for s in own)


def next_turn(device: Device, own: str, now: float, after_s: float) -> dict[str, Any] | None:
    """The group's turn when it is at the head of its lane; None while another group's is, one whose tablet is silent left out."""
    filled = _filled(device)
    heads: dict[int, dict[str, Any]] = {}
    for turn in device.study["turns"]:
        if (turn["block"], turn["level"]) in filled or turn["lane"] in heads:
            continue
        if turn["group"] and turn["group"] != own and _silent(device, turn["group"], now, after_s):
            continue
        heads[turn["lane"]] = turn
    return next((t for t in heads.values() if t["group"] in (own, "")), None)


def left_of(device: Device, own: str) -> int:
    """Turns of a group that nobody has kept."""
    filled = _filled(device)
    return sum(1 for t in device.study["turns"] if t["group"] in (own, "") and (t["block"], t["level"]) not in filled)


async def _run(device: Device, hall: Hall, rules: Rules, most: int | None) -> None:
    """A group runs its turns as they come to the head of its lane."""
    dice = random.Random(f"{rules.seed} {device.label}")
    own = device.label if any(t["group"] == device.label for t in device.study["turns"]) else ""
    kept, given_since = 0, 0.0
    while not device.over and left_of(device, own) and (most is None or kept < most):
        lanes = device.study["lanes"]
        run = device.study["run"]
        last = lanes["last_from"] and datetime.fromisoformat(lanes["last_from"]).timestamp() < given_since
        turn = next_turn(device, own, time.time(), 25.0 / hall.speed)
        if not run or not run["covers"] or lanes["stopped"] or last or turn is None or str(turn["lane"]) in lanes["shut"]:
            await device.until_something(2.0)
            continue
        here = {"lane": turn["lane"], "turns": [{"block": turn["block"], "level": turn["level"]}]}
        try:
            if not await device.say(doing="calling", **here):
                await device.until_something(1.0)
                continue
            pause = HANDLING_S / hall.speed * math.exp(dice.gauss(0, SCATTER)) * (SLOW if rules.slow else 1)
            await asyncio.sleep(pause)
            if device.over or device.study["lanes"]["stopped"]:
                continue
            body = await _trial(device, hall, turn, here, dice)
            given_since = time.time()
            if rules.silent and kept == SILENT_AFTER:
                hall.tell(f"{device.label}’s tablet falls silent.")
                await device.say(doing="calling", holds=1, **here)
                await device.silent()
                await asyncio.sleep(SILENT_S / hall.speed)
                await device.listen()
                await device.look()
                hall.tell(f"{device.label}’s tablet is back.")
            await device.keep(body)
            await device.say(doing="looking", turns=[], lane=turn["lane"])
        except Over:
            break
        except Refused as why:
            hall.tell(f"{device.label}: {why}")
            with contextlib.suppress(Over):
                await device.look()
            await device.until_something(1.0)
            continue
        kept += body["state"] == "kept"
        hall.kept += body["state"] == "kept"
        hall.tell(f"{device.label}: {', '.join(body['readings'][0]['texts']) if body['state'] == 'kept' else 'void'}")


async def _trial(device: Device, hall: Hall, turn: Mapping[str, Any], here: Mapping[str, Any], dice: random.Random) -> dict[str, Any]:
    """Let go, time or read it: the trial as it is saved."""
    study = device.study
    draft = study["draft"]
    rules = {"block": turn["block"], "level": turn["level"], "group": turn["group"], "released_at": datetime.now(UTC).isoformat()}
    void = dice.random() < VOID
    readings = []
    answered: list[str] = []
    for at, measure in enumerate(draft["measures"]):
        own = _reading(study, measure, turn, dice)
        far = at == 0 and measure["scale"] == "quantity" and dice.random() < FAR and len(device.trials) > 8
        if far:
            own *= 1.9
            answered = ["It is far from the others at this level. Is the unit right, and the decimal mark?"]
        if at == 0 and measure["timed"] and measure["scale"] == "quantity" and not turn["heat"] and not far:
            readings.append(await _timed(device, hall, measure, own, here, dice))
        else:
            for payload in range(1, _payloads(draft, measure) + 1):
                readings.append({"measure": measure["id"], "payload": payload, "texts": [_text(measure, own, dice)], "unit": measure["unit"] if measure["scale"] != "outcome" else ""})
    if void:
        return {**rules, "state": "void", "fault": FAULT, "readings": readings}
    return {**rules, "state": "kept", "readings": readings, "answered": answered}


async def _timed(device: Device, hall: Hall, measure: Mapping[str, Any], seconds: float, here: Mapping[str, Any], dice: random.Random) -> dict[str, Any]:
    """A fall that is timed by the group's own thumb and by the phones that watch its lane."""
    fall, released = str(uuid4()), time.time()
    hall.lands_at[fall] = released + seconds
    phones = [s for s in device.screens.values() if s["role"] == "timer" and s["away_at"] is None and s["doing"] in ("ready", "timing")]
    got: dict[str, tuple[float, float]] = {}
    done = asyncio.Event()
    answered: set[str] = set()

    def hear(word: dict[str, Any]) -> None:
        press = word.get("press")
        if press and press["fall"] == fall:
            answered.add(press["label"])
            if press["seconds"] is not None:
                got[press["label"]] = (press["seconds"], press["clock_s"])
            if len(answered) >= len(phones):
                done.set()

    if phones and not device.trip_s:
        await device.compare_clocks()
        released = time.time()
        hall.lands_at[fall] = released + seconds
    device.heard = hear
    try:
        await device.say(doing="falling", fall=fall, released_at=released + device.ahead_s, round_trip_s=device.trip_s, **here)
        await asyncio.sleep(max(0.0, seconds - (time.time() - released)))
        if phones:
            try:
                async with asyncio.timeout(PHONES_S):
                    await done.wait()
            except TimeoutError:
                hall.tell(f"{device.label} does not wait for a timer that did not see it.")
    finally:
        device.heard = lambda word: None
        hall.lands_at.pop(fall, None)
    thumb = f"{max(0.05, seconds + LATE_S + dice.gauss(0, THUMB_S)):.2f}"
    others = sorted(got.items())[: max(0, measure["timers"] - 1)]
    texts = [thumb, *(f"{max(0.05, s):.2f}" for _, (s, _) in others)]
    clock = max((clock_s for _, (_, clock_s) in others), default=0.0)
    return {"measure": measure["id"], "texts": texts, "unit": "s", "taken": "phones" if others else "pressed", "source": ", ".join(label for label, _ in others)[:60], "clock_s": round(clock, 6)}


async def _time(phone: Device, hall: Hall, dice: random.Random) -> None:
    """A timer watches every lane: it sees what falls, presses its landing, and now and then did not see it."""
    await asyncio.sleep(0.2)
    await phone.compare_clocks()
    await phone.say(doing="ready", round_trip_s=phone.trip_s)
    seen: set[str] = set()
    while not phone.over:
        falls = [s for s in phone.screens.values() if s["doing"] == "falling" and s["fall"] and s["fall"] not in seen and s["fall"] in hall.lands_at]
        if not falls:
            await phone.until_something(5.0)
            continue
        fall = falls[0]["fall"]
        seen.add(fall)
        try:
            await phone.say(doing="timing", round_trip_s=phone.trip_s)
            wait = hall.lands_at.get(fall, 0.0) + LATE_S + dice.gauss(0, THUMB_S) - time.time()
            await asyncio.sleep(max(0.05, wait))
            await phone.press(fall, None if dice.random() < VOID else time.time() + phone.ahead_s)
            await phone.say(doing="ready", round_trip_s=phone.trip_s)
        except Over:
            break
        except Refused as why:
            hall.tell(f"{phone.label}: {why}")


def _payloads(draft: Mapping[str, Any], measure: Mapping[str, Any]) -> int:
    return len(draft["payloads"]) if measure["each_payload"] and len(draft["payloads"]) > 1 else 1


def _model(study: Mapping[str, Any], measure: Mapping[str, Any]) -> Model | None:
    try:
        return modelled(study["family"], study["draft"]["variable"]["name"], measure["name"])
    except PlanRefused:  # a form that is not known: no physics here
        return None


def _reading(study: Mapping[str, Any], measure: Mapping[str, Any], turn: Mapping[str, Any], dice: random.Random) -> float:
    """A likely reading: by the family's physics where that is known, else a little more at each level."""
    place = next((n for n, level in enumerate(study["levels"]) if level["id"] == turn["level"]), 0)
    model = _model(study, measure)
    try:
        x = float(study["levels"][place]["text"].replace("−", "-"))
    except (ValueError, IndexError):
        model = None
    if model is not None:
        true = model.true(x)
        return max(abs(true) * 0.2, true * (1 + model.scatter * dice.gauss(0, 1)))
    about = ABOUT.get(measure["unit"], 10.0)
    return about * (1 + STEP_UP * place) * (1 + NOISE * dice.gauss(0, 1))


def _text(measure: Mapping[str, Any], value: float, dice: random.Random) -> str:
    """As it is written down: to the tool's step, whole where it is counted, a word where it is one."""
    if measure["scale"] == "outcome":
        words: list[str] = measure["words"]
        return words[min(len(words) - 1, int(dice.random() * len(words)))]
    if measure["scale"] == "order":
        return str(1 + int(dice.random() * 3))
    if measure["scale"] in ("count", "zone") and measure["unit"] == "count":
        return str(max(0, min(measure["of"] or 10_000, round(value))))
    try:
        step = float(measure["step"].split()[0].replace(",", "."))
    except (ValueError, IndexError):
        step = 0.01
    places = max(0, -math.floor(math.log10(step) + 1e-9))
    return f"{round(abs(value) / step) * step:.{places}f}"
