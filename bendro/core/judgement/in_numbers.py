"""An effect in numbers, as lines to be read: the fitted form and its slope, or the shuffle over all levels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..results import DifferenceEffect, Effect, Form, GroupsEffect, PairedEffect, Trend, TrendEffect
from ..written import at_place, effect_decimals, interval, level_label, p_text, with_unit
from .wording import NOTHING_TO_SHUFFLE

if TYPE_CHECKING:
    from ..context import Context


def in_numbers(effect: Effect, asked: Context, n: int) -> tuple[str, ...]:
    """The lines of an effect of n counted trials; none where its numbers stand in the table of differences alone."""
    if isinstance(effect, TrendEffect):
        return (*_of_trend(effect.trend, asked), *_method(effect, asked, n))
    if isinstance(effect, DifferenceEffect | PairedEffect):
        return _method(effect, asked, n)
    if isinstance(effect, GroupsEffect) and effect.groups.p_shuffle is not None:
        g = effect.groups
        if g.shuffle_exact and g.shuffle_arrangements == 1:
            return (NOTHING_TO_SHUFFLE, *_method(effect, asked, n))
        how = f"every one of {g.shuffle_arrangements:,} arrangements" if g.shuffle_exact else f"{g.shuffle_arrangements:,} random arrangements, seed {g.shuffle_seed}" if g.shuffle_arrangements else "from the limit of many readings"
        return (f"Shuffle test over all levels: p {_equal(g.p_shuffle)}, {how}.", *_method(effect, asked, n))
    return ()


def _method(effect: Effect, asked: Context, n: int) -> tuple[str, ...]:
    """At the senior level: by which method, with its test value and degrees of freedom."""
    if asked.reading != "senior" or asked.on_rungs:
        return ()
    if isinstance(effect, DifferenceEffect | PairedEffect):
        d = effect.difference
        if d.t is None or d.df is None:
            return ()
        test = "Paired t test" if d.paired else "Welch’s t test"
        return (f"{test}: t = {at_place(d.t, 2)} with {d.df:.3g} degrees of freedom, p {_equal(d.p_t)}.",)
    if isinstance(effect, GroupsEffect):
        g = effect.groups
        if g.f is None or g.df is None:
            return ()
        return (f"One-way analysis of variance: F = {at_place(g.f, 2)} with {g.df[0]:g} and {g.df[1]:g} degrees of freedom, p {_equal(g.p_anova)}.",)
    if isinstance(effect, TrendEffect) and not effect.trend.bound:
        return (f"Least squares, {n} trials, {n - 2} degrees of freedom for the slope.",)
    return ()


def _equal(p: float | None) -> str:
    text = p_text(p) or "not known"
    return text if text.startswith("below") else f"= {text}"


def _of_trend(trend: Trend, asked: Context) -> tuple[str, ...]:
    form = next(f for f in trend.forms if f.form == trend.preferred)
    line = next(f for f in trend.forms if f.form == "line")
    if not trend.drawn:
        if trend.shape is not None:
            return ("No one line or curve goes through these levels: they lie further from it than the repeats scatter. The means stand for themselves.",)
        return ("No line is drawn through the trials, because no relation is seen that luck does not make as well.",)
    lines = [_equation(form, asked)]
    if trend.bound:
        return (*lines, "Drawn through what is written. Some readings are only bounds, so the slope has no interval and nothing is concluded from it; the verdict goes by rank.")
    if form.r2 is not None:
        lines.append(f"r² {at_place(form.r2, 3)}.")
    if trend.preferred != "peak":
        ci, slope = line.ci95["slope"], line.coefficients["slope"]
        places = effect_decimals(slope, None if ci is None else (ci[1] - ci[0]) / 2)
        per = _per(asked)
        within = interval(*ci, places) if ci is not None else None
        lines.append(f"Slope of the straight line {at_place(slope, places)}{per}{f', 95 % interval {within}' if within else ''}.")
    if form.optimum is not None and asked.factor_unit != "count":  # between two counts there is nothing to build
        high = form.coefficients.get("c", 0.0) < 0
        ci = form.optimum_ci95
        places = effect_decimals(form.optimum, None if ci is None else (ci[1] - ci[0]) / 2)
        within = interval(*ci, places) if ci is not None else None
        unit = "" if asked.factor_unit in (None, "count") else asked.factor_unit
        lines.append(f"It is {'greatest' if high else 'least'} at {with_unit(at_place(form.optimum, places), unit)}{f', 95 % interval {with_unit(within, unit)}' if within else ''}.")
    return tuple(lines)


def _per(asked: Context) -> str:
    """The unit of a slope: " m for each 1 kg", " for each 1 more" where both are counted."""
    unit = "" if asked.unit in (None, "", "count") else f" {asked.unit}"
    return f"{unit} for each {'1 more' if asked.factor_unit in (None, '', 'count') else level_label(1.0, asked.factor_unit)}"


def _equation(form: Form, asked: Context) -> str:
    """The fitted form as it is written, each coefficient as its own half-width allows."""
    x, c = asked.factor, form.coefficients

    def number(name: str) -> str:
        value, ci = c[name], form.ci95.get(name)
        return at_place(abs(value), effect_decimals(value, None if ci is None else (ci[1] - ci[0]) / 2))

    def term(name: str, *, first: bool = False) -> str:
        sign = "−" if c[name] < 0 else "" if first else "+"
        return f"{sign}{'' if first else ' '}{number(name)}"

    y = f"{asked.response} = "
    if form.form == "power":
        return f"{y}{number('scale')} × ({x}) to the power {term('exponent', first=True)}"
    if form.form == "peak":
        return f"{y}{term('a', first=True)} {term('b')} × {x} {term('c')} × ({x})²"
    if form.form == "proportional":
        return f"{y}{term('slope', first=True)} × {x}"
    return f"{y}{term('intercept', first=True)} {term('slope')} × {x}"
