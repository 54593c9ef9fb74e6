import { describe, expect, it } from 'vitest';
import { asTable } from '../src/gather/pasted-table';

describe('a pasted table', () => {
  it.each([
    ['no easting northing\n1 1464012.40 5101530.25\n', 'no\teasting\tnorthing\n1\t1464012.40\t5101530.25', 3],
    // decimal commas between blanks stay decimal commas
    ['1464012,40   5101530,25\n1464044,1\t5101527,9'.replace('\t', ' '), '1464012,40\t5101530,25\n1464044,1\t5101527,9', 2],
    ['171.2, -44.4\n171.3, -44.5', '171.2, -44.4\n171.3, -44.5', 2],
    ['lot no;e;n\n1 a;2;3', 'lot no;e;n\n1 a;2;3', 3],
    ['"a b",1\n"c",2', '"a b",1\n"c",2', 2],
  ])('%j', (text, wanted, columns) => {
    expect(asTable(text)).toEqual({ text: wanted, rows: 2, columns, odd: null });
  });

  it('keeps its columns where one row has a value too many, and names the row', () => {
    const text = 'no e n\n1 1464012.4 5101530.2\n2 14640 44.1 5101527.9\n3 1464041.7 5101496.0';
    expect(asTable(text)).toMatchObject({ rows: 4, columns: 3, odd: { line: 3, values: 4 } });
    expect(asTable(text.replace('14640 44.1', '14640x44.1'))).toMatchObject({ rows: 4, columns: 3, odd: null });
  });

  it('of nothing has no rows', () => {
    expect(asTable(' \n ').rows).toBe(0);
  });
});
