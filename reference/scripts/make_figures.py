"""Writes data/stars/figures.csv: the lines that people draw between the stars of a constellation.

From the npm package d3-celestial 0.7.35 (BSD-3-Clause), its files constellations.lines.json and constellations.json. One row a line:
the constellation's three letters, its name, and the line's corners as "right ascension declination", degrees of J2000, apart by "; ".

    D3_CELESTIAL=.../package python make_figures.py
"""
import csv
import json
import pathlib

import make_catalogue

OUT = pathlib.Path(__file__).resolve().parents[2] / "data" / "stars" / "figures.csv"


def main():
    package = make_catalogue.D3 or make_catalogue.celestial_package()
    data = pathlib.Path(package) / "data"
    names = {f["id"]: f["properties"]["name"] for f in json.load(open(data / "constellations.json"))["features"]}
    with open(OUT, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(["constellation", "name", "corners"])
        for feature in json.load(open(data / "constellations.lines.json"))["features"]:
            for line in feature["geometry"]["coordinates"]:
                corners = "; ".join(f"{ra % 360:.2f} {dec:.2f}" for ra, dec in line)
                out.writerow([feature["id"], names[feature["id"]], corners])


if __name__ == "__main__":
    main()
