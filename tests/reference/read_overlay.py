"""What an archive with a picture on the ground holds, by ElementTree and Pillow; or makes one that is turned, with the corners that it should have."""
import io, json, math, sys, zipfile
import xml.etree.ElementTree as ET
from PIL import Image

job = json.load(sys.stdin)
KML = "{http://www.opengis.net/kml/2.2}"
if "make" in job:
    w, s, e, n = job["box"]
    png = io.BytesIO()
    Image.new("RGB", (40, 20), (10, 200, 30)).save(png, "PNG")
    with zipfile.ZipFile(job["make"], "w") as z:
        z.writestr("doc.kml", f"""<kml xmlns="http://www.opengis.net/kml/2.2"><GroundOverlay><Icon><href>p.png</href></Icon><LatLonBox><north>{n}</north>
<south>{s}</south><east>{e}</east><west>{w}</west><rotation>{job["rotation"]}</rotation></LatLonBox></GroundOverlay></kml>""")
        z.writestr("p.png", png.getvalue())
    # turned in metres about the middle, on a sphere that is flat there
    cx, cy, a = (w + e) / 2, (s + n) / 2, math.radians(job["rotation"])
    k = math.cos(math.radians(cy))
    corners = []
    for x, y in [(w, s), (e, s), (e, n), (w, n)]:
        u, v = (x - cx) * k, y - cy
        corners.append([cx + (u * math.cos(a) - v * math.sin(a)) / k, cy + u * math.sin(a) + v * math.cos(a)])
    print(json.dumps({"corners": corners}))
else:
    with zipfile.ZipFile(job["file"]) as z:
        assert z.testzip() is None
        root = ET.fromstring(z.read("doc.kml"))
        box = root.find(f".//{KML}LatLonBox")
        href = root.find(f".//{KML}Icon/{KML}href").text
        picture = Image.open(io.BytesIO(z.read(href)))
        print(json.dumps({
            "first": z.namelist()[0],
            "box": [float(box.find(KML + side).text) for side in ("west", "south", "east", "north")],
            "size": picture.size,
            "bands": len(picture.getbands()),
            "href": href,
        }))
