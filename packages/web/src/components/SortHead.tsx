import { Box, chakra } from '@chakra-ui/react';
import { flexRender, type Header } from '@tanstack/react-table';
import { ArrowDown, ArrowUp, ChevronsUpDown } from 'lucide-react';

/** What a header says of the order, for `aria-sort`. */
export function sortOf<T>({ column }: Header<T, unknown>): 'ascending' | 'descending' | 'none' {
  const sorted = column.getIsSorted();
  return sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none';
}

/** What stands in the head of a column: its name, which sorts where it can. */
export function SortHead<T>({ header, end = false }: { header: Header<T, unknown>; end?: boolean }) {
  const { column } = header;
  const name = flexRender(column.columnDef.header, header.getContext());
  if (!column.getCanSort()) return <>{name}</>;
  const sorted = column.getIsSorted();
  const Arrow = sorted === 'asc' ? ArrowUp : sorted === 'desc' ? ArrowDown : ChevronsUpDown;
  // beside the name, where columns have their gap: it takes no room from what stands below
  const beside = end ? { right: '100%', mr: '1px' } : { left: '100%', ml: '1px' };
  return (
    <chakra.button
      type="button"
      position="relative"
      minH="24px"
      color={sorted ? 'ink' : 'inherit'}
      cursor="pointer"
      onClick={column.getToggleSortingHandler()}
      css={{ '&:hover > span, &:focus-visible > span': { opacity: 1 }, '@media (hover: none)': { '& > span': { opacity: 0.7 } } }}
    >
      {name}
      <Box as="span" position="absolute" top="50%" mt="-6px" opacity={sorted ? 1 : 0} {...beside}>
        <Arrow size={12} aria-hidden />
      </Box>
    </chakra.button>
  );
}
