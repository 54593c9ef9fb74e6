"""Pictures of every kind that libtiff's own tools make, each with the values that it holds as a raw file beside it."""
import json, subprocess, sys
import numpy as np
from PIL import Image

job = json.load(sys.stdin)
folder = job["folder"]
rng = np.random.default_rng(1987)
W, H = 201, 133


def run(*command):
    done = subprocess.run(command, capture_output=True, text=True, cwd=folder)
    assert done.returncode == 0, (command, done.stderr)


def raw(name, array, photometric, kind):
    """A TIFF by raw2tiff, which takes any type of sample."""
    array.tofile(f"{folder}/{name}.bin")
    bands = 1 if array.ndim == 2 else array.shape[2]
    run("raw2tiff", "-w", str(W), "-l", str(H), "-b", str(bands), "-d", kind, "-p", photometric, "-i", "pixel", f"{name}.bin", f"{name}.tif")


y, x = np.mgrid[0:H, 0:W]
wave = 0.5 + 0.4 * np.sin(x / 9.0) * np.cos(y / 7.0) + 0.05 * rng.random((H, W))
rgb = (255 * np.dstack([wave, wave[::-1], 1 - wave])).astype(np.uint8)
raw("rgb", rgb, "rgb", "byte")
raw("grey", (255 * wave).astype(np.uint8), "minisblack", "byte")
raw("grey16", (65535 * wave).astype(np.uint16), "minisblack", "short")
raw("signed16", (30000 * (wave - 0.5)).astype(np.int16), "minisblack", "sshort")
raw("long", (4e9 * wave).astype(np.uint32), "minisblack", "long")
raw("float", (1000 * wave - 300).astype(np.float32), "minisblack", "float")
raw("double", (1000 * wave - 300).astype(np.float64), "minisblack", "double")
raw("five", (255 * np.dstack([wave * k / 5 for k in range(1, 6)])).astype(np.uint8), "minisblack", "byte")

planar = {
    "rgb16": (65535 * np.dstack([wave, wave[::-1], 1 - wave])).astype(np.uint16),
    "float3": np.dstack([wave, wave[::-1], 1 - wave]).astype(np.float32),
}
raw("rgb16", planar["rgb16"], "rgb", "short")
palette = Image.fromarray((7 * wave).astype(np.uint8), "P")
palette.putpalette([17 * k % 256 for k in range(768)])
palette.save(f"{folder}/palette.tif")
np.array(palette).tofile(f"{folder}/palette.bin")
bits = wave > 0.5
Image.fromarray(bits).save(f"{folder}/bits.tif")
bits.astype(np.uint8).tofile(f"{folder}/bits.bin")
rgba = np.dstack([rgb, np.where(wave > 0.3, (255 * wave).astype(np.uint8), 0)])
Image.fromarray(rgba).save(f"{folder}/rgba.tif")
rgba.tofile(f"{folder}/rgba.bin")

ways = {
    "plain": ["-c", "none"],
    "lzw": ["-c", "lzw"],
    "lzw-difference": ["-c", "lzw:2"],
    "deflate": ["-c", "zip"],
    "deflate-difference": ["-c", "zip:2"],
    "packbits": ["-c", "packbits"],
    "tiles": ["-c", "zip:2", "-t", "-w", "64", "-l", "48"],
    "tiles-plain": ["-c", "none", "-t", "-w", "64", "-l", "48"],
    "planes": ["-c", "lzw:2", "-p", "separate"],
    "planes-tiles": ["-c", "zip", "-p", "separate", "-t", "-w", "32", "-l", "32"],
    "big-endian": ["-c", "zip:2", "-B"],
    "big-endian-plain": ["-c", "none", "-B"],
    "bigtiff": ["-c", "lzw", "-8"],
    "rows": ["-c", "zip", "-r", "7"],
}
floating = {"deflate-floating": ["-c", "zip:3"], "floating-tiles": ["-c", "lzw:3", "-t", "-w", "64", "-l", "48"]}
# not in the other byte order: libtiff 4.5 reads back swapped what it wrote so
made = []
for kind in ["rgb", "grey", "grey16", "rgb16", "signed16", "long", "float", "double", "five", "palette", "bits", "rgba"]:
    own = dict(ways)
    if kind in ("float", "double"):
        own = {k: v for k, v in own.items() if ":2" not in " ".join(v)} | floating
    if kind == "bits":
        own = {k: v for k, v in own.items() if ":2" not in " ".join(v) and "planes" not in k} | {"fax3": ["-c", "g3"], "fax4": ["-c", "g4"]}
    # tiffcp takes planes apart where samples are bytes only
    if kind not in ("rgb", "five", "rgba"):
        own = {k: v for k, v in own.items() if "planes" not in k}
    for way, options in own.items():
        name = f"{kind}-{way}.tif"
        run("tiffcp", *options, f"{kind}.tif", name)
        made.append({"kind": kind, "way": way, "file": name, "lossless": True})
for kind, array in planar.items():
    np.ascontiguousarray(np.moveaxis(array, 2, 0)).tofile(f"{folder}/planes.raw")
    size = {2: "short", 4: "float"}[array.dtype.itemsize]
    run("raw2tiff", "-w", str(W), "-l", str(H), "-b", "3", "-d", size, "-p", "rgb", "-i", "band", "planes.raw", f"{kind}-bands.tif")
    array.tofile(f"{folder}/{kind}.bin")
    made.append({"kind": kind, "way": "bands", "file": f"{kind}-bands.tif", "lossless": True})
for kind in ["rgb", "grey"]:
    run("tiffcp", "-c", "jpeg:95", "-t", "-w", "64", "-l", "64", f"{kind}.tif", f"{kind}-jpeg.tif")
    made.append({"kind": kind, "way": "jpeg", "file": f"{kind}-jpeg.tif", "lossless": False})
Image.fromarray(rgb).save(f"{folder}/rgb-bmp.bmp")
Image.fromarray(rgba[..., :3]).convert("RGBA").save(f"{folder}/rgb-bmp32.bmp")
palette.save(f"{folder}/palette-bmp.bmp")
for kind, file in [("rgb", "rgb-bmp.bmp"), ("rgb", "rgb-bmp32.bmp"), ("palette", "palette-bmp.bmp")]:
    made.append({"kind": kind, "way": file, "file": file, "lossless": True})
print(json.dumps({"width": W, "height": H, "made": made}))
