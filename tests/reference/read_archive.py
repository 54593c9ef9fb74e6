"""Archives as Python's zipfile finds them: {"files": [...]} to [{bad, files: [{name, method, size, extra, flags, sha}]}]."""
import hashlib, json, sys, zipfile

out = []
for file in json.load(sys.stdin)['files']:
    with zipfile.ZipFile(file) as z:
        out.append({'bad': z.testzip(), 'files': [{'name': i.filename, 'method': i.compress_type, 'size': i.file_size, 'extra': i.extra.hex(), 'flags': i.flag_bits,
                                                   'sha': hashlib.sha256(z.read(i)).hexdigest()} for i in z.infolist()]})
json.dump(out, sys.stdout)
