import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileFilter } from '../src/filter/evaluate';
import { expectedAt, offersFor } from '../src/filter/expected';

const FIELDS = [
  { name: 'material', type: 'text' },
  { name: 'Durchmesser (mm)', type: 'integer' },
  { name: 'laid', type: 'date' },
  { name: 'and', type: 'boolean' },
];
const VALUES = [
  { value: "O'Neil's", count: 3 },
  { value: 150, count: 2 },
  { value: true, count: 1 },
];
const told = (text: string, caret = text.length): string => {
  const { expect: what, from, typed, field } = expectedAt(text, caret);
  return [what, from, typed, ...(field === null ? [] : [field])].join(' ');
};

describe('what may come where a filter is being written', () => {
  it.each([
    ['', 'field 0 '],
    ['mat', 'field 0 mat'],
    ['material', 'field 0 material'],
    ['material ', 'sign 9  material'],
    ['material = ', 'value 11  material'],
    ["material = 'P", 'value 11 P material'],
    ["material = 'PE' ", 'join 16  material'],
    ["material = 'PE' AND ", 'field 20 '],
    ['material NOT ', 'sign 13  material'],
    ["material IN ('PE', ", 'value 19  material'],
    ['dn BETWEEN 1 ', 'nothing 13  dn'],
    ['dn BETWEEN 1 AND ', 'value 17  dn'],
    ['dn BETWEEN 1 AND 2 ', 'join 19  dn'],
    ['"Durchmesser', 'field 0 Durchmesser'],
    ['"Durchmesser (mm)" > ', 'value 21  Durchmesser (mm)'],
    ['(material IS NULL) ', 'join 19  material'],
    ['S_INTERSECTS(geometry, BBOX(1, 2, 3, 4)) ', 'join 41 '],
    ['record() ', 'sign 9 '],
    ['record() IN (1, 2) AND ', 'field 23 '],
  ])('%s', (text, wanted) => expect(told(text)).toBe(wanted));

  it('is told at the caret, whatever stands behind it', () => {
    expect(told("mat = 'PE' AND dn > 5", 3)).toBe('field 0 mat');
    expect(told('material =  AND dn > 5', 11)).toBe('value 11  material');
  });

  // who only ever takes what is offered writes a filter that can be read
  it('leads to filters that can be read', () => {
    let reads = 0;
    fc.assert(
      fc.property(fc.array(fc.nat(), { minLength: 3, maxLength: 40 }), (picks) => {
        let text = '';
        for (const pick of picks) {
          const expected = expectedAt(text, text.length);
          if (expected.expect === 'join') {
            expect(compileFilter(text, { fields: FIELDS.map((f) => f.name) }), text).toBeTypeOf('function');
            reads++;
          }
          const offers = offersFor(expected, FIELDS, VALUES);
          // a list goes on or ends, a span needs its AND: nothing is offered there
          if (offers.length === 0) {
            text += /BETWEEN [^ ]+ $/.test(text.replace(/'[^']*(''[^']*)*'/g, 'x')) ? 'AND ' : pick % 2 === 0 ? ', ' : ') ';
            continue;
          }
          text = `${text.slice(0, expected.from)}${offers[pick % offers.length]!.text} `;
        }
      }),
      { numRuns: 800 },
    );
    expect(reads).toBeGreaterThan(1000);
  });
});
