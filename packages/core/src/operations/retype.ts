import { z } from 'zod';
import type { FieldDeclaration } from '../model/field';
import { asType } from '../model/retype';
import { type Value, valueText } from '../model/value';
import type { FieldRule } from './field-rule';
import { FieldShape } from './field-shape';
import { counted, type Effect, type Operation } from './operation';

const Shapes = z.record(z.string(), FieldShape);
type Shapes = z.infer<typeof Shapes>;

/** What became of the values of one field: how many are none of its type, were cut and were rounded, and the first of those that are none. */
export interface Retyping {
  unfit: number;
  first: string[];
  cut: number;
  rounded: number;
}

/** Values that are told as examples, and characters of one. */
const TOLD = 2,
  TOLD_CHARACTERS = 30;

const TYPE_WORDS: Record<FieldShape['type'], string> = {
  text: 'text',
  integer: 'whole number',
  decimal: 'number',
  boolean: 'truth value',
  date: 'date',
  time: 'time of day',
  datetime: 'date with a time',
};

/** Makes the values of fields into another type, cuts texts and rounds numbers, and declares the fields so. */
export const retype: Operation<Shapes, { fields: Record<string, Retyping> }, { fields?: Readonly<Record<string, FieldRule>> | undefined }> =
  {
    id: 'retype',
    scope: 'record',
    schema: Shapes,
    parameters(layer, rules) {
      const shaped = Object.entries(rules[layer]?.fields ?? {}).flatMap(([name, { shape }]) => (shape ? [[name, shape] as const] : []));
      return shaped.length > 0 ? Object.fromEntries(shaped) : undefined;
    },
    sentence: (shapes) =>
      Object.entries(shapes)
        .map(([name, { type, width, decimals }]) => {
          const room = [
            ...(width === undefined ? [] : [type === 'text' ? `at most ${counted(width, 'character')}` : `width ${width}`]),
            ...(decimals === undefined ? [] : [counted(decimals, 'decimal')]),
          ];
          return `${name} is a ${TYPE_WORDS[type]}${room.length > 0 ? ` (${room.join(', ')})` : ''}`;
        })
        .join(', '),
    tally: () => ({ fields: {} }),
    stage(shapes, _context, tally) {
      const fields = Object.entries(shapes).map(([name, shape]) => ({
        name,
        shape,
        declaration: declarationOf(shape),
        counts: (tally.fields[name] ??= { unfit: 0, first: [], cut: 0, rounded: 0 }),
      }));
      return {
        *apply(batch) {
          const columns = new Map(batch.columns);
          const declared = new Map(batch.declared);
          for (const { name, shape, declaration, counts } of fields) {
            const column = columns.get(name);
            if (column)
              columns.set(
                name,
                column.map((value) => (value === null ? null : shaped(value, shape, counts))),
              );
            if (column || declared.has(name)) declared.set(name, declaration);
          }
          yield { ...batch, columns, declared };
        },
      };
    },
    effects: ({ fields }) => Object.entries(fields).flatMap(([name, counts]) => effectsOn(name, counts)),
  };

const declarationOf = ({ type, width, decimals }: FieldShape): FieldDeclaration => ({
  type,
  ...(width === undefined ? {} : { width }),
  ...(decimals === undefined || type !== 'decimal' ? {} : { decimals }),
});

function shaped(value: Exclude<Value, null>, { type, width, decimals }: FieldShape, counts: Retyping): Value {
  const made = asType(value, type);
  if (made === undefined) {
    counts.unfit++;
    if (counts.first.length < TOLD) {
      const text = valueText(value);
      counts.first.push(text.length > TOLD_CHARACTERS ? `${text.slice(0, TOLD_CHARACTERS)}…` : text);
    }
    return null;
  }
  if (typeof made === 'string' && type === 'text' && width !== undefined && made.length > width) {
    const characters = [...made];
    if (characters.length <= width) return made;
    counts.cut++;
    return characters.slice(0, width).join('');
  }
  const rounded = type === 'decimal' && typeof made === 'number' && decimals !== undefined ? Number(made.toFixed(decimals)) : made;
  if (rounded !== made || (type === 'integer' && isFraction(value))) counts.rounded++;
  return rounded;
}

const isFraction = (value: Value): boolean =>
  (typeof value === 'number' || typeof value === 'string') && !Number.isInteger(Number(String(value).replace(',', '.')));

function effectsOn(name: string, { unfit, first, cut, rounded }: Retyping): Effect[] {
  const told = (code: string, count: number, message: string): Effect[] =>
    count > 0 ? [{ effect: 'told', loses: true, code, count, message }] : [];
  return [
    ...told(
      'not-of-type',
      unfit,
      `${counted(unfit, 'value')} of ${name} ${unfit === 1 ? 'is' : 'are'} not of its type and ${unfit === 1 ? 'is' : 'are'} left empty ` +
        `(${first.map((v) => `“${v}”`).join(', ')}${unfit > first.length ? ', …' : ''})`,
    ),
    ...told('cut-by-rule', cut, `${counted(cut, 'text')} of ${name} ${cut === 1 ? 'is' : 'are'} cut to its width, as set in Shape`),
    ...told(
      'rounded-by-rule',
      rounded,
      `${counted(rounded, 'number')} of ${name} ${rounded === 1 ? 'is' : 'are'} rounded, as set in Shape`,
    ),
  ];
}
