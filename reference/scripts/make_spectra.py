"""Writes the shipped spectra in data/: lamps, lamp lines, sunlight, and the Bessell passbands.

Run by `cargo xtask reference`. Sources and licences: data/SOURCES.md.

Lamps are published 5 nm tables. A lamp's narrow lines stand in such a table as one or two raised
samples. Each is taken out again: what stands above the straight line between the samples on either
side goes, with its flux, into lamp_lines.csv, and the straight line stays in lamps.csv.
A line that the table does not show above its surroundings (the broad, self-reversed sodium D line of
a high-pressure lamp) stays in the continuum.

The tables end at 780 nm and the lamps do not: from there to 1050 nm a discharge keeps its last value
and a phosphor falls on at the pace of its last 50 nm; sodium's pair at 819 nm is added with a share
of the lamp's light up to 780 nm (all from memory, good to a factor of two).
"""
import csv
import pathlib
import warnings

warnings.filterwarnings("ignore")
import colour
import numpy as np
import pvlib
import speclite.filters

DATA = pathlib.Path(__file__).resolve().parents[2] / "data"
LAMPS = {
    "high_pressure_sodium": colour.SDS_ILLUMINANTS["HP1"],
    "low_pressure_sodium": colour.SDS_LIGHT_SOURCES["LPS"],
    "mercury": colour.SDS_LIGHT_SOURCES["Mercury"],
    "metal_halide": colour.SDS_ILLUMINANTS["HP4"],
    "led_3000k": colour.SDS_ILLUMINANTS["LED-B2"],
    "led_4000k": colour.SDS_ILLUMINANTS["LED-B3"],
}
SODIUM = [(497.9,), (568.5,), (589.3,), (615.9,)]
MERCURY = [(404.7,), (435.8,), (546.1,), (577.0, 579.1)]
LINES = {
    "high_pressure_sodium": SODIUM,
    "low_pressure_sodium": SODIUM,
    "mercury": MERCURY,
    "metal_halide": SODIUM + MERCURY,
    "led_3000k": [],
    "led_4000k": [],
}
INFRARED = [(818.33, 1 / 3), (819.48, 2 / 3)]
INFRARED_SHARE = {"high_pressure_sodium": 1 / 6, "low_pressure_sodium": 1 / 10}
ELEMENT = {w: "Na" for (w,) in SODIUM} | {w: "Hg" for g in MERCURY for w in g} | {w: "Na" for w, _ in INFRARED}


def write(name, header, rows):
    with open(DATA / name, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(header)
        out.writerows(rows)


def split(grid, values, groups):
    """Energy table at 5 nm -> (continuum table, [(wavelength_nm, flux in table units x nm)])."""
    continuum, lines = values.copy(), []
    for group in groups:
        near = np.flatnonzero(np.abs(grid - np.mean(group)) <= 5.5)
        lo, hi = near[0] - 1, near[-1] + 1
        base = np.interp(grid[near], [grid[lo], grid[hi]], [values[lo], values[hi]])
        excess = (values[near] - base).sum() * 5.0
        if excess > 0.02 * values.max():
            continuum[near] = base
            lines += [(w, excess / len(group)) for w in group]
    return continuum, lines


def beyond(grid, continuum, further, falls):
    """The continuum at `further` wavelengths past the end of the table."""
    last, before = continuum[-1], continuum[-11]
    pace = np.log(before / last) / 50.0 if falls and last > 0 else 0.0
    return last * np.exp(-max(pace, 0.0) * (further - grid[-1]))


def main():
    grid = np.arange(380.0, 781.0, 5.0)
    further = np.arange(785.0, 1051.0, 5.0)
    columns, line_rows = [], []
    for name, sd in LAMPS.items():
        values = np.interp(grid, sd.wavelengths, sd.values)
        values = values / values.max()
        continuum, lines = split(grid, values, LINES[name])
        total = values.sum() * 5.0
        assert abs(continuum.sum() * 5.0 + sum(f for _, f in lines) - total) < 1e-9 * total
        columns.append(np.append(continuum, beyond(grid, continuum, further, name.startswith("led"))))
        lines += [(w, part * INFRARED_SHARE[name] * total) for w, part in INFRARED if name in INFRARED_SHARE]
        line_rows += [(name, ELEMENT[w], w, f"{f:.6g}") for w, f in lines]
    write(
        "lamps.csv",
        ["wavelength_nm", *LAMPS],
        [[f"{w:g}", *(f"{c[i]:.6g}" for c in columns)] for i, w in enumerate(np.append(grid, further))],
    )
    write("lamp_lines.csv", ["lamp", "element", "wavelength_nm", "energy_flux_nm"], line_rows)

    sun = pvlib.spectrum.get_reference_spectra()["extraterrestrial"]
    at = np.arange(300.0, 1101.0, 1.0)
    write("sunlight.csv", ["wavelength_nm", "w_m2_nm"], [[f"{w:g}", f"{v:.5g}"] for w, v in zip(at, np.interp(at, sun.index, sun.values))])

    rows = []
    for band in "UBVRI":
        f = speclite.filters.load_filter(f"bessell-{band}")
        rows += [[band, f"{w / 10:g}", f"{r:.6g}"] for w, r in zip(f.wavelength, f.response)]
    write("bessell.csv", ["band", "wavelength_nm", "response"], rows)


if __name__ == "__main__":
    main()
