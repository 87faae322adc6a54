"""Several cells or tests at once, held against the formulas written out anew and against models of known truth."""

import itertools
import math
import statistics
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from nomothet.core.chain import chain, chain_over_tests
from nomothet.core.crossover import crossover
from nomothet.core.economy import Energy, energy, energy_of_windows, frontier, frontier_by, work_per_watt
from nomothet.core.errors import BadSample
from nomothet.core.forecast import forecast
from nomothet.core.grid import grid
from nomothet.core.overall import TestCells, overall
from nomothet.core.pairwise import Pairwise
from nomothet.core.rounds import Placed, by_rounds, by_sessions
from nomothet.core.scaling import scaling
from nomothet.core.segments import Span
from nomothet.core.sweep import Level, sweep

CELL = st.lists(st.floats(50, 150), min_size=2, max_size=5)
SETTINGS = settings(max_examples=60, deadline=None)


def noise(cells: list[list[float]]) -> tuple[float, int]:
    """Pooled noise of logs, written out."""
    logs = [[math.log(value) for value in cell] for cell in cells]
    df = sum(len(cell) - 1 for cell in logs)
    squares = sum(statistics.variance(cell) * (len(cell) - 1) for cell in logs if len(cell) > 1)
    return math.sqrt(squares / df), df


def mean(cell: list[float]) -> float:
    return statistics.fmean(math.log(value) for value in cell)


def factor(m: int, df: float) -> float:
    return float(stats.t.ppf(1 - (1 - 0.95 ** (1 / m)) / 2, df))


class Bands(unittest.TestCase):
    def band(self, found: Pairwise, d: float, half: float) -> None:
        assert found.low is not None
        assert found.high is not None
        for told, wanted in ((found.ratio, d), (found.low, d - half), (found.high, d + half)):
            self.assertAlmostEqual(math.log(told), wanted, places=9)


class Chains(Bands):
    @SETTINGS
    @given(st.lists(CELL, min_size=2, max_size=5), st.sampled_from(["higher", "lower"]))
    def test_steps_multiply_to_the_whole_and_share_one_noise(self, cells: list[list[float]], direction: str) -> None:
        found = chain([(f"step {at}", cell) for at, cell in enumerate(cells)], direction)  # type: ignore[arg-type]
        product = math.prod(one.step.ratio for one in found.steps)
        self.assertAlmostEqual(product / found.end_to_end.ratio, 1, places=9)
        sd, df = noise(cells)
        sign = -1 if direction == "lower" else 1
        last, before = cells[-1], cells[-2]
        half = factor(len(cells) - 1, df) * sd * math.sqrt(1 / len(last) + 1 / len(before))
        self.band(found.steps[-1].step, sign * (mean(last) - mean(before)), half)

    def test_what_is_no_chain_is_refused(self) -> None:
        for steps in ([("a", [1.0])], [("a", [1.0]), ("a", [2.0])], [("a", [1.0]), ("b", [])]):
            with self.subTest(steps=steps), self.assertRaises(BadSample):
                chain(steps)


class ChainsOverTests(Bands):
    """Steps over several tests: section 4 for every step, with the error level of all of them together."""

    @SETTINGS
    @given(st.lists(st.lists(CELL, min_size=3, max_size=3), min_size=2, max_size=3))
    def test_each_step_is_the_mean_of_its_tests(self, tests: list[list[list[float]]]) -> None:
        given_ = {
            f"t{at}": TestCells(dict(zip("abc", cells, strict=True)), "lower" if at % 2 else "higher")
            for at, cells in enumerate(tests)
        }
        found, left_out = chain_over_tests(given_, list("abc"))
        assert found is not None
        self.assertEqual(left_out, {})
        noises = [noise(cells) for cells in tests]
        for step, (before, after) in zip(found.steps, ((0, 1), (1, 2)), strict=True):
            signs = [-1 if at % 2 else 1 for at in range(len(tests))]
            d = statistics.fmean(
                sign * (mean(cells[after]) - mean(cells[before])) for sign, cells in zip(signs, tests, strict=True)
            )
            parts = [
                (s * s * (1 / len(cells[after]) + 1 / len(cells[before])), df)
                for (s, df), cells in zip(noises, tests, strict=True)
            ]
            total = sum(a for a, _ in parts)
            if total < 1e-20:
                continue
            df = total**2 / sum(a * a / own for a, own in parts)
            self.band(step.step, d, factor(2, df) * math.sqrt(total) / len(tests))
        product = found.steps[0].step.ratio * found.steps[1].step.ratio
        self.assertAlmostEqual(product, found.end_to_end.ratio, places=9)

    def test_a_test_that_a_step_lacks_is_left_out_for_all(self) -> None:
        whole = TestCells({"a": [1, 1.1], "b": [2, 2.1]})
        found, left_out = chain_over_tests(
            {"x": whole, "y": TestCells({"a": [1, 1]}), "z": TestCells(whole.cells, left_out="held rate")}, ["a", "b"]
        )
        assert found is not None
        self.assertEqual(left_out, {"y": "missing", "z": "held rate"})
        self.assertEqual(chain_over_tests({"y": TestCells({"a": [1, 1]})}, ["a", "b"])[0], None)


class Grids(Bands):
    @SETTINGS
    @given(st.data(), st.integers(1, 3))
    def test_effects_are_those_of_a_regression_on_signs_where_cells_are_equal_in_size(
        self, data: st.DataObject, k: int
    ) -> None:
        size = data.draw(st.integers(2, 4))
        corners = list(itertools.product((0, 1), repeat=k))
        cells = {corner: data.draw(st.lists(st.floats(50, 150), min_size=size, max_size=size)) for corner in corners}
        found = grid([f"f{at}" for at in range(k)], cells)
        rows, y = [], []
        sets = [chosen for n in range(k + 1) for chosen in itertools.combinations(range(k), n)]
        for corner, values in cells.items():
            for value in values:
                rows.append([math.prod(2 * corner[at] - 1 for at in chosen) for chosen in sets])
                y.append(math.log(value))
        weights = np.linalg.lstsq(np.array(rows, float), np.array(y), rcond=None)[0]
        for chosen, weight in zip(sets[1:], weights[1:], strict=True):
            told = math.log(found.effects[tuple(f"f{at}" for at in chosen)].ratio)
            # A sign runs from −1 to 1, and a factor's own difference is twice its weight.
            self.assertAlmostEqual(told, 2 ** len(chosen) * float(weight), places=9)

    def test_a_hole_is_named(self) -> None:
        with self.assertRaisesRegex(BadSample, "door 1, filter 0"):
            grid(["door", "filter"], {(0, 0): [1.0], (0, 1): [1.0], (1, 1): [1.0]})


class Sweeps(Bands):
    @SETTINGS
    @given(st.lists(CELL, min_size=2, max_size=6), st.sampled_from(["higher", "lower"]))
    def test_enough_is_the_lowest_that_is_not_behind_the_best(self, cells: list[list[float]], direction: str) -> None:
        found = sweep([Level(at, cell) for at, cell in enumerate(cells)], direction)  # type: ignore[arg-type]
        sign = -1 if direction == "lower" else 1
        means = [sign * mean(cell) for cell in cells]
        best = means.index(max(means))
        self.assertEqual(found.best, best)
        sd, df = noise(cells)
        t = factor(len(cells) - 1, df)
        lows = [
            one - means[best] - t * sd * math.sqrt(1 / len(cell) + 1 / len(cells[best]))
            for one, cell in zip(means, cells, strict=True)
        ]
        wanted = next(at for at, low in enumerate(lows) if at == best or low > -math.log(1.03))
        self.assertEqual(found.enough, wanted)

    def test_a_level_of_one_pass_has_an_interval_by_the_noise_of_all(self) -> None:
        found = sweep([Level(1, [100.0, 101.0, 99.0]), Level(2, [120.0])])
        sd, df = noise([[100.0, 101.0, 99.0], [120.0]])
        half = float(stats.t.ppf(0.975, df)) * sd
        self.assertAlmostEqual(found.levels[1].low or 0, 120 * math.exp(-half), places=9)

    def test_gains_for_each_unit_and_each_price(self) -> None:
        found = sweep([Level(4, [100.0, 100.0], 10.0), Level(8, [110.0, 110.0], 30.0), Level(16, [121.0, 121.0], 30.0)])
        first, second = found.levels[1].gain, found.levels[2].gain
        assert first is not None
        assert second is not None
        self.assertAlmostEqual(first.per_unit_pct or 0, 10 / 4, places=9)
        self.assertAlmostEqual(first.per_price_pct or 0, 10 / 20, places=9)
        # The later one is no dearer, so there is nothing to pay for.
        self.assertIsNone(second.per_price_pct)

    def test_words_keep_their_order_and_have_no_knee(self) -> None:
        found = sweep(
            [Level(word, [value]) for word, value in (("low", 3.0), ("high", 1.0), ("mid", 2.0), ("top", 1.0))]
        )
        self.assertEqual([one.level for one in found.levels], ["low", "high", "mid", "top"])
        self.assertIsNone(found.knee)
        self.assertEqual((found.best, found.enough), ("low", "low"))

    def test_what_is_no_sweep_is_refused(self) -> None:
        for levels in ([Level(1, [1.0])], [Level(1, [1.0]), Level(1, [2.0])], [Level(1, [1.0]), Level("a", [2.0])]):
            with self.subTest(levels=levels), self.assertRaises(BadSample):
                sweep(levels)


class Overalls(Bands):
    @SETTINGS
    @given(st.lists(st.tuples(CELL, CELL, CELL, st.floats(0.5, 3)), min_size=1, max_size=4))
    def test_it_is_the_weighted_mean_of_log_ratios_with_satterthwaites_degrees(
        self, tests: list[tuple[list[float], list[float], list[float], float]]
    ) -> None:
        given_tests = {f"t{at}": TestCells({"A": a, "B": b, "C": c}, weight=w) for at, (a, b, c, w) in enumerate(tests)}
        one = overall(given_tests, "A").configurations["B"]
        assert one is not None
        weights = [w for *_, w in tests]
        d = sum(w * (mean(b) - mean(a)) for a, b, _, w in tests) / sum(weights)
        parts = []
        for a, b, c, w in tests:
            sd, df = noise([a, b, c])
            parts.append((w**2 * sd**2 * (1 / len(a) + 1 / len(b)), df))
        total = sum(part for part, _ in parts)
        if total == 0:
            return
        df = total**2 / sum(part**2 / own for part, own in parts)
        self.assertAlmostEqual((one.df or 0) / df, 1, places=6)
        self.band(one.compared, d, factor(2, df) * math.sqrt(total) / sum(weights))

    def test_a_test_that_one_lacks_or_that_is_left_out_takes_part_for_nobody(self) -> None:
        tests = {
            "all": TestCells({"A": [1.0, 1.1], "B": [2.0, 2.1], "C": [1.0, 1.0]}),
            "hole": TestCells({"A": [1.0], "B": [9.0]}),
            "held": TestCells({"A": [1.0], "B": [9.0], "C": [1.0]}, left_out="held rate"),
        }
        found = overall(tests, "A")
        self.assertEqual(found.left_out, {"hole": "missing", "held": "held rate"})
        self.assertEqual({one and one.tests for one in found.configurations.values()}, {1})
        none = overall({"hole": TestCells({"A": [1.0]}), "other": TestCells({"B": [1.0]})}, "A")
        self.assertEqual(none.configurations, {"B": None})

    def test_one_test_without_noise_leaves_the_whole_without_an_interval(self) -> None:
        tests = {"x": TestCells({"A": [1.0, 1.1], "B": [2.0, 2.1]}), "y": TestCells({"A": [1.0], "B": [2.0]})}
        one = overall(tests, "A").configurations["B"]
        assert one is not None
        self.assertEqual((one.compared.low, one.compared.verdict, one.df), (None, "noise unknown", None))

    def test_a_weight_is_above_none_and_there_is_something_to_compare(self) -> None:
        with self.assertRaises(BadSample):
            overall({"x": TestCells({"A": [1.0], "B": [1.0]}, weight=0.0)}, "A")
        with self.assertRaises(BadSample):
            overall({"x": TestCells({"A": [1.0]})}, "A")


class Scalings(unittest.TestCase):
    def test_the_laws_are_found_again(self) -> None:
        sizes = (1, 2, 4, 8, 16, 32)
        for sigma, kappa in ((0.05, 0.001), (0.2, 0.0), (0.0, 0.002), (0.0, 0.0), (0.3, 0.01)):
            with self.subTest(sigma=sigma, kappa=kappa):
                points = {n: [n / (1 + sigma * (n - 1) + kappa * n * (n - 1))] for n in sizes}
                law = scaling(points).universal
                assert law is not None
                self.assertAlmostEqual(law.sigma, sigma, places=6)
                self.assertAlmostEqual(law.kappa, kappa, places=6)
                peak = math.sqrt((1 - sigma) / kappa) if kappa else None
                self.assertEqual(law.peak is None, peak is None)
                self.assertEqual(law.extrapolated, peak is not None and peak > 32)

    def test_times_scale_as_their_reciprocals(self) -> None:
        found = scaling({n: [0.1 + 0.9 / n] for n in (1, 2, 4)}, "lower")
        assert found.amdahl is not None
        self.assertAlmostEqual(found.amdahl.p, 0.9, places=6)
        self.assertAlmostEqual(found.efficiency[-1], 1 / (0.1 + 0.9 / 4) / 4, places=12)

    def test_the_fit_is_no_worse_than_any_on_a_net(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(10):
            speed = {n: [n**0.8 * float(rng.lognormal(0, 0.05))] for n in (1, 2, 3, 4, 6, 8)}
            found = scaling(speed)
            n, s = np.array(found.n), np.array(found.speedup)
            assert found.universal is not None
            for sigma, kappa in itertools.product(np.linspace(0, 0.5, 51), np.linspace(0, 0.05, 51)):
                rss = float(((s - n / (1 + sigma * (n - 1) + kappa * n * (n - 1))) ** 2).sum())
                self.assertLessEqual(found.universal.rss, rss + 1e-12)

    def test_too_few_sizes_have_no_fit_and_without_one_there_is_nothing(self) -> None:
        found = scaling({1: [1.0], 2: [1.9]})
        self.assertEqual((found.amdahl, found.universal), (None, None))
        for points in ({2: [1.0]}, {1: [1.0], -2: [1.0]}):
            with self.subTest(points=points), self.assertRaises(BadSample):
                scaling(points)


class Crossings(unittest.TestCase):
    def test_a_straight_line_on_log_size_is_met_where_it_crosses(self) -> None:
        sizes = {2.0**at: ([100.0], [100 * math.exp(0.1 * (at - 3.4))]) for at in range(8)}
        (one,) = crossover(sizes).crossings
        self.assertAlmostEqual(math.log2(one.size), 3.4, places=9)
        self.assertEqual((one.ahead_above, one.low), ("b", None))
        (back,) = crossover(sizes, "lower").crossings
        self.assertEqual(back.ahead_above, "a")

    def test_exactly_level_sizes_between_are_its_middle_and_touching_is_none(self) -> None:
        def at(*values: float) -> list[float]:
            pairs = {float(2**n): ([100.0], [100 * math.exp(d)]) for n, d in enumerate(values)}
            return [round(math.log2(one.size), 9) for one in crossover(pairs).crossings]

        self.assertEqual(at(-0.1, 0.0, 0.1), [1.0])
        self.assertEqual(at(-0.1, 0.0, 0.0, 0.1), [1.5])
        self.assertEqual(at(0.1, 0.0, 0.1), [])
        self.assertEqual(len(at(-0.1, 0.1, -0.1)), 2)

    def test_its_interval_holds_the_truth_as_often_as_it_says(self) -> None:
        rng = np.random.default_rng(11)
        held = 0
        for _ in range(600):
            sizes = {
                2.0**at: (
                    list(100 * np.exp(rng.normal(0, 0.01, 3))),
                    list(100 * np.exp(0.05 * (at - 2.5) + rng.normal(0, 0.01, 3))),
                )
                for at in range(6)
            }
            crossings = crossover(sizes).crossings
            held += any(one.low is not None and one.low <= 2**2.5 <= (one.high or 0) for one in crossings)
        self.assertGreater(held / 600, 0.93)


class Economies(unittest.TestCase):
    def test_gaps_are_not_bridged_and_little_is_not_recorded(self) -> None:
        t = np.arange(0, 100.0)
        watts = np.full(100, 20.0)
        whole = energy(t, watts, 0, 99)
        self.assertEqual(whole, Energy(1980.0, 20.0, 1.0))
        hole = (t < 40) | (t > 60)
        self.assertIsInstance(energy(t[hole], watts[hole], 0, 99), float)
        self.assertEqual(energy(np.empty(0), np.empty(0), 0, 10), 0.0)

    def test_who_is_beaten_at_its_price_or_below(self) -> None:
        found = frontier(
            {
                "cheap": (50.0, [40.0, 40.1, 39.9]),
                "good": (90.0, [60.0, 60.1, 59.9]),
                "twin": (90.0, [60.05, 60.0, 59.95]),
                "dear": (120.0, [55.0, 55.1, 54.9]),
                "lent": (None, [99.0, 99.1, 98.9]),
            }
        )
        self.assertEqual(found.frontier, ["cheap", "good", "twin"])
        self.assertEqual(found.beaten_by, {"dear": ["good", "twin"]})
        self.assertEqual(found.without_price, ["lent"])

    def test_without_noise_nobody_is_taken_off(self) -> None:
        found = frontier({"a": (1.0, [10.0]), "b": (2.0, [5.0])})
        self.assertEqual((found.frontier, found.beaten_by), (["a", "b"], {}))


class EnergyOfPasses(unittest.TestCase):
    def test_ranges_set_aside_take_their_energy_along(self) -> None:
        t = np.arange(0.0, 101.0)
        w = np.where(t < 50, 10.0, 30.0)
        whole = energy_of_windows(t, w, [Span(0.0, 100.0)])
        part = energy_of_windows(t, w, [Span(0.0, 40.0), Span(60.0, 100.0)])
        assert whole is not None
        assert part is not None
        self.assertAlmostEqual(part.energy_j, 40 * 10 + 40 * 30)
        self.assertAlmostEqual(part.mean_w, 20.0)
        self.assertAlmostEqual(whole.energy_j, 49 * 10 + 20 + 50 * 30)

    def test_readings_that_failed_are_passed_over_and_too_few_are_none(self) -> None:
        t, w = np.arange(0.0, 11.0), np.full(11, 5.0)
        w[5] = np.nan
        found = energy_of_windows(t, w, [Span(0.0, 10.0)])
        assert found is not None
        self.assertAlmostEqual(found.mean_w, 5.0)
        self.assertIsNone(energy_of_windows(t[:3], w[:3], [Span(0.0, 100.0)]))
        self.assertIsNone(energy_of_windows(t, np.full(11, np.nan), [Span(0.0, 10.0)]))
        self.assertIsNone(energy_of_windows(t, w, []))

    def test_work_per_watt_of_a_rate_is_work_per_joule_and_of_a_time_its_share_per_joule(self) -> None:
        # 60 pictures a second at 30 W for 10 s: 600 pictures with 300 J. One job in 20 s at 50 W: 1000 J.
        self.assertAlmostEqual(work_per_watt(60.0, 30.0) or 0, 600 / 300)
        self.assertAlmostEqual(work_per_watt(20.0, 50.0, is_time=True) or 0, 1 / 1000)
        for value, watts in ((60.0, 0.0), (60.0, -2.0), (0.0, 5.0)):
            self.assertIsNone(work_per_watt(value, watts))


class FrontiersBy(unittest.TestCase):
    def test_only_what_costs_no_more_and_is_ahead_takes_another_off(self) -> None:
        prices = {"dear": 300.0, "cheap": 100.0, "middle": 200.0, "unpriced": None}
        ahead = {("cheap", "middle"), ("dear", "cheap"), ("unpriced", "dear")}
        found = frontier_by(prices, lambda j, i: (j, i) in ahead)
        self.assertEqual(found.frontier, ["cheap", "dear"])
        self.assertEqual(found.beaten_by, {"middle": ["cheap"]})
        self.assertEqual(found.without_price, ["unpriced"])

    def test_at_one_price_each_can_take_the_other_off(self) -> None:
        found = frontier_by({"a": 5.0, "b": 5.0}, lambda j, i: (j, i) == ("b", "a"))
        self.assertEqual((found.frontier, found.beaten_by), (["b"], {"a": ["b"]}))


class Forecasts(unittest.TestCase):
    def test_what_comes_before_the_first_frame_comes_once(self) -> None:
        found = forecast(110, 10, 100, before_s=10)
        self.assertEqual((found.per_frame_s, found.forecast_s), (10, 1010))

    def test_no_part_of_a_job_is_refused(self) -> None:
        for seconds, done, whole, before in ((10, 0, 5, 0), (10, 6, 5, 0), (10, 1, 5, 10), (0, 1, 5, 0)):
            with self.subTest(done=done), self.assertRaises(BadSample):
                forecast(seconds, done, whole, before)


class Rounds(unittest.TestCase):
    def cells(self, rng: np.random.Generator, rounds: int, drift: float) -> dict[str, list[Placed]]:
        names = ("a", "b", "c", "d")
        return {
            name: [Placed(float(drift * (4 * at + place) + rng.normal(0, 0.01)), at) for at in range(rounds)]
            for place, name in enumerate(names)
        }

    def test_the_fit_is_that_of_two_way_means_where_every_round_is_whole(self) -> None:
        cells = self.cells(np.random.default_rng(3), 5, 0.003)
        fit = by_rounds(cells)
        assert fit is not None
        table = np.array([[one.value for one in passes] for passes in cells.values()])
        rest = table - table.mean(1, keepdims=True) - table.mean(0, keepdims=True) + table.mean()
        self.assertEqual(fit.noise.df, 12)
        self.assertAlmostEqual(fit.noise.sd, math.sqrt(float((rest**2).sum()) / 12), places=12)
        d, se = fit.difference("b", "a")
        self.assertAlmostEqual(d, table[1].mean() - table[0].mean(), places=12)
        self.assertAlmostEqual(se, fit.noise.sd * math.sqrt(2 / 5), places=12)

    def test_a_steady_drift_is_no_noise(self) -> None:
        cells = self.cells(np.random.default_rng(5), 6, 0.05)
        fit = by_rounds(cells)
        assert fit is not None
        self.assertLess(fit.noise.sd, 0.02)

    def test_they_apply_only_where_they_can(self) -> None:
        whole = self.cells(np.random.default_rng(1), 5, 0.0)
        nameless = {**whole, "a": [Placed(0.0), *whole["a"][1:]]}
        short = {name: passes[:3] for name, passes in whole.items()}
        apart = {
            "a": [Placed(0.1 * at, at) for at in range(4)],
            "b": [Placed(0.1 * at, at) for at in range(4)],
            "c": [Placed(0.1 * at, at + 10) for at in range(4)],
            "d": [Placed(0.1 * at, at + 10) for at in range(4)],
        }
        for name, cells in (("no round", nameless), ("three rounds", short), ("two islands", apart)):
            with self.subTest(name=name):
                self.assertIsNone(by_rounds(cells))
        self.assertIsNone(by_rounds({"a": whole["a"]}))


class Sessions(unittest.TestCase):
    def test_what_is_pooled_are_the_means_of_sessions(self) -> None:
        cells = {
            "a": [Placed(1.0, session="m"), Placed(3.0, session="m"), Placed(4.0, session="n")],
            "b": [Placed(5.0, session="m"), Placed(6.0, session="n"), Placed(8.0, session="o")],
        }
        found = by_sessions(cells)
        assert found is not None
        self.assertEqual(found.cells, {"a": [2.0, 4.0], "b": [5.0, 6.0, 8.0]})
        squares = statistics.variance([2.0, 4.0]) + 2 * statistics.variance([5.0, 6.0, 8.0])
        self.assertEqual((found.noise.df, round(found.noise.sd, 12)), (3, round(math.sqrt(squares / 3), 12)))
        self.assertTrue(found.compares("a", "b"))

    def test_few_sessions_or_a_pass_without_one_are_not_enough(self) -> None:
        one = [Placed(1.0, session="m"), Placed(2.0, session="n")]
        self.assertIsNone(by_sessions({"a": one, "b": one}))
        self.assertIsNone(by_sessions({"a": one * 3, "b": [Placed(1.0)]}))

    def test_a_cell_of_one_session_is_not_compared_by_sessions(self) -> None:
        three = [Placed(float(at), session=at) for at in range(4)]
        found = by_sessions({"a": three, "b": [Placed(1.0, session="m")]})
        assert found is not None
        self.assertFalse(found.compares("a", "b"))
