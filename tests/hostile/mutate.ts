/** Bytes that mean something to many formats: edges of numbers, quotes, brackets, ends of lines. */
const TELLING = [0, 1, 0x7f, 0x80, 0xff, 0x22, 0x27, 0x2c, 0x3c, 0x3e, 0x5b, 0x5d, 0x7b, 0x7d, 0x0a, 0x0d, 0x2d, 0x30, 0x39, 0x65];

/** A file with a few of its bytes changed, moved, doubled or gone, as faulty disks, transfers and programs leave them. */
export function mutated(bytes: Uint8Array, random: () => number): Uint8Array {
  let out = Uint8Array.from(bytes);
  const at = (): number => Math.floor(random() * out.length);
  const times = 1 + Math.floor(random() ** 3 * 8);
  for (let k = 0; k < times && out.length > 4; k++) {
    const a = at();
    const length = 1 + Math.floor(random() ** 4 * Math.min(200, out.length - a));
    switch (Math.floor(random() * 8)) {
      case 0:
        out[a] = TELLING[Math.floor(random() * TELLING.length)]!;
        break;
      case 1:
        out[a]! ^= 1 << Math.floor(random() * 8);
        break;
      case 2:
        for (let j = a; j < a + length; j++) out[j] = Math.floor(random() * 256);
        break;
      case 3:
        out = joined(out.subarray(0, a), out.subarray(a + length));
        break;
      case 4:
        out = joined(out.subarray(0, a + length), out.subarray(a));
        break;
      case 5: {
        // a piece of itself somewhere else
        const b = at();
        out = joined(out.subarray(0, b), out.subarray(a, a + length), out.subarray(b));
        break;
      }
      case 6:
        // a digit more or another one: counts and numbers that lie
        for (let j = a; j < Math.min(out.length, a + 60); j++)
          if (out[j]! >= 0x30 && out[j]! <= 0x39) {
            out[j] = 0x30 + Math.floor(random() * 10);
            break;
          }
        break;
      default:
        out = out.slice(0, Math.max(5, a));
    }
  }
  return out;
}

function joined(...parts: Uint8Array[]): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(Buffer.concat(parts));
}
