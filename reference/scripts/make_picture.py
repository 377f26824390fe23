"""Writes the tables that check the picture: moffat.csv (a star's profile) and blackbody_colours.csv (stars' colours between
boxes, integrated and shown by colour-science). Run by `cargo xtask reference`.
"""
import csv
import pathlib

import numpy as np
from astropy.modeling.functional_models import Moffat2D

import colour

HERE = pathlib.Path(__file__).resolve().parents[1]


def write(name, header, rows):
    with open(HERE / name, "w", newline="") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(header)
        out.writerows(rows)


def moffat():
    """Shares of a star's light at distances from its middle, beta 3, for a full width at half maximum in pixels."""
    rows = []
    for fwhm in (1.2, 2.5, 6.0):
        alpha = 3.0
        gamma = fwhm / (2.0 * np.sqrt(2.0 ** (1.0 / alpha) - 1.0))
        model = Moffat2D(amplitude=(alpha - 1.0) / (np.pi * gamma**2), gamma=gamma, alpha=alpha)
        assert abs(model.fwhm - fwhm) < 1e-12
        for r in (0.0, 0.5, 1.0, 2.0, 5.0, 20.0, 100.0):
            rows.append([fwhm, r, f"{model(r, 0.0):.12g}"])
    write("moffat.csv", ["fwhm_px", "distance_px", "share_per_px2"], rows)


def blackbodies():
    """Photons of a blackbody in boxes of red and blue over green, those of 6000 K made white; and red and blue of sRGB."""
    shape = colour.SpectralShape(380, 780, 1)

    def photons(kelvin, first, last):
        sd = colour.colorimetry.sd_blackbody(kelvin, shape)
        nm = sd.wavelengths
        inside = (nm >= first) & (nm <= last)
        return np.trapezoid((sd.values * nm)[inside], nm[inside])

    def over_green(kelvin):
        green = photons(kelvin, 510, 580)
        return photons(kelvin, 600, 680) / green, photons(kelvin, 420, 500) / green

    white = over_green(6000.0)
    white_xy = colour.XYZ_to_xy(colour.sd_to_XYZ(colour.colorimetry.sd_blackbody(6000.0, shape)))
    rows = []
    for kelvin in (2800, 3500, 4500, 5200, 6000, 7500, 10000, 15000, 25000):
        red, blue = (a / b for a, b in zip(over_green(kelvin), white))
        xyz = colour.sd_to_XYZ(colour.colorimetry.sd_blackbody(kelvin, shape)) / 100.0
        rgb = colour.XYZ_to_sRGB(xyz, illuminant=white_xy, apply_cctf_encoding=False)
        rgb = rgb / rgb.max()
        rows.append([kelvin, f"{red:.6f}", f"{blue:.6f}", f"{rgb[0]:.4f}", f"{rgb[2]:.4f}"])
    write("blackbody_colours.csv", ["temperature_k", "red_over_green", "blue_over_green", "srgb_red", "srgb_blue"], rows)


moffat()
blackbodies()
