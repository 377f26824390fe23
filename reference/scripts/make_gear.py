"""Writes the shipped gear (data/gear.json) and the demo scenarios (data/demo/*.json).

All gear is generic and all values are typical, from memory: no part of it is a measurement of a product.
The two sites, their names and the rigs of the demo are invented.
"""
import json
import pathlib

DATA = pathlib.Path(__file__).resolve().parents[2] / "data"
NOTE = "typical, from memory"

BSI = [[330, 0.3], [370, 0.55], [400, 0.74], [450, 0.87], [500, 0.91], [550, 0.9], [600, 0.83], [656, 0.72], [700, 0.6], [750, 0.49], [800, 0.39], [850, 0.3], [900, 0.21], [950, 0.13], [1000, 0.06], [1050, 0.02]]
FSI = [[350, 0.2], [400, 0.45], [450, 0.56], [500, 0.6], [550, 0.58], [600, 0.53], [656, 0.46], [700, 0.39], [750, 0.31], [800, 0.24], [850, 0.17], [900, 0.11], [950, 0.06], [1000, 0.03]]
CCD = [[350, 0.25], [400, 0.48], [450, 0.57], [500, 0.58], [550, 0.56], [600, 0.52], [656, 0.49], [700, 0.44], [750, 0.36], [800, 0.28], [850, 0.19], [900, 0.12], [950, 0.06], [1000, 0.02]]
CFA = {
    "r": [[380, 0.02], [420, 0.05], [480, 0.03], [520, 0.06], [560, 0.12], [580, 0.45], [600, 0.85], [620, 0.93], [656, 0.9], [700, 0.85], [750, 0.8], [800, 0.85], [850, 0.95], [900, 0.98], [1050, 0.98]],
    "g": [[380, 0.04], [440, 0.1], [470, 0.3], [490, 0.62], [510, 0.85], [530, 0.95], [550, 0.92], [580, 0.62], [600, 0.32], [630, 0.14], [656, 0.1], [700, 0.15], [750, 0.35], [800, 0.7], [850, 0.95], [900, 0.98], [1050, 0.98]],
    "b": [[380, 0.5], [400, 0.7], [430, 0.9], [455, 0.95], [480, 0.85], [500, 0.55], [520, 0.22], [550, 0.08], [600, 0.04], [656, 0.04], [700, 0.06], [750, 0.2], [800, 0.6], [850, 0.95], [900, 0.98], [1050, 0.98]],
}


def cut(curve, from_nm, to_nm, stock=None):
    """A curve with a cut window in front: 0.97 between the edges, or a stock camera's infrared cut."""
    window = stock or [[from_nm - 10, 0], [from_nm + 5, 0.97], [to_nm - 5, 0.97], [to_nm + 10, 0]]
    nodes = sorted({x for x, _ in curve} | {x for x, _ in window})
    at = lambda c, x: 0 if not c[0][0] <= x <= c[-1][0] else next(y0 + (y1 - y0) * (x - x0) / (x1 - x0) for (x0, y0), (x1, y1) in zip(c, c[1:]) if x0 <= x <= x1)
    return [[x, round(at(curve, x) * at(window, x), 4)] for x in nodes if window[0][0] <= x <= window[-1][0]]


def tenth_db(rows):
    """Gain rows from (setting in 0.1 dB, e-/ADU, read noise, full well)."""
    return [dict(setting=s, e_per_adu=g, read_noise_e=r, full_well_e=w) for s, g, r, w in rows]


BIG_16 = tenth_db([(0, 0.78, 3.4, 51000), (25, 0.585, 3.2, 38300), (50, 0.439, 3.0, 28700), (75, 0.329, 2.85, 21500), (99, 0.25, 2.7, 16400), (100, 0.248, 1.5, 16200), (150, 0.139, 1.4, 9100), (200, 0.078, 1.3, 5100), (250, 0.044, 1.22, 2880), (300, 0.0247, 1.15, 1620)])
SMALL_14 = tenth_db([(0, 3.1, 3.6, 50000), (50, 1.74, 2.9, 28500), (100, 0.98, 2.4, 16000), (119, 0.79, 2.2, 12900), (120, 0.78, 1.6, 12750), (200, 0.31, 1.35, 5080), (300, 0.098, 1.1, 1600), (400, 0.031, 0.95, 508)])
SQUARE_14 = tenth_db([(0, 1.22, 3.6, 20000), (50, 0.69, 2.8, 11300), (100, 0.386, 2.1, 6320), (150, 0.217, 1.8, 3550), (200, 0.122, 1.6, 2000), (300, 0.0386, 1.45, 632)])
OLD_12 = tenth_db([(0, 4.9, 3.6, 20000), (76, 2.04, 2.4, 8350), (139, 1.0, 1.7, 4095), (200, 0.49, 1.5, 2000), (300, 0.155, 1.3, 635)])
PLANET_12 = tenth_db([(0, 2.9, 3.3, 11900), (100, 0.92, 1.9, 3760), (200, 0.29, 1.2, 1190), (300, 0.092, 0.9, 377), (400, 0.029, 0.75, 119)])
DSLR = [dict(setting=i, e_per_adu=g, read_noise_e=r, full_well_e=w) for i, g, r, w in [(100, 2.9, 9.5, 45000), (200, 1.45, 6.0, 22500), (400, 0.73, 3.9, 11300), (800, 0.36, 2.9, 5650), (1600, 0.18, 2.5, 2820), (3200, 0.09, 2.35, 1410), (6400, 0.045, 2.3, 705)]]


def camera(id, name, pixel, cols, rows, cfa, qe, bits, offset, gains, dark, at_c, unity, readout=1.0, cooled=True, price=None):
    sensor = dict(name=name, pixel_um=pixel, columns=cols, rows=rows, cfa=cfa, qe=qe, cfa_curves=CFA if cfa else None, bits=bits, offset_adu=offset, gains=gains, dark=dict(e_per_s=dark, at_c=at_c, doubling_k=6.3), rise_above_ambient_k=None if cooled else 10, readout_s=readout)
    return dict(id=id, note=NOTE, usual_gain=unity, usual_temperature_c=-10 if cooled else 20, price=price, sensor=sensor)


CAMERAS = [
    camera("mono-26", "26 MP mono APS-C, 3.76 um", 3.76, 6248, 4176, None, BSI, 16, 500, BIG_16, 0.0022, -10, 100, price=2300),
    camera("colour-26", "26 MP colour APS-C, 3.76 um", 3.76, 6248, 4176, "RGGB", BSI, 16, 500, BIG_16, 0.0022, -10, 100, price=1900),
    camera("mono-62", "62 MP mono full frame, 3.76 um", 3.76, 9576, 6388, None, BSI, 16, 500, BIG_16, 0.0025, -10, 100, 1.6, price=4200),
    camera("colour-62", "62 MP colour full frame, 3.76 um", 3.76, 9576, 6388, "RGGB", BSI, 16, 500, BIG_16, 0.0025, -10, 100, 1.6, price=3700),
    camera("colour-9", "9 MP square colour, 3.76 um", 3.76, 3008, 3008, "RGGB", BSI, 14, 240, SMALL_14, 0.002, -10, 120, 0.6, price=900),
    camera("mono-9", "9 MP square mono, 3.76 um", 3.76, 3008, 3008, None, BSI, 14, 240, SMALL_14, 0.002, -10, 120, 0.6, price=1050),
    camera("mono-20", "20 MP mono one-inch, 2.4 um", 2.4, 5496, 3672, None, BSI, 12, 60, OLD_12, 0.003, -10, 139, 0.8, price=1000),
    camera("mono-16-older", "16 MP mono four-thirds, 3.8 um, older 12-bit", 3.8, 4656, 3520, None, FSI, 12, 50, OLD_12, 0.007, -10, 139, 1.2, price=800),
    camera("colour-8-uncooled", "8 MP colour, 2.0 um, uncooled", 2.0, 3856, 2180, "RGGB", BSI, 12, 20, PLANET_12, 0.06, 20, 200, 0.4, cooled=False, price=350),
    camera("dslr-stock", "24 MP DSLR, 3.9 um, stock", 3.9, 6000, 4000, "RGGB", cut(FSI, 410, 690, [[400, 0], [415, 0.9], [560, 0.95], [600, 0.75], [630, 0.45], [656, 0.24], [680, 0.12], [700, 0.04], [720, 0]]), 14, 512, DSLR, 0.08, 20, 800, 2.0, cooled=False, price=600),
    camera("dslr-modified", "24 MP DSLR, 3.9 um, modified for H-alpha", 3.9, 6000, 4000, "RGGB", cut(FSI, 410, 700), 14, 512, DSLR, 0.08, 20, 800, 2.0, cooled=False, price=850),
]


def scope(id, name, aperture, focal, obstruction=0, reducer=1.0, throughput=0.92, longest=600, price=None):
    return dict(id=id, name=name, note=NOTE, price=price, optics=dict(aperture_mm=aperture, obstruction_mm=obstruction, focal_length_mm=focal, reducer=reducer, throughput=throughput, longest_sub_s=longest))


OPTICS = [
    scope("refractor-90", "90 mm f/5.5 refractor", 90, 495, throughput=0.93, price=1200),
    scope("reflector-150", "150 mm f/2.8 reflector", 150, 420, 70, throughput=0.82, price=1700),
    scope("astrograph-200-f2", "200 mm f/2 astrograph", 200, 400, 92, throughput=0.8, price=2300),
    scope("refractor-70", "70 mm f/6 refractor", 70, 420, throughput=0.93, price=600),
    scope("refractor-120", "120 mm f/7 refractor", 120, 840, throughput=0.93, price=2600),
    scope("refractor-120-reduced", "120 mm f/7 refractor with 0.75 reducer", 120, 840, reducer=0.75, throughput=0.9, price=2900),
    scope("newtonian-200", "200 mm f/4 Newtonian", 200, 800, 70, throughput=0.84, price=900),
    scope("catadioptric-200", "200 mm f/10 catadioptric", 200, 2000, 68, throughput=0.8, longest=300, price=1800),
    scope("catadioptric-200-reduced", "200 mm f/10 catadioptric with 0.63 reducer", 200, 2000, 68, reducer=0.63, throughput=0.77, longest=300, price=2000),
    scope("lens-135", "135 mm f/2.8 camera lens", 48, 135, throughput=0.85, price=400),
]

HA, OIII, SII, HB = 656.3, 500.7, 672.4, 486.1


def bands(*rows, peak=0.92, order=3.0):
    return [dict(centre_nm=c, fwhm_nm=w, peak=peak, order=order) for c, w in rows]


def reflects(kind, b):
    """Share of a band's light that each face throws back: the common kind 4 %, better coated narrow or wide ones less (from memory)."""
    if kind in ("broad", "lrgb"):
        return 0.01
    narrowest = min((band["fwhm_nm"] for band in b), default=12) if b else 12
    return 0.01 if narrowest <= 3 else 0.02 if narrowest <= 5 else 0.04


def flt(id, name, kind, b=None, curve=None, od=4.0, n=1.9, tol=0.5, price=None, colour_only=False, mono_only=False, made_for=None):
    return dict(id=id, kind=kind, note=NOTE, fits="colour" if colour_only else "mono" if mono_only else "any", filter=dict(name=name, bands=b, curve=curve, off_band_od=od, n_eff=n, centre_tolerance_nm=tol, rear_reflectance=reflects(kind, b), design_focal_ratios=made_for, price=price))


def box(*edges, peak=0.96, soft=4):
    points = []
    for a, b in edges:
        points += [[a - soft, 0.001], [a + soft, peak], [b - soft, peak], [b + soft, 0.001]]
    return points


FILTERS = [
    flt("uv-ir-cut", "UV-IR cut", "broad", curve=box((390, 700)), od=3, price=80),
    flt("sodium-notch", "Broadband light pollution, sodium notch", "light_pollution", curve=box((400, 530), (638, 700)), od=3, price=150),
    flt("uhc", "Ultra-high contrast", "light_pollution", curve=box((478, 512), (640, 690)), od=3, price=130),
    flt("dual-12", "Dual band 12 nm", "multi_band", bands((HA, 12), (OIII, 12)), price=180, colour_only=True),
    flt("dual-7", "Dual band 7 nm", "multi_band", bands((HA, 7), (OIII, 7)), price=260, colour_only=True),
    flt("dual-5", "Dual band 5 nm", "multi_band", bands((HA, 5), (OIII, 5)), price=320, colour_only=True),
    flt("dual-3", "Dual band 3 nm", "multi_band", bands((HA, 3), (OIII, 3), peak=0.88), tol=0.4, price=420, colour_only=True),
    flt("dual-5-fast", "Dual band 5 nm, pre-shifted for f/2 to f/3", "multi_band", bands((658.6, 5), (502.4, 5)), price=390, colour_only=True, made_for=[2.0, 3.0]),
    flt("quad", "Quad band, 35 and 35 nm", "multi_band", bands((495, 35), (664, 35), peak=0.94, order=6), price=230, colour_only=True),
    flt("sii-hb", "[S II] and H-beta 7 nm", "multi_band", bands((SII, 7), (HB, 7)), price=260, colour_only=True),
    flt("sii-oiii", "[S II] and [O III] 6 nm", "multi_band", bands((SII, 6), (OIII, 6)), price=300, colour_only=True),
]
for line, centre, label in (("ha", HA, "H-alpha"), ("oiii", OIII, "[O III]"), ("sii", SII, "[S II]")):
    for width, price in ((12, 90), (7, 140), (5, 210), (3, 330)):
        FILTERS.append(flt(f"{line}-{width}", f"{label} {width} nm", "single_line", bands((centre, width), peak=0.9 if width > 3 else 0.88), tol=0.5 if width > 3 else 0.4, price=price))
FILTERS += [
    flt("lum", "Luminance", "lrgb", curve=box((395, 695)), od=3, price=90, mono_only=True),
    flt("red", "Red, gap at sodium", "lrgb", curve=box((600, 695)), od=3, price=90, mono_only=True),
    flt("green", "Green, overlapping blue at [O III]", "lrgb", curve=box((490, 578)), od=3, price=90, mono_only=True),
    flt("blue", "Blue, overlapping green at [O III]", "lrgb", curve=box((395, 508)), od=3, price=90, mono_only=True),
    flt("red-wide", "Red, without a gap", "lrgb", curve=box((580, 695)), od=3, price=70, mono_only=True),
]

LARCH = dict(zenith_v_mag=19.3, natural_v_mag=21.9, lamps=dict(led_3000k=0.35, led_4000k=0.45, high_pressure_sodium=0.2), toward_target_v_mag=None, target_altitude_deg=60, site_height_m=30, k_v=None, moon=None, sun_altitude_deg=-40)
HERON = LARCH | dict(zenith_v_mag=21.6, lamps=dict(led_3000k=0.5, led_4000k=0.3, high_pressure_sodium=0.2), site_height_m=310)
by = lambda rows, id: next(r for r in rows if r["id"] == id)


def contender(name, optics, cam, exposures, overhead=4.0):
    c = by(CAMERAS, cam)
    ex = [dict(filter=by(FILTERS, f)["filter"] if f else None, sub_s=s, share=share) for f, s, share in exposures]
    scope = by(OPTICS, optics)
    price = scope["price"] + c["price"]
    return dict(name=name, optics=scope["optics"], sensor=c["sensor"], gain=c["usual_gain"], sensor_temperature_c=c["usual_temperature_c"], overhead_s_per_sub=overhead, loss_per_hour=0.2, price=price, exposures=ex)


def scenario(title, target, sky, contenders, total=14400, goal=20):
    return dict(format="salt-lamp-scenario", version=1, title=title, detail_arcsec=5.0, total_s=total, goal_snr=goal, target=target, sky=sky, contenders=contenders)


def target(name, kind, ha, nii, oiii, sii, hb, continuum, peak):
    return dict(name=name, kind=kind, lines_rayleigh=dict(ha=ha, nii=nii, oiii=oiii, sii=sii, hb=hb), continuum=continuum and dict(v_mag_arcsec2=continuum[0], temperature_k=continuum[1]), peak_factor=peak)


def three(sub_mono=300, sub_dual=180, sub_none=30, width=3):
    return [
        contender(f"Mono, H-alpha and [O III] {width} nm", "refractor-90", "mono-26", [(f"ha-{width}", sub_mono, 0.5), (f"oiii-{width}", sub_mono, 0.5)]),
        contender("Colour, dual band 7 nm", "reflector-150", "colour-26", [("dual-7", sub_dual, 1.0)]),
        contender("Colour, no filter", "reflector-150", "colour-26", [(None, sub_none, 1.0)]),
    ]


DEMO = {
    "larch-lane-ic-443": scenario("IC 443 from Larch Lane", target("IC 443", "supernova_remnant", 60, 36, 45, 50, 18, None, 8), LARCH, three()),
    "larch-lane-ngc-7822": scenario("NGC 7822 from Larch Lane", target("NGC 7822", "h_ii_region", 55, 16, 20, 11, 15, (24.5, 8000), 6), LARCH, [
        contender("Mono, H-alpha 3 nm alone", "refractor-90", "mono-26", [("ha-3", 300, 1.0)]),
        contender("Mono, S-H-O 7 nm", "refractor-90", "mono-26", [("ha-7", 180, 0.2), ("oiii-7", 180, 0.4), ("sii-7", 180, 0.4)]),
        contender("Colour, dual band 7 nm", "reflector-150", "colour-26", [("dual-7", 180, 1.0)]),
        contender("Colour, H-alpha 7 nm alone", "reflector-150", "colour-26", [("ha-7", 240, 1.0)]),
    ]),
    "heron-lake-ngc-2403": scenario("NGC 2403 from Heron Lake", target("NGC 2403", "galaxy_with_h_ii", 12, 4, 5, 3, 3.6, (22.6, 6200), 40), HERON, [
        contender("Colour, no filter", "reflector-150", "colour-26", [(None, 120, 1.0)]),
        contender("Colour, sodium notch", "reflector-150", "colour-26", [("sodium-notch", 180, 1.0)]),
        contender("Mono, L-R-G-B", "refractor-90", "mono-26", [("lum", 120, 0.4), ("red", 120, 0.2), ("green", 120, 0.2), ("blue", 120, 0.2)]),
    ]),
    "heron-lake-ngc-7129": scenario("NGC 7129 from Heron Lake", target("NGC 7129", "reflection_nebula", 2, 0.6, 0, 0.4, 0.5, (22.4, 12000), 15), HERON, [
        contender("Colour, no filter", "reflector-150", "colour-26", [(None, 120, 1.0)]),
        contender("Mono, R-G-B", "refractor-90", "mono-26", [("red", 180, 0.3333), ("green", 180, 0.3333), ("blue", 180, 0.3334)]),
        contender("Colour, dual band 7 nm", "reflector-150", "colour-26", [("dual-7", 300, 1.0)]),
    ]),
}


def main():
    dump = lambda path, doc: path.write_text(json.dumps(doc, indent=None, separators=(", ", ": ")) + "\n")
    (DATA / "demo").mkdir(exist_ok=True)
    lines = lambda rows: "[\n" + ",\n".join("  " + json.dumps(r) for r in rows) + "\n ]"
    (DATA / "gear.json").write_text(f'{{"optics": {lines(OPTICS)},\n "cameras": {lines(CAMERAS)},\n "filters": {lines(FILTERS)}}}\n')
    json.loads((DATA / "gear.json").read_text())
    for name, doc in DEMO.items():
        dump(DATA / "demo" / f"{name}.json", doc)


if __name__ == "__main__":
    main()
