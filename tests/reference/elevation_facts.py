"""Every height of a GeoTIFF as Pillow reads it, against a plane: {"file", "plane": [a, b, c, e0, n0], "origin": [x, y], "pixel"} to the worst
difference from a + b (e - e0) + c (n - n0) at the middle of the pixels that have a value, and which have none."""
import json, sys
from PIL import Image

asked = json.load(sys.stdin)
a, b, c, e0, n0 = asked['plane']
x, y = asked['origin']
size = asked['pixel']
image = Image.open(asked['file'])
pixels = image.load()
worst, empty = 0.0, []
for row in range(image.height):
    for column in range(image.width):
        value = pixels[column, row]
        if value == -9999:
            empty.append([column, row])
            continue
        e, n = x + (column + 0.5) * size - e0, y - (row + 0.5) * size - n0
        worst = max(worst, abs(value - (a + b * e + c * n)))
json.dump({'size': list(image.size), 'mode': image.mode, 'worst': worst, 'empty': empty}, sys.stdout)
