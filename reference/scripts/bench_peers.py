"""The sums of an evaluation written plainly in NumPy, timed beside the core's own benchmark of the same run.

Eight contenders of three exposures: every filter averaged over its cone on a 0.1 nm grid, four parts of the sky and a
continuum integrated through it and the sensor. Run by `cargo xtask bench --peers`, after the core's benchmark.
"""
import json
import pathlib
import time

import numpy as np

ROOT = pathlib.Path(__file__).resolve().parents[2]
GRID = np.arange(300.0, 1100.05, 0.1)
SKY = [np.exp(-((GRID - c) / 120.0) ** 2) for c in (500.0, 590.0, 480.0, 450.0)]
CONTINUUM = GRID**-1.0
QE = np.interp(GRID, [400, 500, 656, 900], [0.7, 0.9, 0.7, 0.2])
RINGS = 28


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


def main():
    evaluation()
    times = []
    for _ in range(9):
        start = time.perf_counter()
        evaluation()
        times.append(time.perf_counter() - start)
    numpy_ms = sorted(times)[len(times) // 2] * 1000
    estimates = ROOT / "target/criterion/evaluate 8 contenders of 3 exposures/new/estimates.json"
    core_ms = json.loads(estimates.read_text())["median"]["point_estimate"] / 1e6
    print(f"NumPy {numpy_ms:.1f} ms, core {core_ms:.2f} ms: the core is {numpy_ms / core_ms:.0f} times faster")


if __name__ == "__main__":
    main()
