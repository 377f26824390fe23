"""The sums of an evaluation written plainly in NumPy, timed beside the core's own benchmark of the same run.

Eight contenders of three exposures: every filter averaged over its cone on a 0.1 nm grid, four parts of the sky and a
continuum integrated through it and the sensor. Run by `cargo xtask bench --peers`, after the core's benchmark.
"""
import json
import pathlib
import time

import numpy as np
from astropy.coordinates import AltAz, EarthLocation, SkyCoord, get_sun
from astropy.time import Time
from astropy.utils import iers

iers.conf.auto_download = False
iers.conf.auto_max_age = None

ROOT = pathlib.Path(__file__).resolve().parents[2]
GRID = np.arange(300.0, 1100.05, 0.1)
SKY = [np.exp(-((GRID - c) / 120.0) ** 2) for c in (500.0, 590.0, 480.0, 450.0)]
CONTINUUM = GRID**-1.0
QE = np.interp(GRID, [400, 500, 656, 900], [0.7, 0.9, 0.7, 0.2])
RINGS = 28
# The core's own limit of darkness.
SUN_BELOW_DEG = -18.0


def exposure(centre, width, ratio, channels):
    total = 0.0
    r2 = (np.arange(RINGS) + 0.5) / RINGS
    theta = np.arctan(np.sqrt(r2) / (2 * ratio))
    transmission = np.zeros_like(GRID)
    for angle in theta:
        shifted = centre * np.sqrt(1 - (np.sin(angle) / 1.9) ** 2)
        transmission += 0.92 * 2.0 ** -(np.abs(2 * (GRID - shifted) / width) ** 6)
    transmission = np.maximum(transmission / RINGS, 1e-4)
    for _ in range(channels):
        for part in (*SKY, CONTINUUM):
            total += np.trapezoid(part * transmission * QE, GRID)
    return total


def evaluation():
    return sum(exposure(c, 3.0 + 0.5 * i, 5.5, 3 if i % 2 else 1) for i in range(8) for c in (656.3, 500.7, 672.4))


def positions():
    """The altitudes of every object of the catalogue at every ten minutes of a dark night, by astropy: the positions that the core's
    ranking works out. Returns the time in ms of the faster of two ways to ask for them, and the number of moments."""
    rows = [line.split(",") for line in (ROOT / "data/catalogue/objects.csv").read_text().splitlines()]
    ra, dec = rows[0].index("ra_deg"), rows[0].index("dec_deg")
    objects = SkyCoord([float(r[ra]) for r in rows[1:]], [float(r[dec]) for r in rows[1:]], unit="deg")
    place = EarthLocation.from_geodetic(-72.55, 46.35, 30)
    night = Time(1_799_600_400.0 + 600.0 * (np.arange(144) + 0.5), format="unix")
    dark = night[get_sun(night).transform_to(AltAz(obstime=night, location=place)).alt.deg < SUN_BELOW_DEG]
    start = time.perf_counter()
    for moment in dark:
        objects.transform_to(AltAz(obstime=moment, location=place)).alt.deg
    one_by_one = time.perf_counter() - start
    start = time.perf_counter()
    objects[:, np.newaxis].transform_to(AltAz(obstime=dark[np.newaxis], location=place)).alt.deg
    at_once = time.perf_counter() - start
    return min(one_by_one, at_once) * 1000, len(dark)


def median_ms(name):
    estimates = ROOT / f"target/criterion/{name}/new/estimates.json"
    return json.loads(estimates.read_text())["median"]["point_estimate"] / 1e6


def main():
    (astropy_ms, moments), night_ms = positions(), median_ms("rank the catalogue for a night")
    print(
        f"astropy {astropy_ms:.0f} ms for the altitudes alone at {moments} moments, "
        f"core {night_ms:.1f} ms for the whole ranking: {astropy_ms / night_ms:.0f} times"
    )
    evaluation()
    times = []
    for _ in range(9):
        start = time.perf_counter()
        evaluation()
        times.append(time.perf_counter() - start)
    numpy_ms = sorted(times)[len(times) // 2] * 1000
    core_ms = median_ms("evaluate 8 contenders of 3 exposures")
    print(f"NumPy {numpy_ms:.1f} ms, core {core_ms:.2f} ms: the core is {numpy_ms / core_ms:.0f} times faster")


if __name__ == "__main__":
    main()
