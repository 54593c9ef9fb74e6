// Writes an ASCII drawing of LINE entities (about 120 bytes each) with a seeded pattern, in a stream.
import { createWriteStream } from 'node:fs';
import { once } from 'node:events';

/** @param count number of LINE entities; 500 000 give about 60 MB */
export async function writeManyLines(file, count) {
  const out = createWriteStream(file, { highWaterMark: 1 << 20 });
  let text = '  0\nSECTION\n  2\nHEADER\n  9\n$ACADVER\n  1\nAC1015\n  9\n$INSUNITS\n 70\n6\n  0\nENDSEC\n  0\nSECTION\n  2\nENTITIES\n';
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  for (let i = 0; i < count; i++) {
    const x = 1464000 + random() * 4000,
      y = 5101000 + random() * 4000;
    text += `  0\nLINE\n  5\n${(i + 256).toString(16).toUpperCase()}\n100\nAcDbEntity\n  8\nMAIN-${i % 7}\n100\nAcDbLine\n 10\n${x.toFixed(4)}\n 20\n${y.toFixed(4)}\n 30\n0.0\n 11\n${(x + random() * 30).toFixed(4)}\n 21\n${(y + random() * 30).toFixed(4)}\n 31\n0.0\n`;
    if (text.length > 1 << 20) {
      if (!out.write(text)) await once(out, 'drain');
      text = '';
    }
  }
  out.end(text + '  0\nENDSEC\n  0\nEOF\n');
  await once(out, 'finish');
}
