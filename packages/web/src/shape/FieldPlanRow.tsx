import { Box, Flex } from '@chakra-ui/react';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import type { PlannedField } from '@pontrel/core/content/features/plan';
import { RETYPED } from '@pontrel/core/model/retype';
import type { FieldRule } from '@pontrel/core/operations/field-rule';
import type { FieldShape } from '@pontrel/core/operations/field-shape';
import { grouped, plural, shown } from '../components/numbers';
import { Mono, Muted, NativeSelect, Tick, ToneIcon } from '../components/parts';
import { MoveHandle } from '../components/Sorting';
import { TypedText } from '../components/Typed';
import { type FieldRow, MOST_SAMPLES } from './field-rows';
import { ChangedDot } from './Rule';

/** Values of a field that are shown, and characters of all of them but the first. */
const SAMPLES = 3,
  SAMPLE_CHARACTERS = 13;

function Samples({ row }: { row: FieldRow }) {
  return (
    <Box maxW={{ base: '118px', '2xl': '190px' }} truncate title={row.samples.map(String).join(', ')}>
      {fitting(row.samples).map((s, k) => (
        <Box asChild key={k} pl={k > 0 ? '6px' : '0'} ml={k > 0 ? '6px' : '0'} borderLeftWidth={k > 0 ? '1px' : '0'} borderColor="line">
          <Mono color="muted">{shown(s)}</Mono>
        </Box>
      ))}
    </Box>
  );
}

/** The first values, as many as have room beside each other. */
function fitting(samples: FieldRow['samples']): FieldRow['samples'] {
  let room = SAMPLE_CHARACTERS;
  return samples.slice(0, SAMPLES).filter((s, k) => {
    room -= shown(s).length;
    return k === 0 || room >= 0;
  });
}

/** What is said of a field besides its name and room. */
function noteOf(field: PlannedField, records: number, byHand: boolean, samples: number): string {
  const notes = field.changes.filter((c) => c.code !== 'renamed').map((c) => c.note);
  if (field.fault) return field.fault;
  if (notes.length > 0) return notes.join('; ');
  if (field.computed) return 'worked out when it is written';
  if (field.measures) return 'measures (M) of the vertices, as text';
  if (field.follows) return 'follows the placement';
  if (field.filled >= 0 && field.filled < records) return `empty in ${records - field.filled} of ${records}`;
  if (!byHand && field.changes.some((c) => c.code === 'renamed')) return 'shortened to fit';
  if (samples === 1) return 'one value throughout';
  return samples < MOST_SAMPLES ? plural(samples, 'value') : '';
}

/** What all have alike; null where they differ. */
function alike<T>(values: readonly T[]): T | null {
  return values.every((v) => v === values[0]) ? values[0]! : null;
}

const widthText = (f: PlannedField): string => (f.width === 0 ? '' : f.decimals > 0 ? `${f.width}.${f.decimals}` : `${f.width}`);

/** The room of a field: from the least to the most where it has not the same everywhere. */
function widths(fields: readonly PlannedField[]): string {
  const sorted = [...fields].sort((a, b) => a.width - b.width || a.decimals - b.decimals);
  return [...new Set([sorted[0]!, sorted.at(-1)!].map(widthText))].join(' to ');
}

/** Whether its type and room are a person's to choose: those that are worked out, or follow the placement, have their own. */
const isShapeable = (f: PlannedField): boolean => !f.computed && !f.measures && !f.follows;

/** A type with its room as typed, "24", "12.3" or ".3"; null where that is none. */
function typedRoom(text: string, type: FieldShape['type']): Pick<FieldShape, 'width' | 'decimals'> | null {
  const [, width, decimals] = /^(\d{1,5})?(?:\.(\d{1,2}))?$/.exec(text.trim()) ?? [null];
  if (width === undefined && decimals === undefined) return text.trim() === '' ? {} : null;
  if (decimals !== undefined && (type !== 'decimal' || Number(decimals) > 15)) return null;
  if (width !== undefined && (Number(width) < 1 || Number(width) > 65_535)) return null;
  return { ...(width === undefined ? {} : { width: Number(width) }), ...(decimals === undefined ? {} : { decimals: Number(decimals) }) };
}

/** Types whose fields have a width that a person may choose. */
const WITH_ROOM: ReadonlySet<string> = new Set<FieldShape['type']>(['text', 'integer', 'decimal']);

/** How an input looks that is seen as text until it is pointed at. */
const QUIET: { h: string; bg: string; borderColor: string; _hover: { borderColor: string } } = {
  h: '21px',
  bg: 'transparent',
  borderColor: 'transparent',
  _hover: { borderColor: 'line' },
};

/** A field that crosses: moved by its handle; F2 goes to its name. */
export function PlannedRow({
  row,
  of,
  onTake,
  onChange,
}: {
  row: FieldRow;
  /** How many layers are chosen. */
  of: number;
  onTake(on: boolean): void;
  onChange(label: string, how: (own: FieldRule) => void): void;
}) {
  const sorted = useSortable({ id: row.from });
  const fields = row.planned.map((p) => p.field);
  const to = alike(fields.map((f) => f.to));
  const type = alike(fields.map((f) => f.type));
  const fault = fields.find((f) => f.fault)?.fault ?? null;
  const said = row.planned.map((p) => p.of.rule.fields?.[row.from]);
  const byHand = said.some((own) => own?.to !== undefined);
  const shape = alike(said.map((own) => JSON.stringify(own?.shape)));
  const shaped = said.some((own) => own?.shape !== undefined);
  const renamed = fields.some((f) => f.changes.some((c) => c.code === 'renamed'));
  const worries = fields.some((f) => f.changes.some((c) => c.code !== 'renamed'));
  const shapeable = fields.every(isShapeable);
  const layers = new Set(row.planned.map((p) => p.of)).size;
  const notes = new Set(
    row.planned
      .map((p) => noteOf(p.field, p.records, byHand, row.samples.length))
      .filter((n) => n !== '' && (of === 1 || worries || !/value/.test(n))),
  );
  const sum = (of: 'unfit' | 'cut' | 'rounded'): number => row.planned.reduce((n, p) => n + p.retyped[of], 0);
  const [unfit, cut, rounded] = [sum('unfit'), sum('cut'), sum('rounded')];
  const lost = unfit + cut + rounded > 0;
  const note = [
    ...(of > 1 ? [layers === of ? `all ${of}` : `${layers} of ${of}`] : []),
    ...(row.left.length > 0 ? [`left out of ${row.left.length} by you`] : []),
    ...(unfit > 0 ? [`${plural(unfit, 'value')} not of this type`] : []),
    ...(cut > 0 ? [`${grouped(cut)} cut`] : []),
    ...(rounded > 0 ? [`${grouped(rounded)} rounded`] : []),
    ...[...notes].slice(0, 2),
  ].join('; ');
  const onShape = (wanted: FieldShape | undefined): void =>
    onChange('type', (own) => {
      if (wanted) own.shape = wanted;
      else delete own.shape;
    });
  const known = shape === null ? undefined : (JSON.parse(shape ?? 'null') as FieldShape | null);
  const tone = fault ? 'wrong' : worries || lost ? 'caution' : null;
  return (
    <Box
      asChild
      ref={sorted.setNodeRef}
      bg={fault ? 'madderTint' : sorted.isDragging ? 'verdigrisTint' : worries || lost ? 'amberTint' : undefined}
      style={{ transform: CSS.Translate.toString(sorted.transform), transition: sorted.transition }}
    >
      <tr
        onKeyDown={(e) => {
          if (e.key !== 'F2') return;
          const input = e.currentTarget.querySelector<HTMLInputElement>('.name input');
          input?.focus();
          input?.select();
        }}
      >
        <td>
          <Flex align="center" gap="6px">
            <MoveHandle name={row.from} sorted={sorted} />
            <Tick label={`Take ${row.from}`} checked={row.left.length === 0} some onChange={onTake} />
          </Flex>
        </td>
        <td>
          <Mono display="block" maxW="130px" truncate title={row.from}>
            {row.from}
          </Mono>
          {row.prompt !== undefined && (
            <Muted display="block" maxW="130px" truncate textStyle="small" lineHeight="1.2" title={row.prompt}>
              {row.prompt}
            </Muted>
          )}
        </td>
        <td className="values">
          <Samples row={row} />
        </td>
        <td className="name">
          <Flex align="center" gap="5px">
            <ChangedDot changed={byHand} />
            <Box w={{ base: '92px', '2xl': '150px' }}>
              <TypedText
                label={`Name of ${row.from} in the target`}
                value={to ?? ''}
                {...(to === null ? { hint: 'differ' } : {})}
                maxLength={64}
                {...QUIET}
                {...(fault ? { borderColor: 'madder' } : {})}
                fontWeight={renamed ? 600 : 400}
                onChange={(text) =>
                  onChange('name', (own) => {
                    if (text.trim() === '') delete own.to;
                    else own.to = text.trim();
                  })
                }
              />
            </Box>
          </Flex>
        </td>
        <td>
          {shapeable ? (
            <Flex align="center" gap="5px">
              <ChangedDot changed={shaped} />
              <NativeSelect
                aria-label={`Type of ${row.from} in the target`}
                value={type ?? ''}
                px="3px"
                w="84px"
                {...QUIET}
                onChange={(e) => onShape(e.target.value === 'own' ? undefined : { type: e.target.value as FieldShape['type'] })}
              >
                {type === null && <option value="">differ</option>}
                {[...(type !== null && !RETYPED.some((t) => t === type) ? [type] : []), ...RETYPED].map((t) => (
                  <option key={t} value={t}>
                    {t}
                  </option>
                ))}
                {shaped && <option value="own">as its values are</option>}
              </NativeSelect>
            </Flex>
          ) : (
            <Box pl="15px">{type ?? 'differ'}</Box>
          )}
        </td>
        <td className="number">
          {shapeable && type !== null && WITH_ROOM.has(type) ? (
            <TypedText
              label={`Width of ${row.from} in the target`}
              value={widths(fields)}
              width="56px"
              textAlign="right"
              {...QUIET}
              fontWeight={known?.width !== undefined || known?.decimals !== undefined ? 600 : 400}
              fault={(text) =>
                text === widths(fields) || typedRoom(text, type as FieldShape['type'])
                  ? null
                  : type === 'decimal'
                    ? 'Such as 12.3'
                    : 'A whole number'
              }
              onChange={(text) => {
                const room = typedRoom(text, type as FieldShape['type']);
                if (!room) return;
                const bare = Object.keys(room).length === 0;
                onShape(bare && known?.type === undefined ? undefined : { type: type as FieldShape['type'], ...room });
              }}
            />
          ) : (
            widths(fields)
          )}
        </td>
        <td className="note">
          <Flex align="center" gap="6px" minW="0">
            {tone && <ToneIcon tone={tone} size={13} />}
            <Muted className={tone ? '' : 'quiet'} truncate title={note} color={fault ? 'madderInk' : tone ? 'amberInk' : 'muted'}>
              {note}
            </Muted>
          </Flex>
        </td>
      </tr>
    </Box>
  );
}

/** A field that a person leaves out. */
export function LeftRow({ row, onTake }: { row: FieldRow; onTake(): void }) {
  return (
    <tr>
      <td>
        <Box pl="30px">
          <Tick label={`Take ${row.from}`} checked={false} onChange={onTake} />
        </Box>
      </td>
      <td>
        <Mono color="muted">{row.from}</Mono>
      </td>
      <td className="values">
        <Samples row={row} />
      </td>
      <td colSpan={4}>
        <Muted>left out by you</Muted>
      </td>
    </tr>
  );
}
