import { useMemo, useState } from 'react';
import { Box, Flex, Text } from '@chakra-ui/react';
import {
  type ColumnDef,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  type SortingState,
  useReactTable,
} from '@tanstack/react-table';
import { Link } from 'react-router';
import type { Forecast, ForecastRow } from '@pontrel/core/content/features/forecast';
import type { Effect } from '@pontrel/core/operations/operation';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, plural } from '../components/numbers';
import { Choice, FateBar, Mono, Muted } from '../components/parts';
import { SortHead, sortOf } from '../components/SortHead';
import { recordsOf } from '../records/address';
import { excludedIn, excludedOf, lostOf } from './fates';

/** What could not be carried; what a person left out is not lost. */
const isLost = (e: Effect): boolean => e.effect === 'left' && e.by !== 'you';

const ORDER = { left: 0, changed: 1, told: 2 } as const;

/** Rows that are shown, by what became of some of their records. */
const SHOWN = {
  all: { name: 'All', has: () => true },
  changed: { name: 'Changed', has: (r: ForecastRow) => r.changed > 0 },
  out: { name: 'Left out', has: (r: ForecastRow) => excludedOf(r) > 0 },
  lost: { name: 'Not carried', has: (r: ForecastRow) => lostOf(r) > 0 },
} as const;
type Shown = keyof typeof SHOWN;

/** A figure; none is grey. */
function Figure({ n, color }: { n: number; color: string }) {
  return <Muted color={n === 0 ? 'muted' : color}>{grouped(n)}</Muted>;
}

/** Records that are not carried cannot be overlooked. */
function Lost({ n }: { n: number }) {
  if (n === 0) return <Muted>0</Muted>;
  return (
    <Box as="span" color="madderInk" fontWeight={700} bg="madderTint" px="6px" py="1px" borderRadius="chip">
      {grouped(n)}
    </Box>
  );
}

function Reasons({ row }: { row: ForecastRow }) {
  const reasons = [...row.effects].sort((a, b) => ORDER[a.effect] - ORDER[b.effect]);
  return (
    <>
      {reasons.map((e) => (
        <Text key={e.code + e.message} textStyle="small" color={isLost(e) ? 'madderInk' : 'muted'} fontWeight={isLost(e) ? 550 : 400}>
          {e.message}
          {e.by === 'you' && ' (left out by you)'}
        </Text>
      ))}
    </>
  );
}

const columnsOf = (crossing: string): ColumnDef<ForecastRow>[] => [
  {
    id: 'layer',
    header: 'Layer',
    accessorFn: (r) => r.layer.toLowerCase(),
    sortDescFirst: false,
    cell: ({ row: { original: r } }) => (
      <Link to={recordsOf(crossing, r.source, r.layer)} title={`The records of ${r.layer} of ${r.source}`}>
        <Mono whiteSpace="nowrap" _hover={{ textDecoration: 'underline' }}>
          {r.layer}
        </Mono>
      </Link>
    ),
  },
  { id: 'records', header: 'Read', accessorFn: (r) => r.records, cell: ({ row }) => grouped(row.original.records) },
  {
    id: 'shares',
    header: 'Account',
    // what cannot be carried first, then what is not as it was
    accessorFn: (r) => lostOf(r) * 1e9 + (r.changed + excludedOf(r)) / Math.max(1, r.records),
    cell: ({ row: { original: r } }) => (
      <FateBar unchanged={r.unchanged} changed={r.changed} excluded={excludedOf(r)} left={lostOf(r)} height={7} />
    ),
  },
  {
    id: 'unchanged',
    header: 'Unchanged',
    accessorFn: (r) => r.unchanged,
    cell: ({ row }) => <Figure n={row.original.unchanged} color="ink" />,
  },
  {
    id: 'changed',
    header: 'Changed',
    accessorFn: (r) => r.changed,
    cell: ({ row }) => <Figure n={row.original.changed} color="amberInk" />,
  },
  { id: 'out', header: 'Left out', accessorFn: excludedOf, cell: ({ row }) => <Figure n={excludedOf(row.original)} color="ink" /> },
  { id: 'lost', header: 'Not carried', accessorFn: lostOf, cell: ({ row }) => <Lost n={lostOf(row.original)} /> },
  { id: 'reasons', header: 'Reasons', enableSorting: false, cell: ({ row }) => <Reasons row={row.original} /> },
];

const NUMBERS: ReadonlySet<string> = new Set(['records', 'unchanged', 'changed', 'out', 'lost']);
const WIDTHS: Readonly<Record<string, string>> = { shares: '15%', reasons: '38%' };

/** What becomes of the records of each layer: unchanged, changed, left out by a person, or not carried, and why. */
export function AccountTable({ forecast: f }: { forecast: Forecast }) {
  const { id } = useCrossing();
  const [shown, setShown] = useState<Shown>('all');
  const [sorting, setSorting] = useState<SortingState>([]);
  const columns = useMemo(() => columnsOf(id), [id]);
  const table = useReactTable({
    data: f.rows,
    columns,
    state: { sorting, globalFilter: shown },
    onSortingChange: setSorting,
    globalFilterFn: (row, _column, wanted: Shown) => SHOWN[wanted].has(row.original),
    getColumnCanGlobalFilter: () => true,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getRowId: (r) => `${r.source}\n${r.layer}`,
  });
  const excluded = excludedIn(f),
    lost = f.totals.left - excluded;
  return (
    <>
      <Flex align="center" gap="14px" wrap="wrap" mb="2px">
        <Legend color="verdigris" n={f.totals.unchanged} name="unchanged" />
        <Legend color="amberLine" n={f.totals.changed} name="changed" />
        <Legend color="ghost" n={excluded} name="left out by you" />
        <Legend color="madder" n={lost} name="not carried" />
        <Box flex="1" />
        <Choice<Shown>
          small
          label="Which layers are listed"
          value={shown}
          options={(Object.keys(SHOWN) as Shown[]).map((value) => ({
            value,
            label: SHOWN[value].name,
            disabled: !f.rows.some(SHOWN[value].has),
          }))}
          onChange={setShown}
        />
      </Flex>
      <table aria-label="Forecast">
        <Box asChild position="sticky" top="0" bg="paper" zIndex="1">
          <thead>
            {table.getHeaderGroups().map((group) => (
              <tr key={group.id}>
                {group.headers.map((header) => (
                  <th
                    key={header.id}
                    className={NUMBERS.has(header.id) ? 'number' : undefined}
                    style={{ width: WIDTHS[header.id] }}
                    aria-sort={sortOf(header)}
                  >
                    <SortHead header={header} end={NUMBERS.has(header.id)} />
                  </th>
                ))}
              </tr>
            ))}
          </thead>
        </Box>
        <tbody>
          {table.getRowModel().rows.map((row) => (
            <tr key={row.id}>
              {row.getVisibleCells().map((cell) => (
                <td key={cell.id} className={NUMBERS.has(cell.column.id) ? 'number' : undefined}>
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
        <Box asChild fontWeight={650} css={{ '& td': { borderTop: '1px solid', borderTopColor: 'ink', borderBottom: 0 } }}>
          <tfoot>
            <tr>
              <td>{plural(f.rows.length, 'layer')}</td>
              <td className="number">{grouped(f.totals.records)}</td>
              <td>
                <FateBar unchanged={f.totals.unchanged} changed={f.totals.changed} excluded={excluded} left={lost} height={7} />
              </td>
              <td className="number">{grouped(f.totals.unchanged)}</td>
              <td className="number">{grouped(f.totals.changed)}</td>
              <td className="number">{grouped(excluded)}</td>
              <td className="number">
                <Lost n={lost} />
              </td>
              <td />
            </tr>
          </tfoot>
        </Box>
      </table>
    </>
  );
}

function Legend({ color, n, name }: { color: string; n: number; name: string }) {
  return (
    <Flex align="center" gap="6px" whiteSpace="nowrap">
      <Box w="9px" h="9px" borderRadius="2px" bg={color} />
      <Text>
        <Mono fontWeight={600}>{grouped(n)}</Mono> <Muted>{name}</Muted>
      </Text>
    </Flex>
  );
}
