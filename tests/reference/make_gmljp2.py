"""Puts GML into JPEG 2000 files, as boxes of associations (ISO/IEC 15444-2, M.11.11), where a reader of boxes finds it before the pixels."""
import json, struct, sys

job = json.load(sys.stdin)


def box(kind, *content):
    inside = b"".join(content)
    return struct.pack(">I", 8 + len(inside)) + kind + inside


for own in job["files"]:
    data = open(job["picture"], "rb").read()
    at, boxes = 0, []
    while at < len(data):
        length, kind = struct.unpack(">I4s", data[at : at + 8])
        length = length or len(data) - at
        boxes.append((kind, data[at : at + length]))
        at += length
    text = own["gml"].encode()
    root = box(b"asoc", box(b"lbl ", b"gml.root-instance"), box(b"xml ", text))
    gml = box(b"asoc", box(b"lbl ", b"gml.data"), root)
    with open(own["file"], "wb") as out:
        for kind, content in boxes:
            if kind == b"jp2c":
                out.write(gml)
            out.write(content)
print("{}")
