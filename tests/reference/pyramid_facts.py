"""
A pyramid of pictures on the ground by Python's own zipfile, ElementTree, Pillow and NumPy: every link is followed; each region is the box of
what it shows and lies in that of the document that leads there; the finest tiles are put together and compared with the source; each coarser
tile is the mean of four pixels of the finer ones. Or makes some as other programs do.
"""
import io, json, posixpath, sys, zipfile
import xml.etree.ElementTree as ET
import numpy as np
from PIL import Image

job = json.load(sys.stdin)
K = "{http://www.opengis.net/kml/2.2}"


def sides(node):
    return [float(node.find(K + s).text) for s in ("west", "south", "east", "north")]


def check(file, source):
    faults, tiles = [], []
    with zipfile.ZipFile(file) as z:
        assert z.testzip() is None
        names = set(z.namelist())
        used = set()

        def visit(path, within, promised):
            used.add(path)
            document = ET.fromstring(z.read(path)).find(K + "Document")
            region = document.find(K + "Region")
            box = sides(region.find(K + "LatLonAltBox")) if region is not None else None
            if promised is not None and box != promised:
                faults.append(f"{path}: its region is not that of the link to it")
            if within is not None and not (box[0] >= within[0] - 1e-12 and box[2] <= within[2] + 1e-12):
                faults.append(f"{path}: it reaches out of its parent")
            for overlay in document.findall(K + "GroundOverlay"):
                own = sides(overlay.find(K + "LatLonBox"))
                if own != box:
                    faults.append(f"{path}: it is shown where its region is not")
                href = posixpath.normpath(posixpath.join(posixpath.dirname(path), overlay.find(f"{K}Icon/{K}href").text))
                used.add(href)
                image = np.asarray(Image.open(io.BytesIO(z.read(href))).convert("RGBA"))
                tiles.append((int(overlay.find(K + "drawOrder").text), own, image))
            for link in document.findall(K + "NetworkLink"):
                href = posixpath.normpath(posixpath.join(posixpath.dirname(path), link.find(f"{K}Link/{K}href").text))
                assert link.find(f"{K}Link/{K}viewRefreshMode").text == "onRegion"
                visit(href, box, sides(link.find(f"{K}Region/{K}LatLonAltBox")))

        first = z.namelist()[0]
        visit(first, None, None)
        if names - used:
            faults.append(f"nothing leads to {sorted(names - used)[:3]}")
    levels = sorted({order for order, _, _ in tiles}, reverse=True)
    whole = np.asarray(Image.open(source["file"]).convert("RGB")).astype(float)
    dx, dy = source["pixel"]
    off = []
    for k, level in enumerate(levels):
        step = 2**k
        h, w = whole.shape[:2]
        made = np.full((h, w, 3), -1.0)
        for order, (west, south, east, north), image in tiles:
            if order != level:
                continue
            c, r = round((west - source["west"]) / (dx * step)), round((source["north"] - north) / (dy * step))
            ih, iw = image.shape[:2]
            if abs((east - west) / (dx * step) - iw) > 1e-6 or abs((north - south) / (dy * step) - ih) > 1e-6:
                faults.append(f"a tile of {iw} by {ih} pixels has a box of another shape")
            made[r : r + ih, c : c + iw] = np.where(image[..., 3:] > 0, image[..., :3], -1)
        if (made < 0).any():
            faults.append(f"level {level} has {int((made[..., 0] < 0).sum())} pixels without a value")
        off.append(float(np.abs(made - whole).max()))
        # half as large, a last column or row by itself
        ph, pw = -(-h // 2) * 2, -(-w // 2) * 2
        padded = np.pad(made, ((0, ph - h), (0, pw - w), (0, 0)), mode="edge")
        whole = padded.reshape(ph // 2, 2, pw // 2, 2, 3).mean(axis=(1, 3))
        whole = np.floor(whole + 0.5)
    return {"first": first, "faults": faults, "levels": len(levels), "tiles": len(tiles), "off": off}


def make(kind, file, seed):
    """One as other programs make them: all in one document, in folders with links upwards, or with a hole that only a coarse tile fills."""
    rng = np.random.default_rng(seed)
    whole = rng.integers(0, 256, (96, 160, 3), dtype=np.uint8)
    west, north, d = 171.2, -44.3, 1e-5
    side = 64

    def png(data):
        out = io.BytesIO()
        Image.fromarray(data).save(out, "PNG")
        return out.getvalue()

    def box(c, r, w, h, step=1):
        return (
            f"<north>{north - r * d * step!r}</north><south>{north - (r + h) * d * step!r}</south>"
            f"<east>{west + (c + w) * d * step!r}</east><west>{west + c * d * step!r}</west>"
        )

    def overlay(href, c, r, w, h, step=1):
        return f"<GroundOverlay><Icon><href>{href}</href></Icon><LatLonBox>{box(c, r, w, h, step)}</LatLonBox></GroundOverlay>"

    kml = lambda inner: f'<kml xmlns="http://www.opengis.net/kml/2.2"><Document>{inner}</Document></kml>'
    cells = [(c, r, min(side, 160 - c), min(side, 96 - r)) for r in range(0, 96, side) for c in range(0, 160, side)]
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as z:
        if kind == "flat":
            z.writestr("doc.kml", kml("".join(overlay(f"t/{c}_{r}.png", c, r, w, h) for c, r, w, h in cells)))
        elif kind == "stacked":
            z.writestr("doc.kml", kml(overlay("t/0_0.png", 0, 0, 64, 64) + overlay("t/64_0.png", 0, 0, 64, 64)))
        else:
            links = "".join(f"<NetworkLink><Link><href>../fine/{c}_{r}/tile.kml</href></Link></NetworkLink>" for c, r, _, _ in cells[kind == "hole" :])
            links += f"<NetworkLink><Link><href>../fine/gone.kml</href></Link></NetworkLink>" if kind == "gone" else ""
            z.writestr("doc.kml", kml("<NetworkLink><Url><href>./coarse/top.kml</href></Url></NetworkLink>"))
            half = np.asarray(Image.fromarray(whole).resize((80, 48), Image.BOX))
            z.writestr("coarse/a.png", png(half[:32, :32]))
            z.writestr("coarse/b.png", png(half[:, 32:]))
            z.writestr("coarse/top.kml", kml(overlay("a.png", 0, 0, 32, 32, 2) + overlay("b.png", 32, 0, 48, 48, 2) + links))
            for c, r, w, h in cells[kind == "hole" :]:
                z.writestr(f"fine/{c}_{r}/tile.kml", kml(overlay(f"../../t/{c}_{r}.png", c, r, w, h)))
        for c, r, w, h in cells:
            z.writestr(f"t/{c}_{r}.png", png(whole[r : r + h, c : c + w]))
    whole.tofile(file + ".raw")


if "make" in job:
    for kind in job["make"]:
        make(kind, f"{job['folder']}/{kind}.kmz", 4)
    print("{}")
else:
    print(json.dumps(check(job["file"], job["source"])))
