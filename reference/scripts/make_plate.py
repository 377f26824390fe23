"""Projects invented stars through astropy.wcs: reference/plate.csv.

Each row: the field (ra, dec, position angle of up, scale, mirrored, columns, rows), then a star's pixel
(from the middle of the upper left one, rows downwards), its right ascension, declination and magnitude.
"""

import csv
import sys
from pathlib import Path

import astropy
import numpy as np
from astropy.wcs import WCS

FIELDS = [
    (94.25, 22.57, 20.0, 1.25, 0, 3000, 2000),
    (10.68, 41.27, 271.5, 1.5, 1, 3000, 2000),
    (314.7, 44.3, 180.2, 4.2, 0, 3000, 2000),
    (37.0, 88.5, 45.0, 2.0, 0, 3000, 2000),
    (161.3, -59.7, 359.9, 3.0, 1, 3000, 2000),
]


def field(ra, dec, angle, scale, mirrored, columns, rows):
    """World coordinates of an image whose rows go down, whose upward side has a position angle."""
    w = WCS(naxis=2)
    w.wcs.ctype = ["RA---TAN", "DEC--TAN"]
    w.wcs.crval = [ra, dec]
    w.wcs.crpix = [(columns + 1) / 2, (rows + 1) / 2]
    pa = np.radians(angle)
    step = scale / 3600
    # Up is north turned by the angle towards east; right is a quarter turn clockwise from it on the sky.
    up = np.array([np.sin(pa), np.cos(pa)])
    right = np.array([-np.cos(pa), np.sin(pa)]) * (-1 if mirrored else 1)
    w.wcs.cd = np.column_stack([right, -up]) * step
    w.wcs.set()
    return w


def main():
    rng = np.random.default_rng(443)
    out = Path(__file__).resolve().parents[1] / "plate.csv"
    with out.open("w", newline="") as f:
        f.write(f"# made by reference/scripts/make_plate.py with astropy {astropy.__version__}, astropy.wcs, TAN\n")
        write = csv.writer(f, lineterminator="\n")
        names = "ra_deg dec_deg angle_deg scale_arcsec mirrored columns rows x_px y_px star_ra_deg star_dec_deg v_mag"
        write.writerow(names.split())
        for spec in FIELDS:
            w = field(*spec)
            columns, rows = spec[5:]
            places = rng.uniform([20, 20], [columns - 20, rows - 20], size=(24, 2))
            sky = w.all_pix2world(places, 0)
            for (x, y), (ra, dec), v in zip(places, sky, np.sort(rng.uniform(5, 10, 24))):
                write.writerow([*spec, f"{x:.4f}", f"{y:.4f}", f"{ra:.7f}", f"{dec:.7f}", f"{v:.2f}"])


if __name__ == "__main__":
    sys.exit(main())
