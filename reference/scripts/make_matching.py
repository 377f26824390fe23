"""Lays star lists upon each other with astroalign: reference/matching.csv.

Each field: a reference list, the same stars turned, scaled and shifted with some lost and some found, and what
astroalign finds (turn, scale, shift of the frame upon the reference). Its order of stars is the brightest first.
"""

import csv
import sys
from importlib.metadata import version
from pathlib import Path

import astroalign
import numpy as np

CASES = [(0.4, 1.0), (179.7, 1.0), (-35.0, 1.0), (90.0, 0.985), (12.0, 1.02)]


def main():
    rng = np.random.default_rng(2403)
    out = Path(__file__).resolve().parents[1] / "matching.csv"
    with out.open("w", newline="") as f:
        f.write(f"# made by reference/scripts/make_matching.py with astroalign {version('astroalign')}\n")
        write = csv.writer(f, lineterminator="\n")
        write.writerow("case list x_px y_px turned_deg scale shift_x_px shift_y_px".split())
        for case, (turn, scale) in enumerate(CASES):
            stars = rng.uniform([0, 0], [3000, 2000], size=(60, 2))
            a = np.radians(turn)
            rotation = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
            seen = scale * stars @ rotation.T + [31.0, -17.0] + rng.normal(0, 0.1, stars.shape)
            seen = np.delete(seen, range(3, 60, 6), axis=0)
            seen = np.insert(seen, range(2, 40, 7), rng.uniform([0, 0], [3000, 2000], size=(6, 2)), axis=0)
            seen = np.round(seen, 3)
            stars = np.round(stars, 3)
            found, _ = astroalign.find_transform(seen, stars, max_control_points=50)
            told = [f"{np.degrees(found.rotation):.6f}", f"{found.scale:.8f}"]
            told += [f"{v:.4f}" for v in found.translation]
            for name, points in (("frame", seen), ("reference", stars)):
                for x, y in points:
                    write.writerow([case, name, f"{x:.3f}", f"{y:.3f}", *told])


if __name__ == "__main__":
    sys.exit(main())
