"""The log's speeds against a release server, in one run: a new frame until the log tells it, a folder of 26 MP frames with a bench
beside it, and a database of 20,000 frames. Run by `cargo xtask bench --log`.
"""
import json
import pathlib
import shutil
import sqlite3
import statistics
import subprocess
import sys
import threading
import time
import urllib.request

import numpy as np
from astropy.io import fits

ROOT = pathlib.Path(__file__).resolve().parents[2]
WORK = ROOT / "target" / "bench-log"
PORT = 7396
SHAPE = (4176, 6248)
#: Frames of 26 MP in the folder; 500 of them are 26 GB, more than many a disk has free.
MANY = 60
LIMITS = {"until told, s": 2.0, "frames a second, least": 3.0, "bench beside it, ms": 100.0, "20,000 frames, ms": 200.0}


def ask(method, path, body=None):
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"http://127.0.0.1:{PORT}/api/v1{path}", data=data, method=method)
    request.add_header("content-type", "application/json")
    with urllib.request.urlopen(request) as answer:
        text = answer.read()
    return json.loads(text) if text else None


def light(shape, seed, stars):
    """A sky of 312 ADU over an offset of 500 with stars, as 16-bit numbers."""
    rng = np.random.default_rng(seed)
    out = np.full(shape, 312.0)
    for _ in range(stars):
        cx, cy = rng.uniform(30, shape[1] - 30), rng.uniform(30, shape[0] - 30)
        x0, y0 = int(cx) - 20, int(cy) - 20
        r2 = (np.arange(x0, x0 + 41)[None] - cx) ** 2 + (np.arange(y0, y0 + 41)[:, None] - cy) ** 2
        out[y0 : y0 + 41, x0 : x0 + 41] += 600 * 10 ** (3 * rng.random() ** 2) * 2 / 29 * (1 + r2 / 9.2) ** -3
    adu = 500 + out + rng.normal(0, 1, shape) * np.sqrt(out * 4 + 36)
    return np.clip(np.rint(adu), 0, 65535).astype(np.uint16)


def written(to, pixels, number):
    """Writes a frame under another name first: it is there when it is whole."""
    pixels[0, number] += 1
    hdu = fits.PrimaryHDU(pixels)
    day, minute = divmod(number * 2, 600)
    start = f"2027-01-{10 + day:02}T{18 + minute // 60 if minute < 360 else minute // 60 - 6:02}:{minute % 60:02}:00"
    for key, value in {
        "IMAGETYP": "LIGHT", "EXPTIME": 120.0, "DATE-OBS": start, "FILTER": "L", "GAIN": 100, "EGAIN": 0.25, "OBJECT": "M 81",
        "XPIXSZ": 3.76, "FOCALLEN": 495.0, "OFFSET": 500,
    }.items():
        hdu.header[key] = value
    hdu.writeto(to, overwrite=True)


def until(holds, limit_s=600, every_s=0.01):
    begun = time.perf_counter()
    while not holds():
        if time.perf_counter() - begun > limit_s:
            sys.exit("bench: it never happened")
        time.sleep(every_s)
    return time.perf_counter() - begun


def frames():
    return sum(s["frames"] for s in ask("GET", "/log/sessions"))


def new_frame(folder):
    """From a frame's last byte until the log has it, s."""
    ask("POST", "/log/folders", {"folder": str(folder), "what": "watch"})
    pixels = light((1000, 1400), 1, 200)
    took = []
    for i in range(12):
        had = frames()
        written(folder / f"new-{i}.fits", pixels, i)
        took.append(until(lambda had=had: frames() > had))
    ask("POST", "/log/folders", {"folder": str(folder), "what": "leave"})
    return statistics.median(took), max(took)


def upload():
    """A frame of 61 MP as 32-bit numbers, 244 MB, sent to be measured: s."""
    file = WORK / "large.fits"
    tile = light((1597, 2394), 3, 900).astype(np.float32)
    fits.PrimaryHDU(np.tile(tile, (4, 4))).writeto(file, overwrite=True)
    data = file.read_bytes()
    file.unlink()
    request = urllib.request.Request(f"http://127.0.0.1:{PORT}/api/v1/frames/measure?name=large.fits", data=data, method="POST")
    request.add_header("content-type", "application/octet-stream")
    begun = time.perf_counter()
    with urllib.request.urlopen(request) as answer:
        answer.read()
    return time.perf_counter() - begun, len(data) / 1e6


def bench_ms(question):
    begun = time.perf_counter()
    ask("POST", "/bench", question)
    return 1000 * (time.perf_counter() - begun)


def many(folder, first, pause_s):
    """Frames of 26 MP a second, and what the bench takes beside that and alone, ms, asked so often."""
    folder.mkdir()
    pixels = light(SHAPE, 2, 4000)
    for i in range(MANY):
        written(folder / f"many-{i:03}.fits", pixels, first + i)
    scenario = ask("GET", "/scenarios/larch-lane-ic-443")["scenario"]

    def question(i):
        # A sky that was not asked for before: nothing is remembered.
        scenario["sky"]["zenith_v_mag"] = 19 + (first + i) * 1e-4
        return scenario

    alone = [bench_ms(question(i)) for i in range(40)]
    had, beside, over = frames(), [], threading.Event()

    def asking():
        i = 1000
        while not over.is_set():
            beside.append(bench_ms(question(i)))
            i += 1
            time.sleep(pause_s)

    thread = threading.Thread(target=asking)
    begun = time.perf_counter()
    thread.start()
    ask("POST", "/log/folders", {"folder": str(folder), "what": "read"})
    # Asked too often, the asking takes a processor from the reading.
    until(lambda: frames() >= had + MANY, every_s=0.25)
    took = time.perf_counter() - begun
    over.set()
    thread.join()
    shutil.rmtree(folder)
    p95 = sorted(beside)[int(0.95 * len(beside))]
    return MANY / took, statistics.median(alone), statistics.median(beside), p95


def twenty_thousand(data):
    """Copies a night a hundred times over; ms of the list of nights, of a search in it, and of a night of 200 frames."""
    base = sqlite3.connect(data / "salt-lamp.db")
    columns = [r[1] for r in base.execute("PRAGMA table_info(frame)")]
    of = lambda change: ", ".join(change.get(c, c) for c in columns)
    one = base.execute("SELECT id, session FROM frame LIMIT 1").fetchone()
    for night in range(100):
        session = f"bench-{night}"
        base.execute(
            "INSERT INTO log_session SELECT ?, ?, 'camera', '', created_at FROM log_session WHERE id = ?",
            (session, f"20{20 + night // 28:02}-01-{1 + night % 28:02}", one[1]),
        )
        for i in range(200):
            name = f"'{session}-{i}'"
            change = {"id": name, "session": f"'{session}'", "content": name, "path": "NULL", "object": f"'NGC {night}'"}
            base.execute(f"INSERT INTO frame ({', '.join(columns)}) SELECT {of(change)} FROM frame WHERE id = ?", (one[0],))
            base.execute(f"INSERT INTO frame_measured SELECT {name}, document, preview FROM frame_measured WHERE frame = ?", (one[0],))
    base.commit()
    base.close()
    told = {}
    for what, path in {
        "list": "/log/sessions", "search": "/log/sessions?text=ngc%2077&from=&to=", "a night of 200": "/log/sessions/bench-77",
    }.items():
        took = []
        for _ in range(7):
            begun = time.perf_counter()
            ask("GET", path)
            took.append(1000 * (time.perf_counter() - begun))
        told[what] = statistics.median(took)
    return told


def main():
    shutil.rmtree(WORK, ignore_errors=True)
    data, watched, folder = (WORK / n for n in ("data", "frames/watched", "frames/many"))
    for d in (data, watched, folder):
        d.mkdir(parents=True)
    program = ROOT / "target" / "release" / "salt-lamp"
    command = [program, "serve", "--port", str(PORT), "--data", data, "--frames", WORK / "frames"]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    try:
        server.stdout.readline()
        demo = json.loads((ROOT / "data/demo/larch-lane-ic-443.json").read_text())
        made = ask("POST", "/scenarios", demo)
        globals()["ask"] = (lambda own: lambda m, p, b=None: own(m, p.replace("larch-lane-ic-443", made["id"]), b))(ask)
        usual, most = new_frame(watched)
        print(f"a new frame of 1.4 MP, from its last byte until the log tells it: median {usual:.2f} s, at most {most:.2f} s")
        took, megabytes = upload()
        print(f"an upload of {megabytes:.0f} MB measured in {took:.1f} s")
        # The bench as whoever reads it asks, and as whoever drags on it.
        for who, pause_s, first in [("now and then", 0.5, 100), ("over and over", 0.05, 400)]:
            rate, alone, beside, p95 = many(folder / f"every-{first}", first, pause_s)
            print(f"a folder of {MANY} frames of 26 MP, the bench asked {who}: {rate:.2f} a second")
            print(f"the bench alone {alone:.1f} ms, beside it {beside:.1f} ms, 95th percentile {p95:.1f} ms ({beside / alone:.1f} times)")
        told = twenty_thousand(data)
        for what, ms in told.items():
            print(f"among 20,000 frames, {what}: {ms:.0f} ms")
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(WORK / "frames", ignore_errors=True)
    wrong = [most > LIMITS["until told, s"], rate < LIMITS["frames a second, least"], p95 > LIMITS["bench beside it, ms"]]
    wrong.append(max(told["list"], told["search"]) > LIMITS["20,000 frames, ms"])
    return 1 if any(wrong) else 0


if __name__ == "__main__":
    sys.exit(main())
