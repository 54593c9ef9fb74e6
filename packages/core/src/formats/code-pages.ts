/** Code pages that tables come in, by the names of the Encoding Standard (WHATWG), and what people call them. */
export const CODE_PAGES: readonly { id: string; name: string }[] = [
  { id: 'utf-8', name: 'UTF-8' }, { id: 'windows-1252', name: 'Western (1252)' }, { id: 'windows-1250', name: 'Central European (1250)' }, { id: 'windows-1251', name: 'Cyrillic (1251)' },
  { id: 'windows-1253', name: 'Greek (1253)' }, { id: 'windows-1254', name: 'Turkish (1254)' }, { id: 'windows-1255', name: 'Hebrew (1255)' }, { id: 'windows-1256', name: 'Arabic (1256)' }, { id: 'windows-1257', name: 'Baltic (1257)' },
  { id: 'windows-1258', name: 'Vietnamese (1258)' }, { id: 'windows-874', name: 'Thai (874)' }, { id: 'ibm866', name: 'Cyrillic, of terminals (866)' }, { id: 'koi8-r', name: 'Cyrillic (KOI8-R)' }, { id: 'iso-8859-2', name: 'Central European (8859-2)' },
  { id: 'iso-8859-15', name: 'Western (8859-15)' }, { id: 'macintosh', name: 'Western, of Macintosh' }, { id: 'gb18030', name: 'Chinese, simplified (GB 18030)' }, { id: 'big5', name: 'Chinese, traditional (Big5)' }, { id: 'shift_jis', name: 'Japanese (Shift JIS)' },
  { id: 'euc-jp', name: 'Japanese (EUC)' }, { id: 'euc-kr', name: 'Korean (EUC)' }, { id: 'utf-16le', name: 'UTF-16' },
];
