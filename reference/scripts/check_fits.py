"""Opens a FITS image that the program wrote with astropy, verifies it strictly, and prints what it found as JSON: check_fits.py FILE."""
import json
import sys

import astropy.units as u
import numpy as np
from astropy.coordinates import SkyCoord
from astropy.io import fits
from astropy.wcs import WCS

with fits.open(sys.argv[1]) as hdus:
    hdus.verify("exception")
    # Reading the pixels takes BZERO out of the header: what stands in the file is asked first.
    header = hdus[0].header.copy()
    data = hdus[0].data
    wcs = WCS(header)
    middle = np.array([(header["NAXIS1"] - 1) / 2, (header["NAXIS2"] - 1) / 2])

    def sky(x, y):
        return SkyCoord(*wcs.wcs_pix2world([[x, y]], 0)[0], unit="deg")

    centre, up, right = sky(*middle), sky(middle[0], middle[1] + 100), sky(middle[0] + 100, middle[1])
    back = wcs.wcs_world2pix([[up.ra.deg, up.dec.deg]], 0)[0]
    named = SkyCoord(header["OBJCTRA"], header["OBJCTDEC"], unit=(u.hourangle, u.deg))
    print(
        json.dumps(
            {
                "shape": list(data.shape),
                "bitpix": header["BITPIX"],
                "exptime": header["EXPTIME"],
                "filter": header["FILTER"],
                "object": header["OBJECT"],
                "top_left": float(data[-1, 0]),
                "ra_deg": centre.ra.deg,
                "dec_deg": centre.dec.deg,
                "up_position_angle_deg": centre.position_angle(up).deg,
                "up_arcsec": centre.separation(up).arcsec,
                "right_position_angle_deg": centre.position_angle(right).deg,
                "round_trip_px": float(np.hypot(*(back - middle - [0, 100]))),
                "objctra": header["OBJCTRA"],
                "objctdec": header["OBJCTDEC"],
                "sexagesimal_offset_arcsec": named.separation(centre).arcsec,
            }
        )
    )
