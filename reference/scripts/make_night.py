"""Writes reference/positions.csv and reference/events.csv: sun, moon and fixed directions by skyfield with DE421. Run by `cargo xtask reference`.

Airless, topocentric, apparent. Events are crossings of stated altitudes of the centre, so that nobody's refraction is in them.
"""
import csv
import pathlib

import numpy as np
from skyfield.api import Loader, Star, wgs84
from skyfield.searchlib import find_discrete
from skyfield_data import get_skyfield_data_path

HERE = pathlib.Path(__file__).resolve().parents[1]
load = Loader(get_skyfield_data_path(), expire=False)
ts = load.timescale(builtin=True)
planets = load("de421.bsp")
earth, sun, moon = planets["earth"], planets["sun"], planets["moon"]

# Name, latitude, longitude, height, evening date (UTC noon to UTC noon moved by the longitude): both hemispheres, the equator, 65 and
# 78 degrees north in white night and polar night, either side of the date line, a leap day, a change of clocks during the night.
SITES = [
    ("quebec_winter", 46.35, -72.55, 30, (2027, 1, 10)),
    ("quebec_clock_back", 46.35, -72.55, 30, (2026, 10, 31)),
    ("quebec_clock_forward", 46.35, -72.55, 30, (2027, 3, 13)),
    ("southern", -31.3, 149.1, 1165, (2027, 6, 5)),
    ("equator", 0.0, 36.8, 1700, (2027, 9, 22)),
    ("white_night", 65.0, 25.5, 10, (2027, 6, 21)),
    ("north_autumn", 65.0, 25.5, 10, (2027, 10, 5)),
    ("polar_night", 78.2, 15.6, 20, (2026, 12, 21)),
    ("polar_day", 78.2, 15.6, 20, (2027, 6, 21)),
    ("west_of_date_line", -17.7, 177.4, 10, (2027, 4, 2)),
    ("east_of_date_line", -14.3, -170.7, 10, (2027, 4, 2)),
    ("leap_day", 40.0, -105.0, 1650, (2028, 2, 29)),
]
TARGETS = [("ic_443", 94.304, 22.518), ("ngc_7822", 0.9, 67.15), ("southern_star", 161.265, -59.684)]


def main():
    positions, events = [], []
    for name, lat, lon, height, (y, m, d) in SITES:
        site = earth + wgs84.latlon(lat, lon, height)
        noon = ts.utc(y, m, d, 12 - lon / 15)
        unix = (noon.utc_datetime().timestamp() // 60) * 60
        from_t = ts.from_datetime(__import__("datetime").datetime.fromtimestamp(unix, __import__("datetime").timezone.utc))
        bodies = {"sun": sun, "moon": moon}
        bodies |= {t: Star(ra_hours=ra / 15, dec_degrees=dec) for t, ra, dec in TARGETS}
        altitude = lambda body, t: site.at(t).observe(body).apparent().altaz()[0].degrees
        for hours in (0, 5, 9.5, 14, 22):
            t = ts.tt_jd(from_t.tt + hours / 24)
            stamp = unix + hours * 3600
            for key, body in bodies.items():
                alt, az, _ = site.at(t).observe(body).apparent().altaz()
                positions.append([name, lat, lon, height, f"{stamp:.1f}", key, f"{alt.degrees:.6f}", f"{az.degrees:.6f}"])
            s, mo = site.at(t).observe(sun).apparent(), site.at(t).observe(moon).apparent()
            phase = np.degrees(np.arccos(np.clip(np.dot(mo.position.au - s.position.au, mo.position.au) / np.linalg.norm(mo.position.au - s.position.au) / np.linalg.norm(mo.position.au), -1, 1)))
            positions.append([name, lat, lon, height, f"{stamp:.1f}", "moon_phase_angle", f"{phase:.6f}", "0"])
        end = ts.tt_jd(from_t.tt + 1)
        wanted = [("sun", -0.8333), ("sun", -12.0), ("sun", -18.0), ("moon", 0.0), ("ic_443", 20.0), ("ngc_7822", 60.0), ("southern_star", 20.0)]
        for key, level in wanted:
            f = lambda t, key=key, level=level: altitude(bodies[key], t) > level
            f.step_days = 0.005
            times, rises = find_discrete(from_t, end, f, epsilon=0.2 / 86400)
            for t, up in zip(times, rises):
                events.append([name, lat, lon, height, f"{unix:.0f}", key, level, "rise" if up else "set", f"{t.utc_datetime().timestamp():.2f}"])
            if len(times) == 0:
                events.append([name, lat, lon, height, f"{unix:.0f}", key, level, "none", "0"])
        for key in ("ic_443", "southern_star"):
            f = lambda t, key=key: site.at(t).observe(bodies[key]).apparent().hadec()[0].hours > 0
            f.step_days = 0.01
            times, up = find_discrete(from_t, end, f, epsilon=0.2 / 86400)
            for t, rising in zip(times, up):
                if rising:
                    ha = site.at(t).observe(bodies[key]).apparent().hadec()[0].hours
                    if abs(ha) < 1:
                        events.append([name, lat, lon, height, f"{unix:.0f}", key, 0, "transit", f"{t.utc_datetime().timestamp():.2f}"])
    for file, head, rows in [
        ("positions.csv", ["case", "latitude_deg", "longitude_deg", "height_m", "unix_s", "body", "altitude_deg", "azimuth_deg"], positions),
        ("events.csv", ["case", "latitude_deg", "longitude_deg", "height_m", "from_unix_s", "body", "level_deg", "kind", "unix_s"], events),
    ]:
        with open(HERE / file, "w", newline="") as out:
            writer = csv.writer(out, lineterminator="\n")
            writer.writerow(head)
            writer.writerows(rows)


if __name__ == "__main__":
    main()
