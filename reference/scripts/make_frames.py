"""Small frames with known truth, and what independent libraries measure on them.

Makes reference/frames/: rendered frames with their truth beside them, the example image that the
source distribution of `sep` 1.4.1 ships (as a whole under the LGPL, version 3), with all cards of
its header left out, among them those that name people or instruments, and the catalogue that
another program made of it and that ships beside it; tables of what `sep` and `photutils` measure;
FITS files of every type written by `astropy`; and a DNG.
"""

import io
import struct
import sys
import tarfile
from pathlib import Path

import numpy as np
import sep
from astropy.io import fits
from photutils.aperture import CircularAperture, aperture_photometry
from photutils.background import Background2D, MedianBackground

OUT = Path(__file__).resolve().parents[1] / "frames"
RADII = np.arange(4.0, 20.01, 0.5)


def moffat(shape, x, y, flux, fwhm, beta=3.5, ratio=1.0, angle_deg=0.0, parts=5):
    """A star's light in each pixel: a Moffat profile, summed over parts of each pixel."""
    alpha = fwhm / (2 * np.sqrt(2 ** (1 / beta) - 1))
    half = int(10 * fwhm) + 2
    x0, x1 = max(0, int(x) - half), min(shape[1], int(x) + half + 1)
    y0, y1 = max(0, int(y) - half), min(shape[0], int(y) + half + 1)
    offsets = (np.arange(parts) + 0.5) / parts - 0.5
    out = np.zeros((y1 - y0, x1 - x0))
    # The axis counts clockwise from the top, rows count downwards.
    sin, cos = np.sin(np.radians(angle_deg)), np.cos(np.radians(angle_deg))
    for oy in offsets:
        for ox in offsets:
            dx = np.arange(x0, x1)[None, :] + ox - x
            dy = np.arange(y0, y1)[:, None] + oy - y
            along, across = dx * sin - dy * cos, dx * cos + dy * sin
            r2 = along**2 / ratio + across**2 * ratio
            out += (1 + r2 / alpha**2) ** -beta
    out *= flux * (beta - 1) / (np.pi * alpha**2) / parts**2
    return (slice(y0, y1), slice(x0, x1)), out


def field(rng, shape, count, fwhm, faint, bright, **shape_of):
    image = np.zeros(shape)
    stars = []
    for _ in range(count):
        # As stars are: three times as many a magnitude fainter by one and a half.
        flux = faint * (bright / faint) ** (rng.random() ** 1.7)
        x, y = rng.uniform(12, shape[1] - 12), rng.uniform(12, shape[0] - 12)
        if any((x - s[0]) ** 2 + (y - s[1]) ** 2 < 25**2 for s in stars):
            continue
        where, light = moffat(shape, x, y, flux, fwhm, **shape_of)
        image[where] += light
        stars.append((x, y, flux))
    return image, stars


def slope(shape, percent, toward_deg):
    """A plane with the given share from the darkest to the brightest corner."""
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]]
    sin, cos = np.sin(np.radians(toward_deg)), np.cos(np.radians(toward_deg))
    plane = (x - (shape[1] - 1) / 2) * sin - (y - (shape[0] - 1) / 2) * cos
    span = abs(sin) * shape[1] + abs(cos) * shape[0]
    return 1 + percent / 100 * plane / span


def shot(rng, light_e, read_e, e_per_adu, offset, most=65535):
    adu = offset + (rng.poisson(np.maximum(light_e, 0)) + rng.normal(0, read_e, light_e.shape)) / e_per_adu
    return np.clip(np.rint(adu), 0, most).astype(np.uint16)


def write(name, data, **cards):
    hdu = fits.PrimaryHDU(data)
    for key, value in cards.items():
        hdu.header[key.replace("_", "-")] = value
    hdu.header["ROWORDER"] = "TOP-DOWN"
    hdu.writeto(OUT / name, overwrite=True, checksum=False)


def table(name, header, rows):
    with open(OUT / name, "w") as f:
        f.write(header + "\n")
        for row in rows:
            f.write(",".join(f"{v:.6g}" if isinstance(v, float) else str(v) for v in row) + "\n")


def by_libraries(name, data, stars, saturation=65535):
    """Background and stars as `sep` and `photutils` have them, at the true places."""
    image = np.ascontiguousarray(data, dtype=np.float64)
    back = sep.Background(image, bw=64, bh=64)
    flat = image - back.back()
    two = Background2D(image, 64, filter_size=3, bkg_estimator=MedianBackground())
    table(
        f"{name}-background.csv",
        "library,level_adu,sigma_adu",
        [
            ("sep", float(back.globalback), float(back.globalrms)),
            ("photutils", float(two.background_median), float(two.background_rms_median)),
        ],
    )
    rows = []
    for x, y, flux in stars:
        near = flat[int(y) - 2 : int(y) + 3, int(x) - 2 : int(x) + 3]
        if flat[int(y), int(x)] <= 0 or image[int(y) - 2 : int(y) + 3, int(x) - 2 : int(x) + 3].max() >= saturation:
            continue
        wx, wy, _ = sep.winpos(flat, [x], [y], [1.3 * 2 / 2.35 * 1.5])
        for r in RADII:
            total, _, _ = sep.sum_circle(flat, [wx[0]], [wy[0]], r, subpix=0)
            hfr, flag = sep.flux_radius(flat, [wx[0]], [wy[0]], [r], 0.5, normflux=total, subpix=5)
            own = aperture_photometry(flat, CircularAperture([(wx[0], wy[0])], r=r))["aperture_sum"][0]
            rows.append((float(x), float(y), float(flux), float(wx[0]), float(wy[0]), float(r), float(total[0]), float(hfr[0]), float(own)))
    table(f"{name}-stars.csv", "x_px,y_px,true_flux_adu,win_x_px,win_y_px,radius_px,sep_flux_adu,sep_hfr_px,photutils_flux_adu", rows)
    found = sep.extract(flat, 5.0 * back.globalrms / 5.0, err=None, minarea=5)
    return found


def rendered():
    rng = np.random.default_rng(20260)
    shape = (448, 512)
    gain, offset = 0.25, 500
    # Round stars on a sky of 312 ADU that rises by 6 per cent of the level towards 134 degrees.
    light, stars = field(rng, shape, 110, 3.1, 900, 4e5)
    sky = 312.4
    plane = (sky + offset) * slope(shape, 6.0, 134.0) - offset
    data = shot(rng, (light + plane) * gain, 1.5, gain, offset)
    write("round.fits", data, IMAGETYP="LIGHT", EXPTIME=300.0, GAIN=100, EGAIN=gain, FILTER="Ha 3 nm", CCD_TEMP=-10.0, XPIXSZ=3.76, FOCALLEN=495.0, OBJECT="IC 443")
    by_libraries("round", data, stars)
    sigma = np.sqrt(sky * gain + 1.5**2 + gain**2 / 12) / gain
    truth = [("round", float(sky + offset), float(sigma), 6.0, 134.0, 3.1, 1.0, 0.0)]
    # Drawn out by a quarter towards 30 degrees from the top.
    light, stars = field(rng, (320, 384), 60, 3.6, 2000, 4e5, ratio=1.25, angle_deg=30.0)
    data = shot(rng, (light + 900.0) * 0.5, 3.0, 0.5, 200)
    write("drawn-out.fits", data, IMAGETYP="Light Frame", EXPTIME=120.0)
    truth.append(("drawn-out", 1100.0, float(np.sqrt(900 * 0.5 + 9 + 0.25 / 12) / 0.5), 0.0, 0.0, 3.6, 1.25, 30.0))
    # A filter array: red, green and blue have a sky and a scale of light of their own.
    shape = (320, 448)
    light, stars = field(rng, shape, 25, 4.0, 4000, 2e5)
    data = np.zeros(shape, dtype=np.uint16)
    for (dy, dx), sky, share in [((0, 0), 240.0, 0.5), ((0, 1), 420.0, 1.0), ((1, 0), 420.0, 1.0), ((1, 1), 310.0, 0.7)]:
        part = shot(rng, (light[dy::2, dx::2] * share + sky) * 0.8, 2.0, 0.8, 256)
        data[dy::2, dx::2] = part
    write("mosaic.fits", data, IMAGETYP="LIGHT", EXPTIME=60.0, BAYERPAT="RGGB")
    for channel, sky in [("r", 240.0), ("g", 420.0), ("b", 310.0)]:
        truth.append((f"mosaic-{channel}", 256.0 + sky, float(np.sqrt(sky * 0.8 + 4 + 0.64 / 12) / 0.8), 0.0, 0.0, 4.0, 1.0, 0.0))
    table("truth.csv", "frame,level_adu,sigma_adu,slope_percent,slope_toward_deg,fwhm_px,elongation,elongation_toward_deg", truth)


def real(archive):
    with tarfile.open(archive) as tar:
        raw = tar.extractfile("sep-1.4.1/data/image.fits").read()
        catalogue = tar.extractfile("sep-1.4.1/data/image.cat").read().decode()
    names, lines = [], []
    for line in catalogue.splitlines():
        if line.startswith("#"):
            names.append(line.split()[2])
        elif line.strip():
            lines.append([float(v) for v in line.split()])
    # Columns by name up to where one name stands for several.
    at = {name: i for i, name in enumerate(names)}
    # Its places count from one, ours from nought.
    rows = [(v[at["X_IMAGE"]] - 1, v[at["Y_IMAGE"]] - 1, v[at["FLUX_APER"]], v[at["FLUXERR_APER"]], v[17], v[18], v[19], int(v[-1])) for v in lines]
    table("real-catalogue.csv", "x_px,y_px,flux_aper_adu,flux_aper_error_adu,radius_a_px,radius_b_px,radius_c_px,flag", rows)
    data = fits.getdata(io.BytesIO(raw)).astype(np.float32)
    write("real.fits", data)
    image = np.ascontiguousarray(data, dtype=np.float64)
    back = sep.Background(image, bw=64, bh=64)
    flat = image - back.back()
    kernel = np.exp(-0.5 * (np.mgrid[-4:5, -4:5] ** 2).sum(0) / 1.3**2)
    found = sep.extract(flat, 2.0, err=back.globalrms, filter_kernel=kernel, filter_type="matched", minarea=4)
    rows = []
    for o in found:
        total, _, _ = sep.sum_circle(flat, [o["x"]], [o["y"]], 6.0, subpix=0)
        noise = back.globalrms * np.sqrt(4 * np.pi) * 1.3
        rows.append((float(o["x"]), float(o["y"]), float(total[0]), float(o["cflux"]), float(o["peak"] / back.globalrms), int(o["flag"]), float(o["a"]), float(o["b"])))
    table("real-objects.csv", "x_px,y_px,sep_flux_adu,sep_cflux_adu,peak_sigmas,flag,a_px,b_px", rows)
    table("real-background.csv", "library,level_adu,sigma_adu", [("sep", float(back.globalback), float(back.globalrms))])


def types():
    """Every type of number, small: the value at column x and row y is 100 x + y, or what fits."""
    y, x = np.mgrid[0:12, 0:20]
    values = 100 * x + y
    for bits, kind in [(8, np.uint8), (16, np.int16), (32, np.int32), (64, np.int64), (-32, np.float32), (-64, np.float64)]:
        own = (values % 200 if bits == 8 else values).astype(kind)
        fits.PrimaryHDU(own).writeto(OUT / f"type{bits}.fits", overwrite=True)
    unsigned = (values + 40000).astype(np.uint16)
    fits.PrimaryHDU(unsigned).writeto(OUT / "type-unsigned.fits", overwrite=True)
    scaled = fits.PrimaryHDU(values.astype(np.float32))
    scaled.scale("int16", bscale=0.5, bzero=100.0)
    scaled.writeto(OUT / "type-scaled.fits", overwrite=True)
    empty = fits.PrimaryHDU()
    empty.header["OBJECT"] = "in an extension"
    fits.HDUList([empty, fits.BinTableHDU.from_columns([fits.Column("a", "J", array=[1, 2])]), fits.ImageHDU(values.astype(np.int32))]).writeto(OUT / "type-extension.fits", overwrite=True)
    planes = np.stack([values, values + 5000, values + 9000]).astype(np.float32)
    fits.PrimaryHDU(planes).writeto(OUT / "type-planes.fits", overwrite=True)
    for method in ["RICE_1", "GZIP_1", "GZIP_2"]:
        hdu = fits.CompImageHDU(unsigned, compression_type=method)
        fits.HDUList([fits.PrimaryHDU(), hdu]).writeto(OUT / f"type-{method.lower()}.fits", overwrite=True)


def dng():
    """A raw file as the DNG specification 1.4 (chapter 4) has it: 16 bit, uncompressed, RGGB."""
    height, width = 32, 48
    y, x = np.mgrid[0:height, 0:width]
    data = (600 + 10 * (y % 2) + 5 * (x % 2) + (x + y)).astype("<u2")
    entries, extra = [], b""

    def add(tag, kind, values, to=None):
        to = entries if to is None else to
        code = {"B": 1, "s": 2, "H": 3, "I": 4, "R": 5, "r": 10}[kind]
        if kind == "s":
            raw = values.encode() + b"\0"
            count = len(raw)
        elif kind in "Rr":
            raw = b"".join(struct.pack("<II" if kind == "R" else "<ii", *v) for v in values)
            count = len(values)
        else:
            raw = struct.pack("<" + kind * len(values), *values)
            count = len(values)
        to.append((tag, code, count, raw))

    exif = []
    add(33434, "R", [(30, 1)], exif)
    add(34855, "H", [800], exif)
    add(36867, "s", "2027:01:28 18:40:00", exif)
    add(37386, "R", [(200, 1)], exif)
    add(254, "I", [0])
    add(256, "I", [width])
    add(257, "I", [height])
    add(258, "H", [16])
    add(259, "H", [1])
    add(262, "H", [32803])
    add(271, "s", "Invented")
    add(272, "s", "Stock camera")
    add(273, "I", [0])
    add(274, "H", [1])
    add(277, "H", [1])
    add(278, "I", [height])
    add(279, "I", [width * height * 2])
    add(33421, "H", [2, 2])
    add(33422, "B", [0, 1, 1, 2])
    add(34665, "I", [0])
    add(50706, "B", [1, 4, 0, 0])
    add(50708, "s", "Invented stock camera")
    add(50714, "H", [512])
    add(50717, "H", [16383])
    add(50721, "r", [(1, 1), (0, 1), (0, 1), (0, 1), (1, 1), (0, 1), (0, 1), (0, 1), (1, 1)])
    add(50778, "H", [21])

    def directory(items, at):
        size = 2 + 12 * len(items) + 4
        body, tail = struct.pack("<H", len(items)), b""
        for tag, code, count, raw in sorted(items):
            if len(raw) <= 4:
                body += struct.pack("<HHI", tag, code, count) + raw.ljust(4, b"\0")
            else:
                body += struct.pack("<HHII", tag, code, count, at + size + len(tail))
                tail += raw + b"\0" * (len(raw) % 2)
        return body + struct.pack("<I", 0) + tail

    main_at = 8
    main_size = len(directory(entries, main_at))
    exif_at = main_at + main_size + main_size % 2
    exif_bytes = directory(exif, exif_at)
    pixels_at = exif_at + len(exif_bytes) + len(exif_bytes) % 2
    for i, (tag, code, count, raw) in enumerate(entries):
        if tag == 273:
            entries[i] = (tag, code, count, struct.pack("<I", pixels_at))
        if tag == 34665:
            entries[i] = (tag, code, count, struct.pack("<I", exif_at))
    out = b"II*\0" + struct.pack("<I", main_at)
    out += directory(entries, main_at).ljust(exif_at - main_at, b"\0")
    out += exif_bytes.ljust(pixels_at - exif_at, b"\0") + data.tobytes()
    (OUT / "stock.dng").write_bytes(out)


def source():
    """The source distribution of `sep`, from the package registry or as it was given."""
    if len(sys.argv) > 1:
        return sys.argv[1]
    import subprocess
    import tempfile

    to = tempfile.mkdtemp()
    pip = [sys.executable, "-m", "pip", "download", "-q", "--no-binary", "sep", "--no-deps", "sep==1.4.1", "-d", to]
    subprocess.run(pip, check=True)
    return next(Path(to).glob("sep-*.tar.gz"))


if __name__ == "__main__":
    OUT.mkdir(exist_ok=True)
    rendered()
    real(source())
    types()
    dng()
