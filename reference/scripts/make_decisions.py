"""Writes the tables that check the decisions: sub_plateau.csv, fair_split.csv, poisson_quantiles.csv, nights_needed.csv,
ranges.csv. All by scipy's general optimisers and distributions on seeded random cases. Run by `cargo xtask reference`.
"""
import csv
import pathlib

import numpy as np
from scipy import optimize, stats

HERE = pathlib.Path(__file__).resolve().parents[1]
rng = np.random.default_rng(443)


def write(name, header, rows):
    with open(HERE / name, "w", newline="") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(header)
        out.writerows(rows)


def information(t, rate, read, overhead, loss):
    return t * t * np.exp(-loss / 3600 * t) / ((rate * t + read**2) * (t + overhead))


def sub_plateau():
    """The most informative sub within a limit, and where 95 % of it is reached on either side."""
    rows = []
    for _ in range(80):
        rate, read = 10 ** rng.uniform(-3, 1.5), rng.uniform(0.7, 12)
        overhead, loss, longest = rng.uniform(0.5, 60), 10 ** rng.uniform(-1.3, 1.3), rng.choice([60.0, 300.0, 600.0, 3600.0])
        cost = lambda x: -np.log(information(np.exp(x), rate, read, overhead, loss))
        found = optimize.minimize_scalar(cost, bounds=(np.log(0.01), np.log(longest)), method="bounded", options={"xatol": 1e-12})
        best = float(np.exp(found.x))
        best = longest if information(longest, rate, read, overhead, loss) >= information(best, rate, read, overhead, loss) else best
        enough = 0.95 * information(best, rate, read, overhead, loss)
        short = lambda t: information(t, rate, read, overhead, loss) - enough
        low = optimize.brentq(short, 1e-3, best) if short(1e-3) < 0 else 1e-3
        high = optimize.brentq(short, best, longest) if best < longest and short(longest) < 0 else longest
        rows.append([f"{x:.12g}" for x in (rate, read, overhead, loss, longest, best, low, high)])
    header = ["rate_e_per_s", "read_noise_e", "overhead_s", "loss_per_hour", "longest_s", "best_s", "from_s", "to_s"]
    write("sub_plateau.csv", header, rows)


def fair_split():
    """Shares of a budget among exposures that make the least-served goal as well served as can be: a linear programme."""
    rows = []
    for _ in range(60):
        n, k = rng.integers(1, 5), rng.integers(1, 6)
        gains = 10 ** rng.uniform(-2, 2, (n, k)) * (rng.random((n, k)) < 0.7)
        gains[rng.integers(n)] += 1e-3
        # Largest z with sum_i x_i gains[i][k] >= z for every k, sum x = 1, x >= 0.
        result = optimize.linprog(
            c=[0] * n + [-1],
            A_ub=np.hstack([-gains.T, np.ones((k, 1))]),
            b_ub=np.zeros(k),
            A_eq=[[1] * n + [0]],
            b_eq=[1],
            bounds=[(0, None)] * n + [(None, None)],
            method="highs",
        )
        rows.append([n, k, ";".join(f"{g:.9g}" for g in gains.flatten()), f"{-result.fun:.12g}"])
    write("fair_split.csv", ["exposures", "goals", "gains_row_by_row", "least"], rows)


def poisson_quantiles():
    """The Poisson count at the quantile of a normal deviate."""
    rows = []
    for mean in (0.01, 0.1, 0.5, 1.0, 2.0, 4.0, 7.0, 9.9):
        for z in (-2.6, -1.5, -0.7, -0.2, 0.1, 0.6, 1.2, 2.1, 3.0):
            rows.append([mean, z, int(stats.poisson.ppf(stats.norm.cdf(z), mean))])
    write("poisson_quantiles.csv", ["mean", "deviate", "count"], rows)


def nights_needed():
    """Nights until a number of clear ones, each clear by chance: the negative binomial's median, 90 % and standard deviation."""
    rows = []
    for share in (0.1, 0.25, 0.5, 0.8):
        for clear in (1, 2, 5, 9):
            spread = stats.nbinom(clear, share)
            rows.append([share, clear, int(spread.ppf(0.5)) + clear, int(spread.ppf(0.9)) + clear, f"{spread.std():.6g}"])
    write("nights_needed.csv", ["clear_share", "clear_nights", "median_nights", "ninety_nights", "deviation_nights"], rows)


def ranges():
    """Tenth, half and nine tenths of what is drawn: a log-normal target, and a sky normal in magnitudes."""
    rows = []
    for relative in (0.05, 0.2, 0.5, 1.0):
        factor = stats.lognorm(np.sqrt(np.log(1 + relative**2)))
        rows.append(["target", relative, *(f"{factor.ppf(p):.9g}" for p in (0.1, 0.5, 0.9))])
    for mag in (0.05, 0.15, 0.4):
        rows.append(["sky", mag, *(f"{10 ** (0.4 * stats.norm(0, mag).ppf(p)):.9g}" for p in (0.1, 0.5, 0.9))])
    write("ranges.csv", ["what", "uncertainty", "tenth", "half", "nine_tenths"], rows)


sub_plateau()
fair_split()
poisson_quantiles()
nights_needed()
ranges()
