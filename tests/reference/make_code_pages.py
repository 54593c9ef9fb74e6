"""Files in code pages as old programs leave them: {"folder": ...} to [{file, texts}].

Tables state theirs by the language byte of the header alone, or by a .cpg in one spelling or another; drawings of R12 by $DWGCODEPAGE."""
import json, os, sys
import shapefile

folder = json.load(sys.stdin)['folder']
made = []


def table(name, codec, text, language=0, cpg=None):
    file = f'{folder}/{name}.shp'
    with shapefile.Writer(file, shapeType=shapefile.POINT, encoding=codec) as w:
        w.field('NAME', 'C', 40)
        w.point(1464000, 5101500)
        w.record(text)
    with open(f'{folder}/{name}.dbf', 'r+b') as f:
        f.seek(29)
        f.write(bytes([language]))
    if os.path.exists(f'{folder}/{name}.cpg'):
        os.remove(f'{folder}/{name}.cpg')
    if cpg is not None:
        with open(f'{folder}/{name}.cpg', 'w') as f:
            f.write(cpg)
    made.append({'file': file, 'text': text})


def drawing(name, codec, page, text):
    file = f'{folder}/{name}.dxf'
    groups = [(0, 'SECTION'), (2, 'HEADER'), (9, '$ACADVER'), (1, 'AC1009'), (9, '$DWGCODEPAGE'), (3, page), (0, 'ENDSEC'), (0, 'SECTION'),
              (2, 'ENTITIES'), (0, 'TEXT'), (8, '0'), (10, 1464000.0), (20, 5101500.0), (40, 1.0), (1, text), (0, 'ENDSEC'), (0, 'EOF')]
    with open(file, 'wb') as f:
        f.write(''.join(f'{code}\r\n{value}\r\n' for code, value in groups).encode(codec))
    made.append({'file': file, 'text': text})


table('byte437', 'cp437', 'Café ½ ░ Ñandú', 0x01)
table('byte850', 'cp850', 'Þingeyri Ø Ã', 0x02)
table('byte852', 'cp852', 'Žďár nad Sázavou', 0x64)
table('byte737', 'cp737', 'Λιμάνι', 0x6a)
table('byte866', 'cp866', 'Причал', 0x65)
table('byte932', 'cp932', '港湾①', 0x7b)
table('byte949', 'cp949', '부두', 0x79)
table('byte1252', 'cp1252', '€ 12 – “Quay” ™', 0x57)
for k, (cpg, codec, text) in enumerate([
    ('1252', 'cp1252', 'Œuvre €'), ('ANSI 1252', 'cp1252', '‘Quay’'), ('ansi-1252', 'cp1252', '‰'), ('CP437', 'cp437', '½ ░'), ('437', 'cp437', 'ñ'),
    ('850', 'cp850', 'Þ'), ('OEM 850', 'cp850', 'Ø'), ('932', 'cp932', '港'), ('SJIS', 'cp932', '湾'), ('936', 'gbk', '码头'), ('949', 'cp949', '부두'),
    ('950', 'cp950', '碼頭'), ('Big5', 'big5', '碼頭'), ('ISO 8859-1', 'latin-1', 'Élysée'), ('88591', 'latin-1', 'ß'), ('UTF8', 'utf-8', 'Whārangi'),
    ('UTF-8', 'utf-8', '港'), ('OEM', 'cp437', '±'), ('LDID/101', 'cp866', 'Причал'), ('Windows-1251', 'cp1251', 'План'),
]):
    table(f'cpg{k}', codec, text, 0, cpg)
drawing('dos850', 'cp850', 'DOS850', 'Þingeyri Ø')
drawing('dos437', 'cp437', 'dos437', 'ñ ½')
drawing('dos852', 'cp852', 'DOS852', 'Žďár')
drawing('ansi1252', 'cp1252', 'ANSI_1252', '€ 12 – “Quay”')
drawing('ansi950', 'cp950', 'ANSI_950', '碼頭')
for name, codec, declared in [('western', 'cp1252', 'windows-1252'), ('cyrillic', 'koi8_r', 'KOI8-R'), ('japanese', 'cp932', 'Shift_JIS')]:
    text = {'western': '€ 12 – “Quay”', 'cyrillic': 'Причал', 'japanese': '港湾'}[name]
    with open(f'{folder}/{name}.kml', 'wb') as f:
        f.write(f'<?xml version="1.0" encoding="{declared}"?><kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><name>{text}</name>'
                '<Point><coordinates>171.2,-44.4</coordinates></Point></Placemark></kml>'.encode(codec))
    made.append({'file': f'{folder}/{name}.kml', 'text': text})
json.dump(made, sys.stdout)
