import { Box, Grid } from '@chakra-ui/react';
import { grouped } from '../components/numbers';
import { Mono, Muted } from '../components/parts';

/** Units that the name of a figure ends with, and the decimals that are worth printing. */
const UNITS: readonly { ends: string; unit: string; decimals: number }[] = [
  { ends: '_m3', unit: 'm³', decimals: 1 },
  { ends: '_m2', unit: 'm²', decimals: 1 },
  { ends: '_m', unit: 'm', decimals: 3 },
];

/** "cutArea_m2" as "Cut area". */
function nameOf(figure: string): string {
  const words = figure.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** What came of an operation, in figures; those that are nought are left out. */
export function FigureList({ figures }: { figures: Readonly<Record<string, number>> }) {
  const shown = Object.entries(figures).filter(([, value]) => value !== 0);
  return (
    <Box px="14px" pt="8px" maxH="168px" overflowY="auto" scrollbarWidth="thin" flex="none" tabIndex={0} role="region" aria-label="Figures">
      {shown.map(([figure, value]) => {
        const of = UNITS.find(({ ends }) => figure.endsWith(ends));
        return (
          <Grid key={figure} templateColumns="1fr auto" minH="21px" alignItems="center">
            <Muted>{nameOf(of ? figure.slice(0, -of.ends.length) : figure)}</Muted>
            <Mono>{of ? `${grouped(value, of.decimals)} ${of.unit}` : grouped(value)}</Mono>
          </Grid>
        );
      })}
    </Box>
  );
}
