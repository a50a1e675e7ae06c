"""From what instruments send to readings: gates, scales, meters and sound triggers speak one protocol, and none of them can be trusted to
send each event once, in time and in order."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from ..draft import MOST_IN_HEAT, Draft, MeasureDraft, Typed
from ..readings import QUANTITIES, convert, find_unit, quantity
from ..written import stated as written
from .scales import scale_of

Instrument = Literal["gate", "scale", "meter", "sound", "felt"]
What = Literal["release", "land", "value", "cleared"]
#: Which quantity each kind of instrument reads.
READS: dict[Instrument, str] = {"gate": "time", "sound": "time", "felt": "time", "scale": "mass", "meter": "voltage"}
CALLED: dict[Instrument, str] = {"gate": "a light gate", "sound": "a sound trigger", "scale": "a scale", "meter": "a meter", "felt": "a phone in the carrier"}
#: An event older than this by the instrument's own count of seconds, against the newest it sent, came late.
LATE_S = 2.0
#: A number is sent again with its own time; with another it is another event. An instrument that is switched on begins with one of the first.
SAME_T, FIRST_NUMBERS = 1e-6, 3
#: Two ends of one time closer than this are a bounce; further apart than this the first was forgotten.
SHORTEST_S, LONGEST_S = 0.03, 600.0
#: So many numbers of one instrument are remembered, to know a doubled one.
REMEMBERED = 500
#: So many instruments are heard at one lane.
MOST_INSTRUMENTS = 24


def heard_by(draft: Draft) -> MeasureDraft:
    """The measure that instruments read: the first; where places are read, the time that is taken beside them, or a time that only orders them."""
    if scale_of(draft.measure).shape != "places":
        return draft.measure
    timed = next((m for m in draft.measures if m.quantity == "time" and scale_of(m).number), None)
    return timed or MeasureDraft(id=draft.measure.id, name=draft.measure.name, quantity="time", unit="s", timed=True)


def instruments_for(quantity: str) -> tuple[tuple[Instrument, str], ...]:
    """The kinds of instrument that read this quantity, each with what it is called; none where no instrument does."""
    return tuple((kind, CALLED[kind]) for kind, reads in READS.items() if reads == quantity)


class Heard(Typed):
    """One event of an instrument: a line of JSON. instrument: what it is; name: which of them; n: its own running number, by which a
    doubled or missing one is known; t: its own clock in s, steady; what: of a gate or sound trigger `release` and `land`, of a scale
    or meter `value` with value and unit, of a meter `cleared`; step: the smallest step that it reads, in `unit` (s for times); lane: of a
    heat, which of those let go together landed (1 to 6), 0 where one thing falls; u: of a landing, the standard uncertainty in s of the time since
    the release where it knows one, 0 where its step says it."""

    instrument: Instrument
    name: Annotated[str, Field(min_length=1, max_length=40)]
    n: int = Field(ge=0, le=2**53)
    t: float = Field(ge=0, le=1e12)
    what: What
    value: float | None = Field(default=None, ge=-1e12, le=1e12)
    unit: str = Field(default="", max_length=12)
    step: float = Field(default=0.001, gt=0, le=1e6)
    lane: int = Field(default=0, ge=0, le=MOST_IN_HEAT)
    u: float = Field(default=0.0, ge=0, le=10)


@dataclass(frozen=True, slots=True, kw_only=True)
class Got:
    """What became of an event. state: `reading` with its text, unit and stamps; `started` when a time began; `told` when something was
    wrong or is only noted, and says what; `doubled` when it had been heard before; `kept` when one of the screens has kept a reading.
    doubt: what is asked before this reading is kept. lost: something did not arrive, which stays told until somebody has looked. more: what else the
    instrument tells of the same trial: (name, quantity, ((unit, text), …)) each."""

    state: Literal["reading", "started", "told", "doubled", "kept"]
    says: str
    text: str = ""
    unit: str = ""
    stamps: tuple[float, ...] = ()
    taken: Instrument = "gate"
    source: str = ""
    lane: int = 0
    doubt: str = ""
    lost: bool = False
    more: tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...] = ()


@dataclass(slots=True)
class _One:
    """What is known of one instrument."""

    last_n: int = -1
    newest_t: float = 0.0
    seen: dict[int, float] = field(default_factory=dict)
    released: float | None = None
    landed: set[int] = field(default_factory=set)
    value: float | None = None
    cleared: bool = True


_KNOWN = TypeAdapter(dict[str, _One])


class Listener:
    """Puts the events of a lane's instruments together into readings of the first measure. Holds only what it heard; time comes with
    the events."""

    def __init__(self, measure: MeasureDraft, known: str = "{}") -> None:
        """known: what `known()` of a listener of the same measure gave, to go on from there."""
        self._measure = measure
        self._known: dict[str, _One] = _KNOWN.validate_json(known)

    def known(self) -> str:
        """What it holds, as a text to go on from elsewhere."""
        return _KNOWN.dump_json(self._known).decode()

    def hear(self, event: Heard) -> list[Got]:
        """What an event gives, what is wrong with it told first."""
        if event.name not in self._known and len(self._known) >= MOST_INSTRUMENTS:
            return [_told(event, f"{MOST_INSTRUMENTS} instruments speak to this lane already; {event.name[:40]} is not heard. Open the lane again to begin anew.")]
        one = self._known.setdefault(event.name, _One())
        anew = self._starts_anew(event, one)
        if anew is not None:
            one = self._known[event.name] = _One()
        if event.n in one.seen:
            return [Got(state="doubled", says=f"{event.name} sent number {event.n} twice; it counts once.", source=event.name)]
        told = self._in_order(event, one)
        one.seen[event.n] = event.t
        if len(one.seen) > REMEMBERED:
            one.seen = {n: t for n, t in one.seen.items() if n > max(one.seen) - REMEMBERED // 2}
        if told is not None and event.n < one.last_n:
            return [told]
        told = anew or told
        one.last_n, one.newest_t = max(one.last_n, event.n), max(one.newest_t, event.t)
        wrong = self._wrong_kind(event)
        got = [wrong] if wrong else self._time(event, one) if READS[event.instrument] == "time" else self._value(event, one)
        return [*([told] if told else []), *got]

    def _starts_anew(self, event: Heard, one: _One) -> Got | None:
        """Whether an instrument was switched off and on: its clock or its numbers begin again, so that what it counted before says nothing of what
        it sends now."""
        if one.last_n < 0:
            return None
        clock = event.t < one.newest_t - LATE_S
        numbers = event.n in one.seen and abs(one.seen[event.n] - event.t) > SAME_T
        if not numbers and not (clock and (event.n > one.last_n or event.n <= FIRST_NUMBERS)):
            return None
        what = "Its clock begins" if clock and not numbers else "Its numbers begin" if not clock else "Its clock and its numbers begin"
        return _told(event, f"{event.name} has started anew. {what} again; if a trial ran meanwhile, run it again.", lost=one.released is not None)

    def _in_order(self, event: Heard, one: _One) -> Got | None:
        if one.last_n < 0:
            return None
        if event.n < one.last_n or event.t < one.newest_t - LATE_S:
            return _told(event, f"Number {event.n} of {event.name} came late and is left out.", lost=True)
        if event.n > one.last_n + 1:
            one.released = None  # an end without its own beginning is no time
            gone = event.n - one.last_n - 1
            return _told(event, f"{'One event' if gone == 1 else f'{gone} events'} of {event.name} did not arrive. If a trial ran meanwhile, run it again.", lost=True)
        return None

    def _wrong_kind(self, event: Heard) -> Got | None:
        if self._measure.quantity == READS[event.instrument]:
            return None
        return _told(event, f"{event.name} reads {READS[event.instrument]}, and this study measures {self._measure.name or self._measure.quantity}. Type the reading.")

    def _time(self, event: Heard, one: _One) -> list[Got]:
        if event.what == "release":
            one.released, one.landed = event.t, set()
            return [Got(state="started", says=f"{event.name} saw it go.", stamps=(event.t,), taken=event.instrument, source=event.name)]
        if event.what != "land":
            return [_told(event, f"{event.name} sent “{event.what}”, which is no part of a time.")]
        if one.released is None:
            return [_told(event, f"{event.name} saw a landing without a release. Nothing is timed.")]
        took = event.t - one.released
        if took < SHORTEST_S:
            return [_told(event, f"{event.name} saw the landing {took:.3f} s after the release, which is a bounce. It still waits for the landing.")]
        if event.lane in one.landed:
            return [_told(event, f"{event.name} saw lane {event.lane} land again. The first landing counts.")]
        one_from = one.released
        if event.lane and took <= LONGEST_S:
            one.landed.add(event.lane)  # the others still fall
        else:
            one.released = None
        if took > LONGEST_S:
            return [_told(event, f"{event.name} saw a landing {took:.0f} s after a release. That is no trial; nothing is timed.")]
        return [_reading(event, self._measure.unit, convert(took, "s", self._measure.unit), convert(event.step, "s", self._measure.unit), (one_from, event.t))]

    def _value(self, event: Heard, one: _One) -> list[Got]:
        if event.what == "cleared":
            one.cleared = True
            return [_told(event, f"{event.name} is cleared.")]
        if event.what != "value" or event.value is None:
            return [_told(event, f"{event.name} sent “{event.what}” without a value. Read it off and type it.")]
        name = READS[event.instrument]
        unit = find_unit(event.unit, name)
        if unit is None:
            return [_told(event, f"{event.name} sent a value in “{event.unit}”, which is no unit of {name}. Read it off and type it.")]
        most = QUANTITIES[name].absurd
        if event.value < 0 or (most is not None and convert(event.value, unit, quantity(name).si) > most):
            return [_told(event, f"{event.name} sent {event.value:g} {unit}, which cannot be. Look at it, set it to zero, and try again.")]
        doubt = ""
        if event.instrument == "meter" and not one.cleared and one.value is not None and event.value <= one.value:
            doubt = f"{event.name} shows {event.value:g} {unit} and was not cleared since {one.value:g} {unit}. Clear it and run again, or keep it if it was cleared by hand."
        one.cleared, one.value = False, event.value
        own = self._measure.unit
        read = _reading(event, own, convert(event.value, unit, own), convert(event.step, unit, own), (event.t,))
        return [*([_told(event, doubt)] if doubt else []), replace(read, doubt=doubt)]


def _told(event: Heard, says: str, *, lost: bool = False) -> Got:
    return Got(state="told", says=says, taken=event.instrument, source=event.name, lost=lost)


def _reading(event: Heard, unit: str, value: float, step: float, stamps: tuple[float, ...]) -> Got:
    """The reading with as many digits as the instrument's step warrants."""
    places = max(0, min(6, -_exponent(step)))
    text = f"{value:.{places}f}" if not event.u else written(value, convert(event.u, "s", unit))
    return Got(state="reading", says=f"{event.name} reads {text} {unit}{f' on lane {event.lane}' if event.lane else ''}.", text=text, unit=unit, stamps=stamps, taken=event.instrument, source=event.name, lane=event.lane)


def _exponent(step: float) -> int:
    """The place of the first digit of a step: 0.001 gives −3, 0.05 gives −2."""
    return int(f"{step:e}".rpartition("e")[2])
