"""Writes data/catalogue/objects.csv from the OpenNGC data in the Python package PyOngc (CC-BY-SA 4.0).

Stars, duplicates, lost objects and novae are left out. Popular names that carry a person's name are left out too.
"""
import csv
import math
import pathlib
import re
import shutil
import sqlite3

import pyongc

OUT = pathlib.Path(__file__).resolve().parents[2] / "data" / "catalogue"
PACKAGE = pathlib.Path(pyongc.__file__).parent
KINDS = {"G": "galaxy", "GPair": "galaxy", "GTrpl": "galaxy", "GGroup": "galaxy", "HII": "h_ii_region", "EmN": "h_ii_region", "Neb": "reflection_nebula", "Cl+N": "h_ii_region", "RfN": "reflection_nebula", "SNR": "supernova_remnant", "PN": "planetary_nebula", "OCl": "cluster", "GCl": "cluster", "*Ass": "cluster", "DrkN": "dark_nebula"}
# The source calls 94 objects no more than "nebula". Most of them shine by reflected starlight, and an emission line that is
# not there is a night lost; so they count as reflecting, except those that are known to be ionised. From memory.
IONISED = {f"IC {n}" for n in (405, 410, 1284, 2177, 4628, 4678, 4685, 4701, 4703)} | {
    f"NGC {n}"
    for n in (261, 896, 1499, 1743, 1745, 1748, 1773, 1895, 1919, 1949, 2014, 2024, 2035, 2040, 2052, 2069, 2077, 2083, 2084, 2085, 2086, 2174, 2237, 2246, 3199, 3579, 6188, 6514, 6523, 6526, 6559, 6611, 6618)
}
# And some that the source calls ionised, or a cluster with nebula, are blue with reflected starlight. From memory.
REFLECTING = {"IC 348", "IC 446", "IC 447", "IC 448", "IC 4954"} | {f"NGC {n}" for n in (1333, 1432, 1435, 1579, 1973, 1975, 1977, 2071, 2183, 7023, 7129)}
POSSESSIVE_FINE = re.compile(r"^(Cat|Ghost|Witch|Bear|Lion|Fish|Bird|Dragon|Eagle|Angel|Devil|Monkey|Horse|Fox|Spider|Pirate|Queen|Soap)")


def spaced(name):
    m = re.match(r"^(NGC|IC)0*(\d+)\s*(.*)$", name)
    return f"{m[1]} {m[2]}{m[3] and ' ' + m[3]}" if m else re.sub(r"^([A-Za-z]+)0*(\d)", r"\1 \2", name)


def names(common):
    for n in filter(None, (c.strip() for c in (common or "").split(","))):
        if "'s" not in n or POSSESSIVE_FINE.match(n):
            yield n


def main():
    OUT.mkdir(exist_ok=True)
    db = sqlite3.connect(PACKAGE / "ongc.db")
    rows = []
    for name, kind, ra, dec, const, major, minor, pa, b, v, sb, hubble, messier, common in db.execute(
        "select name, type, ra, dec, const, majax, minax, pa, bmag, vmag, sbrightn, hubble, messier, commonnames from objects where ra is not null"
    ):
        if kind not in KINDS:
            continue
        preset = "h_ii_region" if spaced(name) in IONISED else "reflection_nebula" if spaced(name) in REFLECTING else KINDS[kind]
        if preset == "galaxy" and re.match(r"^S[ABbcdm]|^I", hubble or "") and not re.match(r"^S0|^SA0|^SB0|^SAB0", hubble or ""):
            preset = "galaxy_with_h_ii"
        other = (["M " + str(int(messier))] if messier else []) + list(names(common))
        number = lambda x, d: "" if x is None else f"{x:.{d}f}".rstrip("0").rstrip(".")
        rows.append([spaced(name), preset, kind, number(math.degrees(ra), 5), number(math.degrees(dec), 5), const or "", number(major, 2), number(minor, 2), "" if pa is None else pa, number(v, 2), number(b, 2), number(sb, 2), "; ".join(other)])
    rows.sort(key=lambda r: (r[0].split()[0], int(re.sub(r"\D", "", r[0].split()[1])) if len(r[0].split()) > 1 and re.search(r"\d", r[0].split()[1]) else 0, r[0]))
    with open(OUT / "objects.csv", "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(["name", "preset", "type", "ra_deg", "dec_deg", "constellation", "major_arcmin", "minor_arcmin", "pa_deg", "v_mag", "b_mag", "b_mag_arcsec2", "other_names"])
        out.writerows(rows)
    licence = next(PACKAGE.parent.glob("[pP]y[oO]ngc-*/licenses/LICENSES/CC-BY-SA-4.0.txt"))
    shutil.copy(licence, OUT / "LICENSE")
    print(len(rows))


if __name__ == "__main__":
    main()
