"""Fits, pairs and power of comparisons by statsmodels, for the trials' statistics.

Frames are invented: two kinds in blocks A B B A, with airmass, clearness and the hour beside them.
"""

import csv
import math
import pathlib

import numpy as np
import statsmodels.api as sm
from scipy import stats
from statsmodels.stats.outliers_influence import OLSInfluence
from statsmodels.stats.power import TTestPower

HERE = pathlib.Path(__file__).resolve().parent.parent
rng = np.random.default_rng(20261202)


def write(name, header, rows):
    with open(HERE / name, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(header)
        out.writerows(rows)


def power():
    """Paired t: the scatter of a difference is that of one frame times the root of two."""
    test = TTestPower()
    rows = []
    for scatter in (0.01, 0.03, 0.06, 0.12):
        for difference in (0.02, 0.05, 0.15):
            size = math.log1p(difference) / (scatter * math.sqrt(2.0))
            for pairs in (2, 3, 4, 6, 8, 9, 12, 20, 40):
                p = test.power(size, pairs, 0.05, alternative="two-sided")
                # Far out the library's noncentral t is not a number.
                if math.isfinite(p):
                    rows.append([scatter, difference, pairs, repr(float(p))])
    write("trial_power.csv", ["scatter", "difference", "pairs", "power"], rows)


def frames(blocks, effect, unequal):
    kinds = [k for b in range(blocks) for k in ((0, 1, 1, 0) if b % 2 == 0 else (1, 0, 0, 1))]
    n = len(kinds)
    minutes = np.arange(n) * 6.0
    airmass = 1.05 + 0.0009 * (minutes - 60.0) ** 2 / 60.0
    clear = np.exp(np.cumsum(rng.normal(0.0, 0.01, n)))
    clear /= clear.max()
    noise = rng.normal(0.0, 0.03, n) * (1.0 + (minutes / minutes[-1] if unequal else 0.0) * 2.0)
    kinds = np.array(kinds)
    y = 1.0 + effect * kinds + 0.9 * np.log(clear) - 0.2 * (airmass - 1.0) + noise
    if unequal:
        y[5] -= 0.4
    return kinds, minutes, airmass, clear, y


def fits():
    frame_rows, fit_rows, pair_rows = [], [], []
    for name, blocks, effect, unequal in (("even", 6, 0.05, False), ("uneven", 9, 0.0, True)):
        kinds, minutes, airmass, clear, y = frames(blocks, effect, unequal)
        columns = {
            "one": np.ones(len(y)),
            "kind": kinds.astype(float),
            "clearness": np.log(clear),
            "airmass": airmass,
            "hours": minutes / 60.0,
        }
        x = np.column_stack(list(columns.values()))
        fit = sm.OLS(y, x).fit(cov_type="HC3")
        off = OLSInfluence(sm.OLS(y, x).fit()).resid_studentized_external
        for i in range(len(y)):
            values = [clear[i], airmass[i], minutes[i], y[i], off[i]]
            frame_rows.append([name, kinds[i]] + [repr(float(v)) for v in values])
        for j, column in enumerate(columns):
            fit_rows.append([name, column, repr(float(fit.params[j])), repr(float(fit.bse[j]))])
        pairs = [(y[i], y[i + 1], kinds[i]) for i in range(0, len(y), 2)]
        d = np.array([(b - a) if k == 0 else (a - b) for a, b, k in pairs])
        tested = stats.ttest_1samp(d, 0.0)
        low, high = tested.confidence_interval(0.95)
        pair_rows.append([name, len(d)] + [repr(float(v)) for v in (d.mean(), low, high)])
    header = ["night", "kind", "clearness", "airmass", "minutes", "ln_measure", "studentised"]
    write("trial_frames.csv", header, frame_rows)
    write("trial_fits.csv", ["night", "column", "coefficient", "hc3_error"], fit_rows)
    write("trial_pairs.csv", ["night", "pairs", "ln_mean", "ln_low", "ln_high"], pair_rows)


power()
fits()
