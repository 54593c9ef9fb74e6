/** Codes of LZW as TIFF has it, the first bit of a code in the highest bit of a byte. Source: TIFF 6.0, section 13. */
const [CLEAR, END, FIRST, WIDEST] = [256, 257, 258, 12];

/** Packs bytes. Codes grow wider as soon as an entry needs it, one code before the reader knows of that entry, as the format's own description has it. */
export function lzw(bytes: Uint8Array): Uint8Array {
  let out = new Uint8Array(Math.max(64, bytes.length >> 1));
  let at = 0,
    held = 0,
    bits = 0,
    width = 9,
    next = FIRST;
  const put = (code: number): void => {
    held = (held << width) | code;
    bits += width;
    while (bits >= 8) {
      if (at === out.length) {
        const grown = new Uint8Array(2 * out.length);
        grown.set(out);
        out = grown;
      }
      bits -= 8;
      out[at++] = (held >> bits) & 255;
      held &= (1 << bits) - 1;
    }
  };
  // strings by the code of all but their last byte, and that byte
  let table = new Map<number, number>();
  put(CLEAR);
  let prefix = -1;
  for (const byte of bytes) {
    if (prefix < 0) {
      prefix = byte;
      continue;
    }
    const key = (prefix << 8) | byte;
    const known = table.get(key);
    if (known !== undefined) {
      prefix = known;
      continue;
    }
    put(prefix);
    table.set(key, next++);
    prefix = byte;
    if (next === (1 << WIDEST) - 1) {
      put(CLEAR);
      table = new Map();
      width = 9;
      next = FIRST;
    } else if (next === 1 << width) width++;
  }
  if (prefix >= 0) {
    put(prefix);
    // the reader has made an entry for it as well
    next++;
    if (next === 1 << width && width < WIDEST) width++;
  }
  put(END);
  if (bits > 0) {
    const last = (held << (8 - bits)) & 255;
    bits = 0;
    const whole = new Uint8Array(at + 1);
    whole.set(out.subarray(0, at));
    whole[at] = last;
    return whole;
  }
  return out.subarray(0, at);
}
