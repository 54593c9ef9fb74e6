import { describe, expect, it } from 'vitest';
import type { FieldProfile } from '@pontrel/core/content/features/profile';
import { asTable, fieldColumns } from '../src/records/columns';

const field = (name: string, of: Partial<FieldProfile>): FieldProfile => ({
  name,
  type: 'text',
  filled: 1,
  maxBytes: 3,
  whole: 0,
  decimals: 0,
  samples: [],
  ...of,
});

describe('columns of records', () => {
  it('are as wide as their name and values need, within bounds; numbers stand on the right', () => {
    const [id, note, depth, long] = fieldColumns([
      field('ID', {}),
      field('NOTE', { maxBytes: 4000 }),
      field('DEPTH', { type: 'decimal', whole: 4, decimals: 9 }),
      field('A_VERY_LONG_NAME_OF_A_FIELD', {}),
    ]);
    expect([id!.number, depth!.number]).toEqual([false, true]);
    expect(id!.width).toBeLessThan(depth!.width);
    expect(depth!.width).toBeLessThan(long!.width);
    expect(note!.width).toBeGreaterThanOrEqual(long!.width);
    expect(note!.width).toBeLessThan(300);
  });

  it('are copied with tabs between cells, a line a record, whatever is in the cells', () => {
    expect(
      asTable(
        ['a', 'b'],
        [
          [1, 'x\ty'],
          [null, 'two\nlines'],
          [undefined, true],
        ],
      ),
    ).toBe('a\tb\n1\tx y\n\ttwo lines\n\ttrue');
  });
});
