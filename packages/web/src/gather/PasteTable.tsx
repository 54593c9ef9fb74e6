import { Box, Button, Flex, Input, Text, Textarea } from '@chakra-ui/react';
import { useForm } from 'react-hook-form';
import { useTakeFiles } from '../app/files';
import { plural } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { Muted } from '../components/parts';
import { asTable } from './pasted-table';

/** A table of corner points, or any other, typed or pasted: it becomes a source like a file. */
export function PasteTable({
  open,
  others,
  pasted = '',
  onClose,
  onTaken,
}: {
  open: boolean;
  others: readonly string[];
  /** What was pasted before it opened. */
  pasted?: string;
  onClose(): void;
  onTaken?(file: string): void;
}) {
  const take = useTakeFiles();
  const { register, handleSubmit, watch, setValue } = useForm({ defaultValues: { name: 'corners', text: pasted } });
  const table = asTable(watch('text'));
  const submit = handleSubmit(({ name }) => {
    onClose();
    setValue('text', '');
    const stem = name.trim().replace(/[\\/:*?"<>|]+/g, '_') || 'corners';
    let file = `${stem}.csv`;
    for (let n = 2; others.includes(file); n++) file = `${stem} ${n}.csv`;
    onTaken?.(file);
    void take([new File([table.text], file, { type: 'text/csv' })]);
  });
  return (
    <PaperDialog open={open} onClose={() => onClose()} title="Type or paste a table" width="640px">
      <Muted display="block" mb="8px">
        One row a line: a corner with its two coordinates, and what else there is to it. Values lie between commas, semicolons, tabs or
        blanks; the first row may name the columns. Which column is which, and what the rows make, is chosen next.
      </Muted>
      <Flex align="center" gap="8px" mb="8px">
        <Text w="60px" color="muted">
          Name
        </Text>
        <Input aria-label="Name of the table" {...register('name')} w="220px" h="28px" />
      </Flex>
      <Textarea
        aria-label="Rows of the table"
        {...register('text')}
        rows={11}
        fontFamily="mono"
        fontSize="12.5px"
        lineHeight="18px"
        borderColor="line"
        borderRadius="sheet"
        placeholder={'no  easting     northing\n1   1464012.40  5101530.25\n2   1464044.10  5101527.90\n3   1464041.75  5101496.00'}
      />
      <Flex align="center" justify="space-between" mt="10px">
        <Box aria-live="polite">
          <Muted>{table.rows === 0 ? 'No row yet' : `${plural(table.rows, 'row')} of ${plural(table.columns, 'column')}`}</Muted>
          {table.odd && (
            <Text color="amberInk" textStyle="small">
              Line {table.odd.line} has {plural(table.odd.values, 'value')}: is a blank or a separator one too many?
            </Text>
          )}
        </Box>
        <Box>
          <Button variant="solid" disabled={table.rows < 1 || table.columns < 2} onClick={() => void submit()}>
            Take it in
          </Button>
        </Box>
      </Flex>
    </PaperDialog>
  );
}
