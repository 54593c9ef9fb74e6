import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CODE_PAGES } from '../src/io/code-pages';
import { textDecoding } from '../src/io/text-decoding';

/** Bytes cut into pieces at these places. */
function cut(bytes: Uint8Array, at: readonly number[]): Uint8Array[] {
  const ends = [...new Set(at.map((a) => a % (bytes.length + 1)))].sort((a, b) => a - b);
  return [...ends, bytes.length].map((end, k) => bytes.subarray(k === 0 ? 0 : ends[k - 1], end));
}

describe('texts of bytes', () => {
  const text = fc.string({ unit: fc.constantFrom('a', 'é', 'ā', '港', '𝄞', '\ufffd', '\n') });

  it('that are UTF-8 have nothing damaged, U+FFFD in them or not, however they come', () => {
    fc.assert(
      fc.property(text, fc.array(fc.nat(), { maxLength: 5 }), (wanted, at) => {
        const decoding = textDecoding('utf-8');
        const pieces = cut(new TextEncoder().encode(wanted), at);
        const told = pieces.map((p) => decoding.decode(p, { stream: true })).join('') + decoding.decode();
        expect([told, decoding.damaged]).toEqual([wanted, 0]);
      }),
      { numRuns: 1000 },
    );
  });

  it('with a byte that no letter has are damaged by as many', () => {
    fc.assert(
      fc.property(text, text, fc.array(fc.nat(), { maxLength: 3 }), (before, after, at) => {
        const encoder = new TextEncoder();
        const bytes = Uint8Array.from([...encoder.encode(before), 0xff, ...encoder.encode(after), 0xfe]);
        const decoding = textDecoding('utf-8');
        const told = cut(bytes, at)
          .map((p) => decoding.decode(p, { stream: true }))
          .join('');
        expect([told + decoding.decode(), decoding.damaged]).toEqual([`${before}\ufffd${after}\ufffd`, 2]);
      }),
      { numRuns: 1000 },
    );
  });

  it('of every page count what the page does not have', () => {
    for (const { id } of CODE_PAGES.filter((p) => !p.id.startsWith('utf-'))) {
      const decoding = textDecoding(id);
      const plain = Uint8Array.from({ length: 95 }, (_, k) => 32 + k);
      const told = decoding.decode(plain);
      expect([id, decoding.damaged]).toEqual([id, 0]);
      // the plain letters are the same in all of them, but for what some have in the place of a backslash and a tilde
      expect([id, [...told].filter((c, k) => c.charCodeAt(0) !== 32 + k).length <= 2]).toEqual([id, true]);
    }
    const western = textDecoding('windows-1252');
    expect([western.decode(Uint8Array.of(0x80, 0x81, 0x92, 0x9d)), western.damaged]).toEqual(['€\ufffd’\ufffd', 2]);
  });
});
