"""Measuring a 26 MP frame: `salt-lamp measure` against `sep` and `photutils` doing the same, each on one thread, in one run.

Level and scatter on tiles of 64 px, stars at five standard deviations, their light in a circle and their half-flux radius. Each is timed
from the file on the disk to its numbers; the fastest of three is told. Run by `cargo xtask bench --peers`.
"""
import json
import pathlib
import subprocess
import sys
import time

import numpy as np
import sep
from astropy.io import fits
from photutils.background import Background2D, MedianBackground
from photutils.detection import DAOStarFinder

ROOT = pathlib.Path(__file__).resolve().parents[2]
FILE = ROOT / "target" / "bench-frame.fits"
SHAPE = (4176, 6248)


def frame():
    """A sky of 312 ADU over an offset of 500, sloping, with 4000 stars, as 16-bit numbers."""
    rng = np.random.default_rng(26)
    y, x = np.mgrid[0 : SHAPE[0], 0 : SHAPE[1]]
    light = 312 + 0.004 * x + 0.003 * y
    for _ in range(4000):
        cx, cy = rng.uniform(30, SHAPE[1] - 30), rng.uniform(30, SHAPE[0] - 30)
        x0, y0 = int(cx) - 20, int(cy) - 20
        r2 = (np.arange(x0, x0 + 41)[None] - cx) ** 2 + (np.arange(y0, y0 + 41)[:, None] - cy) ** 2
        flux = 600 * 10 ** (3 * rng.random() ** 2)
        light[y0 : y0 + 41, x0 : x0 + 41] += flux * 2 / (np.pi * 3.04**2) * (1 + r2 / 3.04**2) ** -3
    adu = 500 + light + rng.normal(0, 1, SHAPE) * np.sqrt(light * 4 + 36)
    fits.PrimaryHDU(np.clip(np.rint(adu), 0, 65535).astype(np.uint16)).writeto(FILE, overwrite=True)


def by_sep():
    data = fits.getdata(FILE).astype(np.float32)
    back = sep.Background(data, bw=64, bh=64)
    flat = data - back.back()
    kernel = np.exp(-0.5 * (np.mgrid[-4:5, -4:5] ** 2).sum(0) / 1.3**2)
    found = sep.extract(flat, 2.0, err=back.globalrms, filter_kernel=kernel, minarea=4)
    flux, _, _ = sep.sum_circle(flat, found["x"], found["y"], 8.0)
    sep.flux_radius(flat, found["x"], found["y"], np.full(len(flux), 8.0), 0.5, normflux=flux, subpix=5)
    return len(flux)


def by_photutils():
    data = fits.getdata(FILE).astype(np.float32)
    back = Background2D(data, 64, filter_size=3, bkg_estimator=MedianBackground())
    flat = data - back.background
    found = DAOStarFinder(threshold=5 * back.background_rms_median, fwhm=3.0)(flat)
    return len(found)


def by_us():
    program = ROOT / "target" / "release" / "salt-lamp"
    out = subprocess.run([program, "measure", "--json", "--threads", "1", FILE], check=True, capture_output=True)
    return json.loads(out.stdout)["channels"][0]["stars"]


def memory_mb():
    """Memory at its most. A child counts what its parent held as it was made: one that holds hardly anything asks."""
    program = ROOT / "target" / "release" / "salt-lamp"
    asking = (
        "import resource, subprocess, sys; subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL);"
        "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
    )
    command = [sys.executable, "-c", asking, program, "measure", "--json", "--threads", "1", FILE]
    return int(subprocess.run(command, check=True, capture_output=True, text=True).stdout) / 1000


def fastest(work, times=3):
    best = np.inf
    for _ in range(times):
        start = time.perf_counter()
        count = work()
        best = min(best, time.perf_counter() - start)
    return best, count


def main():
    frame()
    own, stars = fastest(by_us)
    memory = memory_mb()
    print(f"26 MP measured, one thread, from the file: {1000 * own:.0f} ms, {stars} stars, memory at its most {memory:.0f} MB")
    wrong = []
    for name, work, least, times in [("sep", by_sep, 3.0, 3), ("photutils", by_photutils, 10.0, 1)]:
        took, count = fastest(work, times)
        print(f"{name}: {took / own:.1f} times as long ({count} stars); at least {least:.0f} is asked for")
        if took / own < least:
            wrong.append(name)
    FILE.unlink()
    if wrong or memory > 300:
        sys.exit(f"slower than asked for against {', '.join(wrong) or 'nothing'}; memory {memory:.0f} MB of 300")


if __name__ == "__main__":
    main()
