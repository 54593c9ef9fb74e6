import { useState } from 'react';
import { Box, Grid } from '@chakra-ui/react';
import { type ColumnDef, flexRender, getCoreRowModel, getSortedRowModel, type SortingState, useReactTable } from '@tanstack/react-table';
import type { CrossingRow } from '@pontrel/contract/crossing';
import { SortHead, sortOf } from '../components/SortHead';
import { standingOf } from './crossing-states';
import { DamagedCrossing, InAndOut, Last, Named, Opened, Plan, Proof, RowActions, StagesCell, SystemCell } from './cells';

/** Stages that are done, and how its proofs stand: what sorts by progress. */
const progress = (r: CrossingRow): number => {
  const { states } = standingOf(r);
  return states.filter((s) => s === 'done').length;
};

/** How much of what was read could not be carried, and then whether it is run at all. */
const proofOrder = (r: CrossingRow): number =>
  standingOf(r).ran === 0 ? -1 : r.runs.differs > 0 ? 0 : r.account ? r.account.crossed / Math.max(1, r.account.read) : 1;

const COLUMNS: ColumnDef<CrossingRow>[] = [
  { id: 'plan', header: 'Plan', enableSorting: false, cell: ({ row }) => <Plan row={row.original} /> },
  { id: 'name', header: 'Crossing', accessorFn: (r) => r.name.toLowerCase(), cell: ({ row }) => <Named row={row.original} /> },
  {
    id: 'frame',
    header: 'Reference frame',
    accessorFn: (r) => r.frame?.label ?? '',
    cell: ({ row }) => <SystemCell row={row.original} />,
  },
  { id: 'records', header: 'In and out', accessorFn: (r) => r.records, cell: ({ row }) => <InAndOut row={row.original} /> },
  { id: 'stages', header: 'Stages', accessorFn: progress, cell: ({ row }) => <StagesCell row={row.original} /> },
  { id: 'proof', header: 'Last proof, account', accessorFn: proofOrder, cell: ({ row }) => <Proof row={row.original} /> },
  { id: 'opened', header: 'Opened', accessorFn: (r) => r.opened, cell: ({ row }) => <Opened row={row.original} /> },
  { id: 'more', header: '', enableSorting: false, cell: ({ row }) => <RowActions row={row.original} /> },
];

/** Widths of the columns; at the narrowest the stages give way, which the proof and the link say as well. */
const WIDTHS = {
  base: '62px minmax(150px, 1.5fr) minmax(104px, 1fr) 104px 122px 150px 62px 26px',
  xl: '62px minmax(150px, 1.5fr) minmax(112px, 1fr) 112px 120px 148px 62px 26px',
  '2xl': '62px minmax(180px, 1.5fr) minmax(160px, 1fr) 130px 132px 190px 78px 28px',
};

/** The crossings, a row each, sorted by what is clicked. */
export function CrossingTable({ rows }: { rows: CrossingRow[] }) {
  const [sorting, setSorting] = useState<SortingState>([{ id: 'opened', desc: true }]);
  const table = useReactTable({
    data: rows,
    columns: COLUMNS,
    state: { sorting },
    onSortingChange: setSorting,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getRowId: (r) => r.id,
    // text rises first, dates and figures fall first
    sortDescFirst: false,
  });
  const line = { templateColumns: WIDTHS, gap: '12px', px: '10px', alignItems: 'center' } as const;
  return (
    <Box role="table" aria-label="Crossings">
      {table.getHeaderGroups().map((group) => (
        <Grid
          key={group.id}
          role="row"
          {...line}
          h="30px"
          position="sticky"
          top="0"
          bg="surface"
          zIndex="1"
          fontSize="11.5px"
          color="muted"
          fontWeight={550}
          borderBottomWidth="1px"
          borderColor="line"
        >
          {group.headers.map((header) => (
            <Box key={header.id} role="columnheader" aria-sort={sortOf(header)} whiteSpace="nowrap">
              <SortHead header={header} />
            </Box>
          ))}
        </Grid>
      ))}
      {table.getRowModel().rows.map((row) => (
        <Grid
          key={row.id}
          role="row"
          {...line}
          h="52px"
          position="relative"
          borderBottomWidth="1px"
          borderColor="hairline"
          _last={{ borderBottomWidth: 0 }}
          _hover={{ bg: 'verdigrisTint/50' }}
        >
          {row.original.damaged === null
            ? row.getVisibleCells().map((cell) => (
                <Box key={cell.id} role="cell" minW="0">
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </Box>
              ))
            : [<DamagedCrossing key="damaged" row={row.original} />, <Last key="more" row={row.original} />]}
        </Grid>
      ))}
    </Box>
  );
}
