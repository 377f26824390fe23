"""Writes the tables in reference/ that the core's tests check against. Run by `cargo xtask reference`."""
import csv
import itertools
import pathlib
import warnings

warnings.filterwarnings("ignore")
import astropy.units as u
import numpy as np
import speclite.filters
from astropy.modeling.physical_models import BlackBody
from astropy.stats import signal_to_noise_oir_ccd

HERE = pathlib.Path(__file__).resolve().parents[1]


def write(name, header, rows):
    with open(HERE / name, "w", newline="") as f:
        out = csv.writer(f, lineterminator="\n")
        out.writerow(header)
        out.writerows([[f"{x:.10g}" if isinstance(x, float) else x for x in r] for r in rows])


def ccd_equation():
    """astropy 8.0.2: signal to noise of one exposure, without the error of the sky estimate."""
    rows = []
    for t, source, sky, dark, read, pixels in itertools.product([30.0, 300.0], [0.02, 1.0, 80.0], [0.01, 0.5, 12.0], [0.0, 0.05], [1.2, 8.0], [1.0, 11.6]):
        snr = signal_to_noise_oir_ccd(t, source * pixels, sky, dark, read, pixels, gain=1.0)
        rows.append([t, source, sky, dark, read, pixels, float(snr)])
    write("ccd_equation.csv", ["sub_s", "source_e_per_s_px", "sky_e_per_s_px", "dark_e_per_s_px", "read_noise_e", "pixels", "snr"], rows)


def units():
    """astropy 8.0.2: rayleigh and AB magnitudes as photons."""
    rows = []
    for rayleigh in [1.0, 40.0, 1000.0]:
        photons = (rayleigh * u.R).to(u.photon / (u.s * u.m**2 * u.arcsec**2)).value
        rows.append(["rayleigh_to_photons", rayleigh, 0.0, float(photons)])
    for mag, nm in itertools.product([0.0, 15.5, 22.3], [380.0, 550.0, 656.28, 900.0]):
        flux = (mag * u.ABmag).to(u.photon / (u.s * u.m**2 * u.nm), u.spectral_density(nm * u.nm))
        rows.append(["ab_to_photons_per_nm", mag, nm, float(flux.value)])
    for nm in [486.13, 500.68, 656.28, 672.0]:
        photon_erg = (nm * u.nm).to(u.erg, u.spectral()).value
        one = (1 * u.R).to(u.photon / (u.s * u.cm**2 * u.arcsec**2)).value * photon_erg
        rows.append(["erg_of_one_rayleigh", 1.0, nm, float(one)])
    write("units.csv", ["what", "value", "wavelength_nm", "result"], rows)


def photometry():
    """speclite 1.0.0: AB magnitudes of blackbodies in Bessell's bands, against V of the same body."""
    rows = []
    wave = np.arange(3000.0, 11000.5, 1.0) * u.AA
    for kelvin in [3000, 4500, 6000, 9000, 15000]:
        body = BlackBody(temperature=kelvin * u.K, scale=1 * u.erg / (u.s * u.cm**2 * u.AA * u.sr))(wave) * u.sr
        mags = {b: speclite.filters.load_filter(f"bessell-{b}").get_ab_magnitude(body, wave) for b in "UBVRI"}
        rows += [[kelvin, b, float(mags[b] - mags["V"])] for b in "UBRI"]
    write("photometry.csv", ["temperature_k", "band", "ab_mag_minus_v"], rows)


if __name__ == "__main__":
    ccd_equation()
    units()
    photometry()
