"""What others say of written pictures: libtiff's tools of their structure, listgeo of their place, Pillow of their values."""
import json, os, re, subprocess, sys
import numpy as np
from PIL import Image

Image.MAX_IMAGE_PIXELS = None
UNKNOWN = re.compile(r"Unknown field with tag (33550|33922|34264|34735|34736|34737|42113) ")
CORNER = re.compile(r"(Upper Left|Lower Left|Upper Right|Lower Right)\s*\(\s*([-\d.]+),\s*([-\d.]+)\)")

def numbers(text):
    return [float(v) for v in text.split()]


job = json.load(sys.stdin)
facts = {}
for file in job["files"]:
    own = facts[file] = {}
    if file.endswith(".tif"):
        info = subprocess.run(["tiffinfo", file], capture_output=True, text=True)
        own["tiffinfo"] = info.stdout
        # tags of other standards are unknown to it, and nothing else may be
        own["complaints"] = [l for l in info.stderr.splitlines() if l and not UNKNOWN.search(l)]
        geo = subprocess.run(["listgeo", "-d", file], capture_output=True, text=True)
        own["listgeo"] = geo.stdout
        own["corners"] = {m[1]: [float(m[2]), float(m[3])] for m in CORNER.finditer(geo.stdout)}
        own["pcs"] = (re.search(r"^PCS = (\d+)", geo.stdout, re.M) or [None, None])[1]
        own["gcs"] = (re.search(r"^GCS: (\d+)", geo.stdout, re.M) or [None, None])[1]
        # the world file that listgeo makes of the tags
        world = file[:-4] + ".tfw"
        ours = open(world).read() if os.path.exists(world) else None
        subprocess.run(["listgeo", "-tfw", file], capture_output=True)
        own["world"] = {"listgeo": numbers(open(world).read()), "ours": ours and numbers(ours)}
        if "against" in job:
            plain = file + ".plain.tif"
            done = subprocess.run(["tiffcp", "-c", "none", "-s", "-L", "-r", "100000", file + ",0", plain], capture_output=True, text=True)
            own["complaints"] += [l for l in done.stderr.splitlines() if l and "Unknown field" not in l]
            strips = subprocess.run(["tiffinfo", "-s", plain], capture_output=True, text=True).stdout
            offset, size = map(int, re.search(r"0: \[\s*(\d+),\s*(\d+)\]", strips).groups())
            own["same"] = open(plain, "rb").read()[offset : offset + size] == open(job["against"], "rb").read()
    if file.endswith(".jp2"):
        own["dump"] = subprocess.run(["opj_dump", "-i", file], capture_output=True, text=True).stdout
        plain = file + ".rawl"
        subprocess.run(["opj_decompress", "-i", file, "-o", plain], capture_output=True)
        kind = np.dtype(job["type"])
        bands = job["bands"]
        planes = np.frombuffer(open(plain, "rb").read(), kind).reshape(bands, -1)
        own["same"] = planes.T.tobytes() == open(job["against"], "rb").read()
    if file.endswith(".jpg"):
        data = open(file, "rb").read()
        # markers up to the start of the scan, ITU-T T.81 annex B
        at, markers = 2, []
        while data[at] == 0xFF and data[at + 1] != 0xDA:
            markers.append(data[at + 1])
            at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        own["markers"] = markers
        own["scans"] = data.count(b"\xff\xda")
    if "against" in job and file.endswith(".png"):
        picture = np.asarray(Image.open(file))
        own["same"] = picture.astype(job["type"]).tobytes() == open(job["against"], "rb").read()
print(json.dumps(facts))
