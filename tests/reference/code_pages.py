"""What Python's codecs make of code pages: {our id: their name} to {our id: {single: [text or null, 256 times], double: {hex: text}}}."""
import json, sys

out = {}
for ours, theirs in json.load(sys.stdin).items():
    def letter(*codes):
        try:
            return bytes(codes).decode(theirs)
        except UnicodeDecodeError:
            return None
    double = {}
    if len([b for b in range(256) if letter(b) is None]) > 60:
        for high in range(0x81, 0xff):
            for low in range(0x40, 0xff):
                text = letter(high, low)
                if text is not None and len(text) == 1:
                    double[f'{high:02x}{low:02x}'] = text
    out[ours] = {'single': [letter(b) for b in range(256)], 'double': double}
json.dump(out, sys.stdout)
