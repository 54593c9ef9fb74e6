import { describe, expect, it } from 'vitest';
import type { Report } from '../src/report/blocks';
import { reportHtml } from '../src/report/report-html';
import { reportPdf } from '../src/report/report-pdf';

/** All of Latin, Greek and Cyrillic with the control characters, general punctuation, halves of surrogate pairs and what lies around them. */
const ODD = [
  [0, 0x52f],
  [0x2000, 0x206f],
  [0xd7f0, 0xd80f],
  [0xdff0, 0xe00f],
  [0xfff0, 0xffff],
].map(([from, to]) => Array.from({ length: to! - from! + 1 }, (_, k) => String.fromCharCode(from! + k)).join(''));

describe('a report', () => {
  it.each([...ODD, '\ud83d\ude00 \u202eabc'])('is made of whatever letters names and values have (%#)', async (letters) => {
    const text = letters.replaceAll(/(.{40})/gsu, '$1 ');
    const report: Report = {
      title: text,
      of: text,
      verdict: { good: false, title: text, text },
      sections: [
        {
          title: text,
          blocks: [
            { kind: 'text', text },
            { kind: 'heading', text },
            { kind: 'table', head: [text, 'b'], rows: [[text, text]] },
            { kind: 'bars', head: [text, text], rows: [{ name: text, count: text, share: 0.5, far: true }] },
          ],
        },
      ],
      made: [[text, text]],
    };
    expect((await reportPdf(report)).subarray(0, 5).toString()).toBe('%PDF-');
    expect(reportHtml(report)).toMatch(/^<!doctype html>/i);
  });
});
