"""Some forty studies, of every kind and every shape of measure, with what goes wrong in lessons: ties, bounds, voids, several payloads, two
variables, a broken rule, inches, counts. Invented data."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from bendro.core.draft import DerivedDraft, Draft, DropDraft, Held, Limit, MeasureDraft, RulesDraft, VariableDraft, Zone
from bendro.core.record.study import StudyRecord, VersionTold
from tests.records import Row, record, row

FAR = MeasureDraft(id="m1", name="distance", quantity="length", unit="m", rule="To first touch", step="0.01")
OFF = MeasureDraft(id="m2", name="distance off the line", quantity="length", unit="cm", signed=True, better="low")
FALL = MeasureDraft(id="m1", name="fall time", quantity="time", unit="s", rule="To first touch", timed=True, timers=3)
HITS = MeasureDraft(id="m1", name="skittles knocked", scale="count", quantity="count", unit="count", rule="Down when it rests")
LOAD = MeasureDraft(id="m1", name="load lifted", quantity="mass", unit="g", rule="Largest load", step="1")
WHOLE = MeasureDraft(id="m1", name="payload", scale="outcome", quantity="number", unit="", words=["untouched", "hairline", "cracked", "broken"], survived=2)
EACH = WHOLE.model_copy(update={"each_payload": True})
ORDER = MeasureDraft(id="m1", name="landing order", scale="order", quantity="number", unit="", better="low")
SCORE = MeasureDraft(id="m1", name="landing", scale="zone", quantity="length", unit="m", zones=[Zone(start="0", end="2", points=1), Zone(start="2", end="4", points=5)])
PULL = VariableDraft(name="pull-back", quantity="length", unit="cm", levels=["4", "6", "8"])
COVER = VariableDraft(name="cover", kind="name", levels=["felt", "card", "film"])
TEAMS = VariableDraft(name="device", kind="name", levels=["Avocet", "Bittern", "Curlew", "Dunlin"])
VERSIONS = VariableDraft(name="version", quantity="number", unit="", levels=["1", "2", "3", "4"])


def plan(measures: Sequence[MeasureDraft] = (FAR,), variable: VariableDraft = PULL, **more: Any) -> Draft:
    usual = {"question": "What does it do?", "family": "launcher", "repeats": 3, "prediction": "It rises", "expect": "rises" if variable.kind == "number" else ""}
    return Draft(**{**usual, "variable": variable, "measures": list(measures), **more})


def mixed(texts: dict[str, Sequence[Any]], **more: Any) -> list[Row]:
    """Block by block, every second block the other way round."""
    made = []
    for n in range(max(map(len, texts.values()))):
        levels = list(texts) if n % 2 == 0 else list(reversed(texts))
        for level in levels:
            if n < len(texts[level]):
                given = texts[level][n]
                made.append(row(level, *(given if isinstance(given, tuple) else (given,)), **more))
    return made


def listed_out(texts: dict[str, Sequence[Any]], **more: Any) -> list[Row]:
    """All of one level, then all of the next."""
    return [row(level, *(one if isinstance(one, tuple) else (one,)), **more) for level, given in texts.items() for one in given]


RISING = {"4": ["2.10", "2.20", "2.15"], "6": ["3.02", "3.11", "3.05"], "8": ["4.01", "4.12", "4.05"]}


def _line(*more: tuple[int, int | None, tuple[str, ...]]) -> tuple[VersionTold, ...]:
    return tuple(VersionTold(device="Pod", number=n, since=since, changed=changed) for n, since, changed in more)


def _ladder(texts: dict[str, Sequence[Sequence[tuple[str, str]]]]) -> list[Row]:
    """By level its specimens, each its drops: rung and word."""
    return [Row(level=level, texts={"m1": [word]}, block=n, more={"rung": rung}) for level, specimens in texts.items() for n, drops in enumerate(specimens, 1) for rung, word in drops]


LADDER = DropDraft(plan="ladder", heights=["1", "1.5", "2", "2.5"], unit="m", payload="fresh")

Study = Callable[[], StudyRecord]
STUDIES: dict[str, Study] = {
    "a rise": lambda: record(plan(), mixed(RISING)),
    "a rise, one level after the other": lambda: record(plan(), listed_out(RISING)),
    "a rise in inches": lambda: record(plan(variable=PULL.model_copy(update={"levels": ["6 in", "12 in", "18 in"], "level_ids": ["4", "6", "8"]})), mixed(RISING)),
    "a fall": lambda: record(plan(expect="falls"), mixed({"4": RISING["8"], "6": RISING["6"], "8": RISING["4"]})),
    "a best in the middle": lambda: record(plan(expect="peak", repeats=4), mixed({"4": ["2.1", "2.2", "2.0", "2.1"], "6": ["4.1", "4.2", "4.0", "4.1"], "8": ["2.2", "2.1", "2.3", "2.0"]})),
    "nothing to tell": lambda: record(plan(), mixed({"4": ["2.1", "3.0", "2.5"], "6": ["2.6", "2.2", "3.1"], "8": ["2.4", "2.9", "2.3"]})),
    "so far": lambda: record(plan(repeats=5), mixed(RISING)),
    "one trial each": lambda: record(plan(repeats=1), mixed({"4": ["2.1"], "6": ["3.0"], "8": ["4.1"]})),
    "names": lambda: record(plan(variable=COVER), mixed({"felt": ["4.10", "4.20", "4.15"], "card": ["3.10", "3.05", "3.20"], "film": ["2.00", "2.10", "2.05"]})),
    "two names": lambda: record(plan(variable=COVER.model_copy(update={"levels": ["felt", "card"]}), repeats=4), mixed({"felt": ["4.10", "4.20", "4.15", "4.11"], "card": ["3.10", "3.05", "3.20", "3.12"]})),
    "a tie": lambda: record(plan(variable=COVER, repeats=2), mixed({"felt": ["4.10", "4.20"], "card": ["4.20", "4.10"], "film": ["2.00", "2.10"]})),
    "off the end of the track": lambda: record(plan(variable=COVER), mixed({"felt": [">=6.0", ">=6.0", "5.80"], "card": ["3.10", "3.05", "3.20"], "film": ["2.00", "2.10", "2.05"]})),
    "one estimate": lambda: record(plan(variable=COVER, repeats=4), mixed({"felt": ["2.80", "3.06", "~5 m", "2.59"], "card": ["2.10", "2.05", "2.20", "2.12"], "film": ["2.00", "2.10", "2.05", "2.02"]})),
    "voids at one level": lambda: record(plan(), [*mixed(RISING), row("8", "", state="void", fault="slipped"), row("8", "", state="void", fault="slipped"), row("8", "", state="void", fault="frame lifted")]),
    "nothing but voids": lambda: record(plan(), [row("4", "", state="void", fault="slipped"), row("6", "", state="void", fault="slipped")]),
    "whole masses": lambda: record(plan([LOAD], VariableDraft(name="blade number", quantity="count", unit="count", levels=["2", "4", "6"]), family="turbine", repeats=2), mixed({"2": ["4", "5"], "4": ["6", "7"], "6": ["8", "9"]})),
    "counts": lambda: record(plan([HITS], COVER), mixed({"felt": ["3", "5", "4"], "card": ["1", "0", "1"], "film": ["2", "2", "3"]})),
    "faults counted, few": lambda: record(plan([HITS], COVER, repeats=6), mixed({"felt": ["0", "1", "0", "1", "0", "1"], "card": ["0", "0", "0", "1", "0", "0"], "film": ["2", "1", "3", "2", "2", "1"]})),
    "hand timed by three": lambda: record(plan([FALL], VariableDraft(name="canopy side", quantity="length", unit="cm", levels=["20", "30"]), family="parachute"), mixed({"20": [["1.21", "1.30", "1.25"], ["1.22", "1.24", "1.31"], ["1.19", "1.25", "1.20"]], "30": [["1.91", "2.00", "1.95"], ["1.93", "2.01", "1.90"], ["1.88", "1.97", "1.99"]]})),
    "hand timed by one of three": lambda: record(plan([FALL], VariableDraft(name="canopy side", quantity="length", unit="cm", levels=["20", "30"]), family="parachute"), mixed({"20": ["1.21", "1.22", "1.19"], "30": ["1.91", "1.93", "1.88"]})),
    "which lands first": lambda: record(plan([FALL], VariableDraft(name="tail mass", quantity="mass", unit="g", levels=["0", "0.5", "1"]), family="rotor", question="Does a paper clip make it land first?"), mixed({"0": ["1.92", "1.90", "1.95"], "0.5": ["1.70", "1.72", "1.69"], "1": ["1.50", "1.52", "1.49"]})),
    "heats with times": lambda: record(plan([ORDER, FALL.model_copy(update={"id": "m2"})], VariableDraft(name="tail mass", quantity="mass", unit="g", levels=["0", "0.5", "1"]), family="rotor", question="Does a paper clip make it land first?", compared="side_by_side"), [Row(level=level, texts={"m1": [place], "m2": [time]}, block=n, more={"heat": f"h{n}"}, taken="lanes") for n in (1, 2, 3) for level, place, time in (("0", "3", f"1.9{n}"), ("0.5", "2", f"1.7{n}"), ("1", "1", f"1.5{n}"))]),
    "which lands last": lambda: record(plan([ORDER], COVER, family="rotor", question="Which lands last?"), mixed({"felt": ["1", "1", "2"], "card": ["2", "3", "1"], "film": ["3", "2", "3"]})),
    "off the line": lambda: record(plan([FAR, OFF]), [Row(level=level, texts={"m1": [far], "m2": [off]}) for n in range(3) for level, far, off in (("4", ["2.10", "2.20", "2.15"][n], ["left 21", "right 20", "left 16"][n]), ("6", ["3.02", "3.11", "3.05"][n], ["left 55", "right 40", "left 60"][n]), ("8", ["4.01", "4.12", "4.05"][n], ["left 2", "right 3", "left 1"][n]))]),
    "straighter without losing distance": lambda: record(plan([FAR, OFF], COVER, margin="30 cm", repeats=4), [Row(level=level, texts={"m1": [far], "m2": [off]}) for n in range(4) for level, far, off in (("felt", ["4.00", "4.10", "3.90", "4.00"][n], ["30", "-40", "35", "-38"][n]), ("card", ["3.95", "4.05", "3.90", "4.00"][n], ["2", "-3", "1", "-2"][n]), ("film", ["2.00", "2.10", "1.90", "2.00"][n], ["1", "0", "2", "-1"][n]))]),
    "straighter, a little shorter": lambda: record(plan([FAR, OFF], COVER, margin="30 cm", repeats=4), [Row(level=level, texts={"m1": [far], "m2": [off]}) for n in range(4) for level, far, off in (("felt", ["4.00", "4.02", "3.98", "4.01"][n], ["30", "-40", "35", "-38"][n]), ("card", ["3.80", "3.82", "3.78", "3.81"][n], ["2", "-3", "1", "-2"][n]), ("film", ["2.00", "2.02", "1.98", "2.01"][n], ["1", "0", "2", "-1"][n]))]),
    "held what is varied": lambda: record(plan(variable=VariableDraft(name="colour of the cup", kind="name", levels=["red", "blue"]), hold=[Held(name="colour of the cup", value="red"), Held(name="band", value="thick")]), mixed({"red": ["2.10", "2.20", "2.15"], "blue": ["2.12", "2.18", "2.16"]}, conditions={"colour of the cup": "red", "band": "thick"})),
    "untouched or not": lambda: record(plan([WHOLE], COVER, family="protector", repeats=5), mixed({"felt": ["untouched", "hairline", "untouched", "untouched", "untouched"], "card": ["broken", "cracked", "broken", "cracked", "broken"], "film": ["broken", "untouched", "cracked", "hairline", "broken"]})),
    "two eggs": lambda: record(plan([EACH], COVER, family="protector", payloads=["left egg", "right egg"]), mixed({"felt": [("untouched", "untouched"), ("untouched", "hairline"), ("untouched", "untouched")], "card": [("untouched", "broken"), ("untouched", "cracked"), ("untouched", "broken")], "film": [("untouched",), ("broken",), ("untouched", "untouched")]})),
    "a ladder": lambda: record(plan([WHOLE], COVER, family="protector", drop=LADDER, repeats=2, limits=[Limit(on="rungs", value="3 m")]), _ladder({"felt": [[("1", "untouched"), ("1.5", "untouched"), ("2", "untouched"), ("2.5", "untouched")], [("1", "untouched"), ("1.5", "broken")]], "card": [[("1", "untouched"), ("1.5", "cracked")], [("1", "cracked")]], "film": [[("1", "hairline"), ("1.5", "broken")], [("1", "untouched"), ("1.5", "untouched"), ("2", "broken")]]})),
    "a ladder by rung and mass": lambda: record(plan([WHOLE], TEAMS, family="protector", study_kind="contest", rank="rung_lightest", drop=LADDER, repeats=1, rules=RulesDraft(mass_limit="180 g"), limits=[Limit(on="rungs", value="3 m")]), _ladder({"Avocet": [[("1", "untouched"), ("1.5", "untouched"), ("2", "untouched"), ("2.5", "untouched")]], "Bittern": [[("1", "untouched"), ("1.5", "broken")]], "Curlew": [[("1", "untouched"), ("1.5", "broken")]]}), versions=[VersionTold(device="Avocet", number=1, mass=190.0, broken=("The device’s 190 g breaks the limit of 180 g.",)), VersionTold(device="Bittern", number=1, mass=120.0), VersionTold(device="Curlew", number=1, mass=110.0)]),
    "points in zones": lambda: record(plan([SCORE]), mixed({"4": ["2.2", "2.9", "3.0"], "6": ["1.0", "4.5", "5.0"], "8": ["0.5", "1.1", "2.4"]})),
    "a contest of totals": lambda: record(plan([HITS], TEAMS, study_kind="contest", result="total", question="Who knocks down most?"), mixed({"Avocet": ["8", "7", "7"], "Bittern": ["5", "6", "5"], "Curlew": ["4", "3", "4"], "Dunlin": ["2", "3", "2"]})),
    "a contest with a broken rule": lambda: record(plan([FAR], TEAMS, study_kind="contest", rules=RulesDraft(mass_limit="180 g")), mixed({"Avocet": ["9.1", "9.2", "9.0"], "Bittern": ["5.0", "5.2", "5.1"], "Curlew": ["4.0", "4.2", "4.1"], "Dunlin": ["2.0", "2.2", "2.1"]}), versions=[VersionTold(device="Avocet", number=1, mass=190.0, broken=("The device’s 190 g breaks the limit of 180 g.",))]),
    "a contest of eight": lambda: record(plan([FAR], TEAMS.model_copy(update={"levels": [f"Device of group {n}" for n in range(1, 9)]}), study_kind="contest"), mixed({f"Device of group {n}": [f"{n}.{i}5" for i in range(3)] for n in range(1, 9)})),
    "best of a contest": lambda: record(plan([FAR], TEAMS, study_kind="contest", result="best", repeats=2), mixed({"Avocet": ["9.15", "3.2"], "Bittern": ["5.0", "5.2"], "Curlew": ["4.0", "9.15"], "Dunlin": ["2.0", "2.2"]})),
    "rounds from the one before": lambda: record(plan([FAR], VERSIONS, family="glider", study_kind="design_rounds"), listed_out({"1": ["2.1", "2.2", "2.0"], "2": ["3.1", "3.2", "3.0"]}), versions=_line((1, None, ()), (2, 1, ("nose (blunt → long)",)))),
    "rounds past a failure": lambda: record(plan([FAR], VERSIONS, family="glider", study_kind="design_rounds", repeats=4), listed_out({"1": ["2.1", "2.2", "2.0", "2.1"], "2": ["3.1", "3.2", "3.0", "3.1"], "3": ["0.5", "0.6", "0.4", "0.5"], "4": ["3.12", "3.18", "3.02", "3.11"]}), versions=_line((1, None, ()), (2, 1, ("nose (blunt → long)",)), (3, 2, ("wing (flat → ring)",)), (4, 2, ("clay (0 → 2 g)",)))),
    "rounds with two changes": lambda: record(plan([FAR], VERSIONS, family="glider", study_kind="design_rounds"), listed_out({"1": ["2.1", "2.2", "2.0"], "2": ["3.1", "3.2", "3.0"]}), versions=_line((1, None, ()), (2, 1, ("nose (blunt → long)", "clay (0 → 2 g)")))),
    "two variables": lambda: record(plan([FAR], VariableDraft(name="fin area", quantity="area", unit="cm²", levels=["6", "12"]), second=VariableDraft(name="launch angle", quantity="angle", unit="°", levels=["30", "60"]), family="rocket", hold=[Held(name="launch angle", value="45°", tolerance="2°")]), mixed({"6 × 30": ["3.00", "3.10", "3.05"], "6 × 60": ["2.00", "2.10", "2.05"], "12 × 30": ["5.00", "5.10", "5.05"], "12 × 60": ["4.00", "4.10", "4.05"]}, conditions={"launch angle": "45°"})),
    "two variables, one depends": lambda: record(plan([FAR], VariableDraft(name="fin area", quantity="area", unit="cm²", levels=["6", "12"]), second=VariableDraft(name="launch angle", quantity="angle", unit="°", levels=["30", "60"]), family="rocket"), mixed({"6 × 30": ["3.00", "3.10", "3.05"], "6 × 60": ["5.00", "5.10", "5.05"], "12 × 30": ["5.00", "5.10", "5.05"], "12 × 60": ["3.00", "3.10", "3.05"]})),
    "held and not held": lambda: record(plan(hold=[Held(name="launch surface", value="gym floor"), Held(name="drop of the arm", value="20 cm", tolerance="1 cm"), Held(name="who claps", how="nobody")]), [Row(level=r.level, texts=r.texts, more={"conditions": {"launch surface": "carpet" if n > 5 else "gym floor", "drop of the arm": "40 cm"}}) for n, r in enumerate(mixed(RISING))]),
    "all twenty centimetres off": lambda: record(plan(hold=[Held(name="ramp height", value="40 cm", tolerance="1 cm")]), mixed(RISING, conditions={"ramp height": "60 cm"})),
    "an outcome of the class's own": lambda: record(plan([MeasureDraft(id="m1", name="what the canopy did", scale="outcome", quantity="number", unit="", words=["left and opened", "left, tangled", "stayed in"], survived=1)], COVER, family="rocket", repeats=5), mixed({"felt": ["left and opened"] * 5, "card": ["left and opened", "left, tangled", "left and opened", "left, tangled", "stayed in"], "film": ["stayed in"] * 5})),
    "two passengers": lambda: record(plan([MeasureDraft(id="m1", name="passenger", scale="outcome", quantity="number", unit="", words=["stayed in", "fell out"], survived=1, each_payload=True)], COVER, family="protector", repeats=4, payloads=["left", "right"]), mixed({"felt": [("stayed in", "stayed in")] * 4, "card": [("stayed in", "fell out")] * 4, "film": [("fell out", "fell out")] * 4})),
    "rungs for everyone": lambda: record(plan([WHOLE], COVER, family="protector", drop=DropDraft(plan="rungs", heights=["1", "1.5", "2"], unit="m", payload="fresh"), limits=[Limit(on="rungs", value="3 m")]), _ladder({"felt": [[("1", "untouched"), ("1.5", "untouched"), ("2", "untouched")]] * 3, "card": [[("1", "untouched"), ("1.5", "broken"), ("2", "untouched")]] * 3, "film": [[("1", "broken"), ("1.5", "broken"), ("2", "broken")]] * 3})),
    "hits of five shots": lambda: record(plan([MeasureDraft(id="m1", name="hits of five shots", scale="count", quantity="count", unit="count", of=5, rule="Of five")], COVER, repeats=4), mixed({"felt": ["5", "4", "5", "4"], "card": ["2", "3", "2", "2"], "film": ["0", "1", "0", "1"]})),
    "names that say where": lambda: record(plan(variable=COVER.model_copy(update={"levels": ["at the front", "at the back"]}), repeats=4), mixed({"at the front": ["2.10", "2.20", "2.15", "2.11"], "at the back": ["4.10", "4.05", "4.20", "4.12"]})),
    "straighter at like angles": lambda: record(plan([FAR, OFF], VariableDraft(name="fin area", quantity="area", unit="cm²", levels=["6", "12"]), second=VariableDraft(name="launch angle", quantity="angle", unit="°", levels=["30", "60"]), family="rocket", margin="50 cm"), [Row(level=level, texts={"m1": [far], "m2": [off]}) for n in range(3) for level, far, off in (("6 × 30", ["5.00", "5.10", "5.05"][n], ["140", "-120", "150"][n]), ("6 × 60", ["3.00", "3.10", "3.05"][n], ["-130", "160", "-120"][n]), ("12 × 30", ["4.90", "5.00", "4.95"][n], ["20", "-30", "10"][n]), ("12 × 60", ["2.90", "3.00", "2.95"][n], ["-10", "30", "20"][n]))]),
    "fins went with the length": lambda: record(plan(variable=VariableDraft(name="body length", quantity="length", unit="cm", levels=["15", "25"]), family="rocket", repeats=4), mixed({"15": ["2.1", "2.2", "2.0", "2.1"], "25": ["4.1", "4.2", "4.0", "4.1"]}), versions=[VersionTold(device="Heron", number=1, properties={"body length": "15 cm", "fins": "3"}), VersionTold(device="Heron", number=2, properties={"body length": "250 mm", "fins": "4"})]),
    "worked out": lambda: record(plan([MeasureDraft(id="m1", name="slide time", quantity="time", unit="s", rule="Gate to gate")], VariableDraft(name="ramp height", quantity="length", unit="cm", levels=["10", "20", "30"]), family="vehicle", derived=[DerivedDraft.model_validate({"id": "d1", "name": "average speed", "calculator": "average-speed", "output": "speed", "unit": "m/s", "inputs": [{"input": "distance", "source": "typed", "value": "4 m"}, {"input": "time", "source": "reading", "of": "m1"}]})]), mixed({"10": ["2.41", "2.38", "2.44"], "20": ["1.71", "1.69", "1.74"], "30": ["1.39", "1.42", "1.40"]})),
}  # fmt: skip
