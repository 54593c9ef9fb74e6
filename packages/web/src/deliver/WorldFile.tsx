import { Box, Grid } from '@chakra-ui/react';
import type { GridMap } from '@pontrel/core/raster/pixel-grid';
import { Mono, Muted, Section } from '../components/parts';

/** The six lines of a world file, in words. The last two are the centre of the first pixel; common practice, no source. */
export function worldLines(a: GridMap, unit: string): { value: number; says: string }[] {
  const turned = a[2] !== 0 || a[4] !== 0;
  return [
    { value: a[1], says: turned ? 'a column to the right, east' : `pixel width, ${unit} east` },
    { value: a[4], says: turned ? 'a column to the right, north' : 'no row rotation' },
    { value: a[2], says: turned ? 'a row down, east' : 'no column rotation' },
    { value: a[5], says: turned ? 'a row down, north' : 'pixel height, south' },
    { value: a[0] + (a[1] + a[2]) / 2, says: 'E, first pixel centre' },
    { value: a[3] + (a[4] + a[5]) / 2, says: 'N, first pixel centre' },
  ];
}

/** The world file as it is written, line by line. */
export function WorldFile({ name, map, unit }: { name: string; map: GridMap; unit: string }) {
  return (
    <Section
      title="World file"
      aside={
        <Mono fontSize="11.5px" display="block" truncate title={name}>
          {name}
        </Mono>
      }
    >
      <Box bg="sunk" borderWidth="1px" borderColor="hairline" borderRadius="sheet" px="8px" py="5px">
        {worldLines(map, unit).map(({ value, says }, k) => (
          <Grid key={k} templateColumns="14px minmax(0, 1fr) 108px" columnGap="7px" py="1px" alignItems="baseline">
            <Muted textStyle="small">{k + 1}</Muted>
            <Mono fontSize="11.5px" textAlign="right" truncate title={String(value)}>
              {Math.abs(value) < 1 ? value.toFixed(10) : String(Number(value.toFixed(6)))}
            </Mono>
            <Muted textStyle="small" truncate title={says}>
              {says}
            </Muted>
          </Grid>
        ))}
      </Box>
    </Section>
  );
}
