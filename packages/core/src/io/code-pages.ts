/** A code page that texts come in. */
export interface CodePage {
  /** As recipes and the page name it. */
  id: string;
  /** For people. */
  name: string;
  /** How files call it, besides its number and its id: letters and digits alone, in small letters. */
  labels: readonly string[];
}

const page = (id: string, name: string, ...labels: string[]): CodePage => ({ id, name, labels });

/** The code pages that are read, the most frequent of a family first. */
export const CODE_PAGES: readonly CodePage[] = [
  page('utf-8', 'UTF-8', 'utf8', 'unicode', '65001'),
  page('windows-1252', 'Western (1252)', '1252', 'ansi', 'ascii', 'usascii', 'latin1', 'l1', 'iso88591', '88591', '28591'),
  page('cp850', 'Western, of DOS (850)', '850'),
  page('cp437', 'American, of DOS (437)', '437', 'oem', 'dos'),
  page('cp858', 'Western with the euro, of DOS (858)', '858'),
  page('macintosh', 'Western, of Macintosh', 'macroman', 'mac', '10000'),
  page('iso-8859-15', 'Western (8859-15)', 'iso885915', '885915', 'latin9', '28605'),
  page('windows-1250', 'Central European (1250)', '1250'),
  page('cp852', 'Central European, of DOS (852)', '852'),
  page('iso-8859-2', 'Central European (8859-2)', 'iso88592', '88592', 'latin2', '28592'),
  page('windows-1251', 'Cyrillic (1251)', '1251'),
  page('ibm866', 'Cyrillic, of DOS (866)', '866'),
  page('cp855', 'Cyrillic, of DOS (855)', '855'),
  page('koi8-r', 'Cyrillic (KOI8-R)', 'koi8r', '20866'),
  page('koi8-u', 'Ukrainian (KOI8-U)', 'koi8u', '21866'),
  page('iso-8859-5', 'Cyrillic (8859-5)', 'iso88595', '88595', '28595'),
  page('windows-1253', 'Greek (1253)', '1253'),
  page('cp737', 'Greek, of DOS (737)', '737'),
  page('cp869', 'Greek, of DOS (869)', '869'),
  page('iso-8859-7', 'Greek (8859-7)', 'iso88597', '88597', '28597'),
  page('windows-1254', 'Turkish (1254)', '1254'),
  page('cp857', 'Turkish, of DOS (857)', '857'),
  page('iso-8859-9', 'Turkish (8859-9)', 'iso88599', '88599', 'latin5', '28599'),
  page('windows-1255', 'Hebrew (1255)', '1255'),
  page('cp862', 'Hebrew, of DOS (862)', '862'),
  page('windows-1256', 'Arabic (1256)', '1256'),
  page('cp864', 'Arabic, of DOS (864)', '864'),
  page('windows-1257', 'Baltic (1257)', '1257'),
  page('cp775', 'Baltic, of DOS (775)', '775'),
  page('iso-8859-4', 'Baltic (8859-4)', 'iso88594', '88594', '28594'),
  page('iso-8859-13', 'Baltic (8859-13)', 'iso885913', '885913', '28603'),
  page('iso-8859-3', 'South European (8859-3)', 'iso88593', '88593', '28593'),
  page('iso-8859-6', 'Arabic (8859-6)', 'iso88596', '88596', '28596'),
  page('iso-8859-8', 'Hebrew (8859-8)', 'iso88598', '88598', '28598'),
  page('cp860', 'Portuguese, of DOS (860)', '860'),
  page('cp861', 'Icelandic, of DOS (861)', '861'),
  page('cp863', 'Canadian French, of DOS (863)', '863'),
  page('cp865', 'Nordic, of DOS (865)', '865'),
  page('windows-1258', 'Vietnamese (1258)', '1258'),
  page('windows-874', 'Thai (874)', '874', 'tis620', 'iso885911', '885911'),
  page('gb18030', 'Chinese, simplified (GB 18030)', 'gb18030', '54936'),
  page('gbk', 'Chinese, simplified (936)', '936', 'gbk', 'gb2312'),
  page('cp950', 'Chinese, traditional (950)', '950'),
  page('big5', 'Chinese, traditional (Big5)', 'big5', 'big5hkscs'),
  page('shift_jis', 'Japanese (Shift JIS, 932)', '932', 'shiftjis', 'sjis', '31j'),
  page('euc-jp', 'Japanese (EUC)', 'eucjp', '51932', '20932'),
  page('euc-kr', 'Korean (EUC, 949)', '949', 'euckr', 'ksc5601', 'uhc'),
  page('utf-16le', 'UTF-16', 'utf16', 'utf16le', 'ucs2', '1200'),
  page('utf-16be', 'UTF-16, the greater byte first', 'utf16be', '1201'),
];

const BY_LABEL = new Map(CODE_PAGES.flatMap((p) => [p.id.replace(/[^a-z0-9]/g, ''), ...p.labels].map((label) => [label, p])));

/** What stands before a number or a name and says nothing: "ANSI 1252", "CP437", "ibm-850", "x-windows-932". */
const PREFIX = /^(x|ansi|oem|dos|cp|ibm|windows|win|ms|codepage|cs)(?=.)/;

/**
 * The code page that a file means by a label such as "1252", "ANSI_1252", "OEM 850", "ISO 8859-1" or "Shift-JIS"; null for one that is not
 * known here. Source of the names: IANA, "Character Sets"; of the spellings: common practice, no source.
 */
export function codePageOf(label: string): CodePage | null {
  let plain = label.toLowerCase().replace(/[^a-z0-9]/g, '');
  for (;;) {
    const known = BY_LABEL.get(plain);
    if (known) return known;
    const shorter = plain.replace(PREFIX, '');
    if (shorter === plain) return null;
    plain = shorter;
  }
}
