"""Writes an NTv2 file of two parts, one within the other, as PROJ reads it. Argument: the path. Source of the form: NTv2 User's Guide, appendix B."""
import math
import struct
import sys


def text(key, value):
    return key.encode().ljust(8) + value.encode().ljust(8)


def whole(key, value):
    return key.encode().ljust(8) + struct.pack("<i4x", value)


def real(key, value):
    return key.encode().ljust(8) + struct.pack("<d", value)


def part(name, parent, south, north, west, east, step, k):
    columns, rows = round((east - west) / step) + 1, round((north - south) / step) + 1
    head = text("SUB_NAME", name) + text("PARENT", parent) + text("CREATED", "") + text("UPDATED", "")
    for key, value in (("S_LAT", south), ("N_LAT", north), ("E_LONG", -east), ("W_LONG", -west), ("LAT_INC", step), ("LONG_INC", step)):
        head += real(key, value * 3600)
    body = b""
    for row in range(rows):
        for column in range(columns):
            lat, lon = south + row * step, east - column * step
            body += struct.pack("<4f", k * math.sin(lat * 3), k * math.cos(lon * 5), 0, 0)
    return head + whole("GS_COUNT", columns * rows) + body


head = whole("NUM_OREC", 11) + whole("NUM_SREC", 11) + whole("NUM_FILE", 2) + text("GS_TYPE", "SECONDS") + text("VERSION", "2") + text("SYSTEM_F", "A") + text("SYSTEM_T", "B")
head += real("MAJOR_F", 6378249.2) + real("MINOR_F", 6356515.0) + real("MAJOR_T", 6378137.0) + real("MINOR_T", 6356752.314)
with open(sys.argv[1], "wb") as file:
    file.write(head + part("OUTER", "NONE", -45, -43, 170, 173, 0.25, 4.0) + part("INNER", "OUTER", -44.5, -44, 171, 172, 0.05, 5.0) + b"END     " + b"\0" * 8)
