"""Writes the tables in reference/ that the core's tests check against. Run by `cargo xtask reference`."""
import csv
import itertools
import pathlib
import warnings

warnings.filterwarnings("ignore")
import astropy.units as u
import numpy as np
import speclite.filters
import specsim
from astropy.modeling.physical_models import BlackBody
from astropy.stats import signal_to_noise_oir_ccd
from astropy.table import Table

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


def noise_equivalent_area():
    """photutils 2.3.0: pixels of noise under a star that is fitted, 1 / sum p_i^2, mean of the sums over a grid of centres."""
    from photutils.psf import CircularGaussianPRF

    rows = []
    for fwhm_px in [0.3, 0.44, 0.7, 1.0, 1.5, 2.0, 3.0, 5.0]:
        half = int(np.ceil(4 * fwhm_px)) + 3
        y, x = np.mgrid[-half : half + 1, -half : half + 1]
        centres = (np.arange(20) + 0.5) / 20 - 0.5
        sums = [np.sum(CircularGaussianPRF(flux=1, x_0=a, y_0=b, fwhm=fwhm_px)(x, y) ** 2) for a in centres for b in centres]
        rows.append([fwhm_px, float(1 / np.mean(sums))])
    write("noise_equivalent_area.csv", ["fwhm_px", "pixels"], rows)


def planes():
    """astropy 8.0.2: ecliptic and galactic latitude of directions of J2000."""
    from astropy.coordinates import BarycentricMeanEcliptic, SkyCoord

    rows = []
    for ra, dec in [(94.25, 22.57), (0.9, 67.2), (114.2, 65.6), (325.7, 66.1), (83.8, -5.4), (266.4, -29.0), (192.9, 27.1), (10.7, 41.3), (201.4, -43.0), (270.0, 66.5), (0.0, -90.0), (180.0, 0.0)]:
        at = SkyCoord(ra * u.deg, dec * u.deg, frame="icrs")
        beta = at.transform_to(BarycentricMeanEcliptic(equinox="J2000")).lat.deg
        rows.append([ra, dec, float(beta), float(at.galactic.b.deg)])
    write("planes.csv", ["right_ascension_deg", "declination_deg", "ecliptic_latitude_deg", "galactic_latitude_deg"], rows)


def photometry():
    """speclite 1.0.0: AB magnitudes of blackbodies in Bessell's bands, against V of the same body."""
    rows = []
    wave = np.arange(3000.0, 11000.5, 1.0) * u.AA
    for kelvin in [3000, 4500, 6000, 9000, 15000]:
        body = BlackBody(temperature=kelvin * u.K, scale=1 * u.erg / (u.s * u.cm**2 * u.AA * u.sr))(wave) * u.sr
        mags = {b: speclite.filters.load_filter(f"bessell-{b}").get_ab_magnitude(body, wave) for b in "UBVRI"}
        rows += [[kelvin, b, float(mags[b] - mags["V"])] for b in "UBRI"]
    write("photometry.csv", ["temperature_k", "band", "ab_mag_minus_v"], rows)


def moonlight():
    """specsim 1.0.0: V brightness of scattered moonlight by Krisciunas & Schaefer 1991, over a grid."""
    import specsim.atmosphere as atmosphere

    rows = []
    for phase, sep, moon_z, target_z, k in itertools.product([0.0, 0.25, 0.5, 0.75], [15.0, 40.0, 80.0, 120.0], [20.0, 45.0, 75.0], [10.0, 40.0, 65.0], [0.15, 0.25]):
        # specsim's phase runs from 0 (full) to 1 (new): the phase angle over 180 degrees.
        v = atmosphere.krisciunas_schaefer(target_z * u.deg, moon_z * u.deg, sep * u.deg, phase, k)
        rows.append([phase * 180.0, sep, 90.0 - moon_z, 90.0 - target_z, k, float(v.to(u.mag / u.arcsec**2).value)])
    write("moonlight.csv", ["phase_angle_deg", "separation_deg", "moon_altitude_deg", "target_altitude_deg", "k_v", "v_mag_arcsec2"], rows)


def multilayer():
    """A three-cavity narrow-band design of high and low index layers on glass, in nm."""
    high, low, glass, line = 2.25, 1.46, 1.52, 656.3
    h, l = line / 4 / high, line / 4 / low
    mirror = [(high, h), (low, l)] * 5 + [(high, h)]
    cavity = mirror + [(low, 2 * l)] + mirror[::-1]
    stack = cavity + [(low, l)] + cavity + [(low, l)] + cavity
    return [n for n, _ in stack], [d for _, d in stack], glass


def cone():
    """tmm 0.2.0: transmission of that multilayer at several angles and averaged over cones, both polarisations."""
    import tmm

    index, thickness, glass = multilayer()
    n_list, d_list = [1.0, *index, glass], [np.inf, *thickness, np.inf]

    def transmission(nm, theta):
        return np.mean([tmm.coh_tmm(p, n_list, d_list, theta, nm)["T"] for p in "sp"])

    wave = np.arange(640.0, 662.01, 0.2)
    rows = [["angle", 0.0, float(nm), float(transmission(nm, 0.0))] for nm in wave]
    for angle in [3.0, 6.0, 9.0, 12.0, 14.0]:
        rows += [["angle", angle, float(nm), float(transmission(nm, np.radians(angle)))] for nm in wave]
    for ratio, obstruction in [(5.5, 0.0), (2.8, 0.47), (2.0, 0.46)]:
        # Twenty rings of equal area.
        edges = np.linspace(obstruction**2, 1.0, 21)
        thetas = [np.arctan(np.sqrt(r2) / (2 * ratio)) for r2 in (edges[1:] + edges[:-1]) / 2]
        rows += [[f"cone_{obstruction:g}", ratio, float(nm), float(np.mean([transmission(nm, t) for t in thetas]))] for nm in np.arange(640.0, 662.01, 1.0)]
    write("multilayer.csv", ["kind", "angle_deg_or_focal_ratio", "wavelength_nm", "transmission"], rows)


def airmass():
    """Airmass: pvlib 0.16.1 (Kasten & Young 1989) and the secant of astropy 8.0.2, which holds high up only."""
    import pvlib
    from astropy.coordinates import AltAz

    rows = []
    for altitude in [2.0, 5.0, 10.0, 20.0, 30.0, 45.0, 60.0, 75.0, 90.0]:
        young = pvlib.atmosphere.get_relative_airmass(90.0 - altitude, model="kastenyoung1989")
        secant = AltAz(alt=altitude * u.deg, az=0 * u.deg).secz.value
        rows.append([altitude, float(young), float(secant)])
    write("airmass.csv", ["altitude_deg", "kasten_young_1989", "secant"], rows)


def rayleigh():
    """Molecular extinction at sea level, mag per airmass: Bird & Riordan 1986, and Hansen & Travis 1974."""
    wave = np.array([350.0, 400.0, 450.0, 500.0, 550.0, 600.0, 650.0, 700.0, 800.0, 1000.0])
    um = wave / 1000.0
    # Leckner's expression as in the model of Bird & Riordan: T = exp(-M / (l^4 (115.6406 - 1.335 / l^2))).
    bird = 1.085736 / (um**4 * (115.6406 - 1.335 / um**2))
    hansen = 1.085736 * 0.008569 * um**-4 * (1 + 0.0113 * um**-2 + 0.00013 * um**-4)
    write("rayleigh.csv", ["wavelength_nm", "bird_riordan_1986", "hansen_travis_1974"], [[float(a), float(b), float(c)] for a, b, c in zip(wave, bird, hansen)])


def ozone():
    """pvlib 0.16.1: ozone of 300 Dobson units, mag per airmass, by the coefficients of Bird & Riordan 1986 (after Leckner 1978)."""
    import importlib

    table = importlib.import_module("pvlib.spectrum.spectrl2")._SPECTRL2_COEFFS
    rows = [[float(nm), round(float(1.085736 * 0.3 * a), 5)] for nm, a in zip(table["wavelength"], table["ozone_absorption"]) if 400 <= nm <= 1000]
    write("ozone.csv", ["wavelength_nm", "k_mag_per_airmass"], rows)


def extinction():
    """specsim 1.0.0: zenith extinction measured over Kitt Peak (2 096 m), smoothed, as its atmosphere model ships it."""
    path = pathlib.Path(specsim.__file__).parent / "data/test/test_extinction.ecsv"
    table = Table.read(path)
    nm = table["wavelength"].quantity.to_value("nm")
    wanted = [360, 380, 400, 420, 440, 460, 486, 501, 520, 550, 580, 600, 620, 656, 672, 700, 750, 800, 850]
    rows = [[float(x), round(float(np.interp(x, nm, table["extinction"])), 4)] for x in wanted]
    write("extinction.csv", ["wavelength_nm", "k_mag_per_airmass"], rows)


def sunlight():
    """pvlib 0.16.1: sunlight as photons, by its own conversion; colour-science 0.4.7: CIE daylight and blackbodies."""
    import colour
    import pvlib

    sun = pvlib.spectrum.get_reference_spectra()["extraterrestrial"]
    at = np.array([400.0, 486.0, 500.0, 550.0, 589.0, 656.0, 700.0, 850.0, 1000.0])
    energy = np.interp(at, sun.index, sun.values)
    # Photons s^-1 m^-2 nm^-1 from W m^-2 nm^-1, by astropy.
    photons = (energy * u.W / u.m**2 / u.nm).to(u.photon / u.s / u.m**2 / u.nm, u.spectral_density(at * u.nm)).value
    rows = [["sun", float(w), float(p / photons[3])] for w, p in zip(at, photons)]
    for kelvin in [3000.0, 6000.0, 12000.0]:
        body = np.array([colour.colorimetry.planck_law(w * 1e-9, kelvin) for w in at]) * at
        rows += [[f"blackbody_{kelvin:g}", float(w), float(p / body[3])] for w, p in zip(at, body)]
    write("photons.csv", ["source", "wavelength_nm", "photons_relative_to_550"], rows)


def lamps():
    """colour-science 0.4.7: share of each lamp's photons that falls into bands 12 nm wide, from the 5 nm tables as published."""
    import make_spectra

    grid = np.arange(380.0, 780.5, 0.5)
    rows = []
    for name, sd in make_spectra.LAMPS.items():
        photons = np.interp(grid, sd.wavelengths, sd.values) * grid
        for lo, hi in [(430, 470), (470, 530), (530, 560), (560, 630), (630, 690)]:
            inside = (grid >= lo) & (grid < hi)
            rows.append([name, float(lo), float(hi), float(photons[inside].sum() / photons.sum())])
    write("lamp_shares.csv", ["lamp", "from_nm", "to_nm", "photon_share"], rows)


if __name__ == "__main__":
    ccd_equation()
    units()
    noise_equivalent_area()
    planes()
    photometry()
    moonlight()
    cone()
    airmass()
    rayleigh()
    ozone()
    extinction()
    sunlight()
    lamps()
