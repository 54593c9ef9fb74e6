"""Archives by Python's zipfile, sound ones and faulty ones: {"folder": ...} to {name: file}.

Source: ".ZIP File Format Specification" 6.3.10."""
import json, struct, sys, zipfile

folder = json.load(sys.stdin)['folder']
POINT = '{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[171.25,-44.4]},"properties":{"n":%d}}]}'
made = {}


def archive(name, files, packing=zipfile.ZIP_DEFLATED, change=None, raw=None):
    made[name] = f'{folder}/{name}.zip'
    with zipfile.ZipFile(made[name], 'w', packing) as z:
        for k, v in files.items():
            z.writestr(k, v)
        z.comment = raw or b''
    if change:
        with open(made[name], 'rb') as f:
            data = bytearray(f.read())
        change(data)
        with open(made[name], 'wb') as f:
            f.write(data)


def central(data, n=0):
    at = -1
    for _ in range(n + 1):
        at = data.index(b'PK\x01\x02', at + 1)
    return at


archive('plain', {'a/one.geojson': POINT % 1, 'b/two.geojson': POINT % 2})
archive('stored', {'one.geojson': POINT % 1}, zipfile.ZIP_STORED)
archive('comment', {'one.geojson': POINT % 1}, raw=b'x' * 65535)
archive('unicode', {'Wh\u0101rangi \u6e2f.geojson': POINT % 1})
archive('large', {'one.geojson': (POINT % 1) + ' ' * 3_000_000})
made['zip64'] = f'{folder}/zip64.zip'
with zipfile.ZipFile(made['zip64'], 'w', zipfile.ZIP_DEFLATED) as z:
    with z.open('one.geojson', 'w', force_zip64=True) as f:
        f.write((POINT % 1).encode())
made['appended'] = f'{folder}/appended.zip'
with open(made['plain'], 'rb') as f, open(made['appended'], 'wb') as g:
    g.write(b'#!/bin/sh\nexit\n' + f.read())


def name437(data):
    """Names of code page 437, without the flag of UTF-8."""
    for mark, at in ((b'PK\x03\x04', 30), (b'PK\x01\x02', 46)):
        k = data.index(mark) + at
        data[k:k + 4] = 'Caf\u00e9'.encode('cp437')


def flip(data):
    """A bit of the packed bytes: the checksum tells."""
    data[30 + len('one.geojson') + 70] ^= 1


def checksum(data):
    data[central(data) + 16] ^= 255
    data[14] ^= 255


def locked(data):
    data[central(data) + 8] |= 1
    data[6] |= 1


def method(data):
    struct.pack_into('<H', data, central(data) + 10, 99)
    struct.pack_into('<H', data, 8, 99)


def short(data):
    struct.pack_into('<I', data, central(data) + 24, 20)


def bomb(data):
    struct.pack_into('<I', data, central(data) + 24, 4_000_000_000)


def nowhere(data):
    struct.pack_into('<I', data, central(data) + 42, 7)


def directory(data):
    end = data.rindex(b'PK\x05\x06')
    struct.pack_into('<I', data, end + 16, len(data) + 1000)


one = {'one.geojson': POINT % 1}
archive('name437', {'Caf_.geojson': POINT % 1}, change=name437)
archive('flip', one, zipfile.ZIP_STORED, change=flip)
for change in (checksum, locked, method, short, bomb, nowhere, directory):
    archive(change.__name__, one, change=change)
archive('cut', one, change=lambda d: d.__delitem__(slice(len(d) - 30, None)))
archive('begun', one, change=lambda d: d.__delitem__(slice(60, None)))
archive('traversal', {'../../etc/one.geojson': POINT % 1, 'C:\\two.geojson': POINT % 2})
json.dump(made, sys.stdout)
