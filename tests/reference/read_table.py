"""The fields and records of a shapefile's table, as pyshp reads them."""

import json
import sys

import shapefile

with shapefile.Reader(json.load(sys.stdin), encoding="utf-8") as read:
    fields = [list(f) for f in read.fields[1:]]
    records = [[v.isoformat() if hasattr(v, "isoformat") else v for v in r] for r in read.records()]
json.dump({"fields": fields, "records": records}, sys.stdout)
