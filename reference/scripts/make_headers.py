"""Writes reference/headers.csv: plate solutions in three dialects, and where the middle of their pictures looks by astropy.wcs.

astropy 6 or later: `WCS(header).pixel_to_world` at the middle of the picture, and the position angle from there to a point 100 pixels
above it, as the picture is stored. A row: the cards, apart by "; ", right ascension and declination of the middle and the angle, degrees.

    python make_headers.py
"""
import csv
import pathlib
import warnings

import numpy as np
from astropy.io import fits
from astropy.wcs import WCS

OUT = pathlib.Path(__file__).resolve().parents[1] / "headers.csv"


def cards(rng, dialect, mirrored):
    columns, rows = rng.choice([(6248, 4176), (3008, 3008), (1920, 1080)])
    angle, scale = np.radians(rng.uniform(-180, 180)), rng.uniform(0.3, 4) / 3600
    x = scale if mirrored else -scale
    sin, cos = np.sin(angle), np.cos(angle)
    out = {
        "NAXIS": 2, "NAXIS1": int(columns), "NAXIS2": int(rows), "CTYPE1": "RA---TAN", "CTYPE2": "DEC--TAN",
        "CRVAL1": round(rng.uniform(0, 360), 6), "CRVAL2": round(rng.uniform(-75, 85), 6),
        "CRPIX1": round(rng.uniform(0, columns), 2), "CRPIX2": round(rng.uniform(0, rows), 2),
    }
    if dialect == "cd":
        out |= {"CD1_1": x * cos, "CD1_2": -scale * sin, "CD2_1": x * sin, "CD2_2": scale * cos}
    else:
        out |= {"CDELT1": x, "CDELT2": scale}
        # PC holds the matrix without its scale.
        out |= {"CROTA2": float(np.degrees(angle))} if dialect == "crota" else {"PC1_1": cos, "PC1_2": -sin * scale / x, "PC2_1": sin * x / scale, "PC2_2": cos}
    return out


def main():
    rng = np.random.default_rng(14)
    with open(OUT, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(["cards", "ra_deg", "dec_deg", "position_angle_deg"])
        for k in range(24):
            keys = cards(rng, ["cd", "pc", "crota"][k % 3], k % 8 == 5)
            header = fits.Header(list(keys.items()))
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                wcs = WCS(header)
            x, y = (keys["NAXIS1"] - 1) / 2, (keys["NAXIS2"] - 1) / 2
            middle, above = wcs.pixel_to_world(x, y), wcs.pixel_to_world(x, y + 100)
            angle = middle.position_angle(above).deg
            text = "; ".join(f"{k} = '{v}'" if isinstance(v, str) else f"{k} = {v!r}" for k, v in {k: v.item() if hasattr(v, "item") else v for k, v in keys.items()}.items())
            out.writerow([text, f"{middle.ra.deg:.6f}", f"{middle.dec.deg:.6f}", f"{(angle + 180) % 360 - 180:.4f}"])


if __name__ == "__main__":
    main()
