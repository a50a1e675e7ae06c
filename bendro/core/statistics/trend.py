"""A numeric variable: line, proportional, power law and one peak, with the form that the readings prefer."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Literal, cast

import numpy as np
from scipy import stats

from ..results import Form, Interval, Looked, Trend
from ..trials import Trial
from .compare import overlap, readings_of
from .curve import FITS_P, ends_of, lack_of_fit, middle_of, shape_of
from .shuffle import bound_scores, shuffle_shapes
from .tails import t_isf, t_two
from .unequal import best_between, shapes_p, spreads_ask, trend_unequal

FormName = Literal["line", "proportional", "power", "peak"]
#: Steps in which a fitted form is drawn.
CURVE_POINTS = 32
ALL_FORMS: tuple[FormName, ...] = ("line", "proportional", "power", "peak")


def aicc(log_likelihood: float, coefficients: int, n: int) -> float | None:
    """Small-sample Akaike criterion; the residual variance counts as one more parameter. None where n is too small.
    Source: Hurvich & Tsai 1989, Biometrika 76, 297-307."""
    k = coefficients + 1
    if n - k - 1 <= 0 or not math.isfinite(log_likelihood):
        return None
    return -2 * log_likelihood + 2 * k + 2 * k * (k + 1) / (n - k - 1)


def _finite(value: float) -> float | None:
    return float(value) if math.isfinite(float(value)) else None


@dataclass(frozen=True, slots=True)
class _Fit:
    """A least-squares fit. params, se: one a column; covariance: of the coefficients; llf: log-likelihood under normal errors."""

    params: np.ndarray
    se: np.ndarray
    covariance: np.ndarray
    df: int
    rss: float
    llf: float


def _least_squares(design: np.ndarray, y: np.ndarray) -> _Fit:
    """By the QR decomposition. Source: any handbook; checked against statsmodels and NIST StRD in the tests."""
    n, k = design.shape
    q, r = np.linalg.qr(design)
    params = np.linalg.solve(r, q.T @ y)
    residual = y - design @ params
    rss, df = float(residual @ residual), n - k
    inverse = np.linalg.inv(r)
    covariance = inverse @ inverse.T * (rss / df if df > 0 else math.nan)
    llf = -n / 2 * (math.log(2 * math.pi * rss / n) + 1) if rss > 0 else math.inf
    return _Fit(params, np.sqrt(np.diag(covariance)), covariance, df, rss, llf)


def _form(form: FormName, names: Sequence[str], design: np.ndarray, y: np.ndarray, *, p_of: int) -> tuple[Form, _Fit]:
    """Least squares of y on the design's columns. A perfect fit has slope doubt 0, not NaN."""
    with np.errstate(all="ignore"):  # a perfect fit divides by a residual of 0; what is not finite is left out below
        fit = _least_squares(design, y)
        df, tss = fit.df, float(((y - y.mean()) ** 2).sum())
        perfect = fit.rss <= 1e-24 * max(float(y @ y), 1e-300)
        half = t_isf(0.025, df) * fit.se if df > 0 else np.full(len(names), np.nan)
        p = _finite(t_two(float(fit.params[p_of] / fit.se[p_of]), df)) if df > 0 and not perfect else None
    made = Form(
        form=form,
        coefficients={n: float(c) for n, c in zip(names, fit.params, strict=True)},
        se={n: _finite(s) if df > 0 else None for n, s in zip(names, fit.se, strict=True)},
        ci95={n: _interval((c - h, c + h)) for n, c, h in zip(names, fit.params, half, strict=True)},
        r2=None if tss == 0 else 1 - fit.rss / tss,
        p=p,
        aicc=None if perfect else aicc(fit.llf, len(names), len(y)),
        residual_sd=math.sqrt(fit.rss / df) if df > 0 else None,
    )
    return made, fit


def _interval(pair: Iterable[float]) -> Interval | None:
    low, high = (float(v) for v in pair)
    return (low, high) if math.isfinite(low) and math.isfinite(high) else None


def line(x: Sequence[float], y: Sequence[float]) -> Form:
    """intercept + slope·x by least squares. Source: any handbook; NIST StRD linear regression."""
    xs = np.asarray(x, float)
    return _form("line", ("intercept", "slope"), np.column_stack([np.ones_like(xs), xs]), np.asarray(y, float), p_of=1)[0]


def proportional(x: Sequence[float], y: Sequence[float]) -> Form:
    """slope·x through the start. r² is against the plain mean, so that it compares with the other forms."""
    return _form("proportional", ("slope",), np.asarray(x, float)[:, None], np.asarray(y, float), p_of=0)[0]


def power(x: Sequence[float], y: Sequence[float]) -> Form | None:
    """scale·x^exponent, a line on logs; None unless every number is above zero. r² is on logs; AICc carries the Jacobian
    of the logs, so that it compares with the other forms."""
    if min(x) <= 0 or min(y) <= 0:
        return None
    xs, ys = np.log(np.asarray(x, float)), np.log(np.asarray(y, float))
    made, fit = _form("power", ("log_scale", "exponent"), np.column_stack([np.ones_like(xs), xs]), ys, p_of=1)
    scale = math.exp(made.coefficients["log_scale"])
    interval = made.ci95["log_scale"]
    log_se = made.se["log_scale"]
    value = None if made.aicc is None else aicc(fit.llf - float(ys.sum()), 2, len(ys))
    return made.model_copy(
        update={
            "coefficients": {"scale": scale, "exponent": made.coefficients["exponent"]},
            "se": {"scale": None if log_se is None else scale * log_se, "exponent": made.se["exponent"]},
            "ci95": {
                "scale": None if interval is None else (math.exp(interval[0]), math.exp(interval[1])),
                "exponent": made.ci95["exponent"],
            },
            "aicc": value,
        }
    )


def peak(x: Sequence[float], y: Sequence[float]) -> Form | None:
    """a + b·x + c·x² with the turning point and its interval; None below three levels. p is that of the bend c.
    Source of the interval: delta method (Oehlert 1992, American Statistician 46, 27-29)."""
    if len(set(x)) < 3:
        return None
    centre = float(np.mean(x))
    xs = np.asarray(x, float) - centre  # centred while fitting: x and x² are nearly parallel far from 0
    made, fit = _form("peak", ("a", "b", "c"), np.column_stack([np.ones_like(xs), xs, xs**2]), np.asarray(y, float), p_of=2)
    a, b, c = (float(v) for v in fit.params)
    back = np.array([[1, -centre, centre**2], [0, 1, -2 * centre], [0, 0, 1]])
    coefficients = dict(zip(("a", "b", "c"), (float(v) for v in back @ [a, b, c]), strict=True))
    df = len(y) - 3
    ses: dict[str, float | None] = dict.fromkeys("abc")
    cis: dict[str, Interval | None] = dict.fromkeys("abc")
    optimum, optimum_ci = None, None
    if c != 0:
        optimum = centre - b / (2 * c)
    if df > 0:
        covariance = fit.covariance
        t = t_isf(0.025, df)
        for name, se in zip("abc", np.sqrt(np.maximum(np.diag(back @ covariance @ back.T), 0)), strict=True):
            ses[name], cis[name] = float(se), (coefficients[name] - t * float(se), coefficients[name] + t * float(se))
        if optimum is not None:
            slope = np.array([0.0, -1 / (2 * c), b / (2 * c**2)])
            half = t * math.sqrt(max(float(slope @ covariance @ slope), 0.0))
            optimum_ci = (optimum - half, optimum + half)
    return made.model_copy(update={"coefficients": coefficients, "se": ses, "ci95": cis, "optimum": optimum, "optimum_ci95": optimum_ci})


def value_at(form: Form, x: float) -> float:
    """What a fitted form says at x, in the response's unit."""
    c = form.coefficients
    if form.form == "power":
        return float(c["scale"] * x ** c["exponent"])
    if form.form == "peak":
        return c["a"] + c["b"] * x + c["c"] * x * x
    return c.get("intercept", 0.0) + c["slope"] * x


#: Columns of the least squares of each form, over x (over its logarithm for a power).
_COLUMNS: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "line": lambda x: np.column_stack([np.ones_like(x), x]),
    "proportional": lambda x: x[:, None],
    "power": lambda x: np.column_stack([np.ones_like(x), np.log(x)]),
    "peak": lambda x: np.column_stack([np.ones_like(x), x, x**2]),
}


def band_of(form: FormName, x: Sequence[float], y: Sequence[float]) -> tuple[tuple[float, float, float], ...]:
    """95 % band of the fitted mean: (x, low, high) over the levels tried, in the response's unit; empty where nothing is left to judge the
    scatter by. x, y: the readings, exact ones. For a power on logs. Source: Draper & Smith 1998, Applied Regression Analysis, 3.2."""
    given, at = np.asarray(x, float), np.linspace(min(x), max(x), CURVE_POINTS + 1)
    values = np.log(np.asarray(y, float)) if form == "power" else np.asarray(y, float)
    centre = 0.0 if form in ("proportional", "power") else float(given.mean())  # x and x² are nearly parallel far from 0
    design, over = (_COLUMNS[form](v - centre) for v in (given, at))
    if len(values) <= design.shape[1]:
        return ()
    fit = _least_squares(design, values)
    middle = over @ fit.params
    half = t_isf(0.025, fit.df) * np.sqrt(np.maximum(np.einsum("ij,jk,ik->i", over, fit.covariance, over), 0.0))
    low, high = (np.exp(v) if form == "power" else v for v in (middle - half, middle + half))
    return tuple((float(a), float(b), float(c)) for a, b, c in zip(at, low, high, strict=True))


def _with_curve(form: Form, low: float, high: float) -> Form:
    points = [low + (high - low) * i / CURVE_POINTS for i in range(CURVE_POINTS + 1)]
    return form.model_copy(update={"curve": tuple((x, value_at(form, x)) for x in points)})


def _drawn_only(form: Form) -> Form:
    """A form through readings of which some are only bounds: its coefficients may be drawn, its doubts mean nothing."""
    none = dict.fromkeys(form.coefficients)
    return form.model_copy(
        update={"se": none, "ci95": dict(none), "r2": None, "p": None, "aicc": None, "residual_sd": None, "optimum_ci95": None}
    )


def fit_trend(trials: Sequence[Trial], *, allowed: Sequence[FormName] = ALL_FORMS, best_is: str = "high") -> Trend:
    """Every allowed form that can be fitted, the preferred one by AICc, Spearman's rank correlation and the shuffle of
    the slope. trials: kept, with numeric levels, at least two different ones. An optimum is offered only inside the
    levels tried and where the curve turns the right way; a turning point that lies beyond them is never preferred.
    """
    kept = [t for t in trials if t.counts and t.value is not None]
    x = [float(cast(float, t.level)) for t in kept]
    y, kinds = readings_of(kept)
    made: list[Form] = [line(x, y)]
    if "proportional" in allowed:
        made.append(proportional(x, y))
    for name, fit in (("power", power), ("peak", peak)):
        if name in allowed and (found := fit(x, y)) is not None:
            made.append(found)
    beyond: Literal["lowest", "highest"] | None = None
    eligible = []
    for form in made:
        if form.form == "peak":
            turns_right_way = form.coefficients["c"] < 0 if best_is == "high" else form.coefficients["c"] > 0
            inside = form.optimum is not None and min(x) <= form.optimum <= max(x)
            without = form.model_copy(update={"optimum": None, "optimum_ci95": None})
            if not inside:
                if turns_right_way and form.optimum is not None:
                    beyond = "highest" if form.optimum > max(x) else "lowest"
                made[made.index(form)] = without
                continue
            if not turns_right_way:  # a worst in the middle may describe the readings, but it is no optimum
                made[made.index(form)] = without
                form = without
        if form.aicc is not None and form.form in allowed:
            eligible.append(form)
    bounds = any(k in ("at_least", "at_most") for k in kinds)
    levels = sorted(set(x))
    groups = [[v for a, v in zip(x, y, strict=True) if a == level] for level in levels]
    step = max((t.resolution for t in kept if t.resolution), default=0.0)
    repeated = min(map(len, groups)) > 1 and not bounds
    middle = middle_of(levels, groups, step) if repeated else None
    if repeated and middle is None:  # the repeats do not show that a level in the middle beats both ends, so none is said to be best
        made = [f.model_copy(update={"optimum": None, "optimum_ci95": None}) if f.form == "peak" else f for f in made]
        eligible = [f for f in eligible if f.form != "peak"]
    preferred = min(eligible, key=lambda f: cast(float, f.aicc)).form if eligible else "line"
    ranked = bound_scores(y, kinds) if bounds else y
    bends = "peak" in allowed and len(set(x)) > 2
    shuffled, *bent = shuffle_shapes(x, ranked, 2 if bends else 1)
    by_t = None if bounds else shapes_p(levels, groups)
    unequal = None if bounds else trend_unequal(levels, groups, step)
    flat = bool(np.ptp(ranked) == 0)
    rise, rise_ci = (None, None) if bounds else ends_of(groups, step)
    return Trend(
        preferred=preferred,
        spearman=None if flat else _finite(stats.spearmanr(x, ranked).statistic),
        p_shuffle=shuffled.p,
        shuffle_exact=shuffled.exact,
        shuffle_arrangements=shuffled.arrangements,
        shuffle_seed=shuffled.seed,
        shuffle_method=shuffled.method,
        smallest_p=shuffled.smallest_p,
        best_beyond=beyond,
        bound=bounds or None,
        forms=tuple(_with_curve(_drawn_only(f) if bounds else f, min(x), max(x)) for f in made),
        ranges_overlap=overlap(groups[0], groups[-1]),
        slope=_looked(by_t, unequal, 0, shuffled.p),
        bend=_looked(by_t, unequal, 1, bent[0].p, bent[0].smallest_p) if bent else None,
        spreads_ask=not bounds and spreads_ask(groups, step),
        best_between=None if bounds else best_between(levels, groups, best_is=best_is),
        middle=middle,
        rise=rise,
        rise_ci95=rise_ci,
        shape=None if bounds or len(levels) < 3 else shape_of(levels, groups, step),
        drawn=bounds or (flat is False and _fits(next(f for f in made if f.form == preferred), levels, groups, step)),
    )


def _fits(form: Form, levels: Sequence[float], groups: Sequence[Sequence[float]], step: float) -> bool:
    """Whether the levels lie no further from a form than the repeats scatter."""
    p = lack_of_fit(levels, groups, lambda x: value_at(form, x), len(form.coefficients), step)
    return p is None or p > FITS_P


def _looked(by_t: Sequence[float] | None, unequal: Sequence[float] | None, at: int, shuffled: float, smallest: float | None = None) -> Looked:
    return Looked(p_shuffle=shuffled, smallest_p=smallest, p_t=None if by_t is None else by_t[at], p_unequal=None if unequal is None else unequal[at])
