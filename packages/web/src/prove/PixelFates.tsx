import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { accountTotals, type AccountRow } from '@pontrel/core/content/account';
import { grouped } from '../components/numbers';
import { FoldingSection } from '../components/FoldingSection';
import { Mono } from '../components/parts';

const FATES: Record<string, { name: string; color: string }> = {
  kept: { name: 'kept', color: 'verdigris' },
  covered: { name: 'covered by another image', color: 'verdigrisLine' },
  outside: { name: 'outside, left out by you', color: 'line' },
  'image-not-taken': { name: 'image not taken', color: 'hairline' },
  clipped: { name: 'cut off by the drawing', color: 'line' },
  edge: { name: 'at an edge', color: 'ghost' },
  nodata: { name: 'without a value', color: 'amberLine' },
  'no-image': { name: 'beyond the system', color: 'madderLine' },
  missing: { name: 'lost', color: 'madder' },
};

/** What became of every pixel of every source. */
export function PixelFates({ rows }: { rows: readonly AccountRow[] }) {
  const { read, crossed, missing } = accountTotals(rows);
  const counts = new Map<string, number>([['kept', crossed]]);
  for (const row of rows) for (const l of row.left) counts.set(l.reason, (counts.get(l.reason) ?? 0) + l.count);
  counts.set('missing', missing);
  const shown = Object.entries(FATES).flatMap(([key, fate]) => {
    const count = counts.get(key) ?? 0;
    return count > 0 || key === 'kept' || key === 'missing' ? [{ ...fate, key, count }] : [];
  });
  return (
    <FoldingSection name="prove.pixels" title="Account of source pixels" aside={`${grouped(read)} read`}>
      <Flex h="9px" gap="1px" mb="7px" aria-hidden="true">
        {shown.map((f) => f.count > 0 && <Box key={f.key} flexGrow={f.count} flexBasis="0" minW="2px" bg={f.color} borderRadius="2px" />)}
      </Flex>
      {shown.map((f) => (
        <Grid key={f.key} templateColumns="14px minmax(0, 1fr) auto 50px" alignItems="center" py="1.5px">
          <Box w="9px" h="9px" borderRadius="2px" {...(f.count > 0 ? { bg: f.color } : { borderWidth: '1px', borderColor: f.color })} />
          <Text truncate>{f.name}</Text>
          <Mono fontSize="11.5px">{grouped(f.count)}</Mono>
          <Mono fontSize="11.5px" color="muted" textAlign="right">
            {f.count > 0 ? `${((100 * f.count) / read).toFixed(f.count / read < 0.001 ? 3 : 1)} %` : ''}
          </Mono>
        </Grid>
      ))}
    </FoldingSection>
  );
}
