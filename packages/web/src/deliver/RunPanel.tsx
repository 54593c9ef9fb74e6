import { Box, Flex, Text } from '@chakra-ui/react';
import { FileText, Image as ImageIcon } from 'lucide-react';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import { bytes } from '../components/numbers';
import { ICON, Mono, Muted, Scroll } from '../components/parts';
import { RunControls } from './RunControls';

/** The files that a run will write, and the run. */
export function RunPanel({
  deliverable,
  forecast,
  picture,
  stopped,
}: {
  deliverable: Deliverable;
  forecast: Forecast;
  /** What becomes of the images below its records. */
  picture: ImageForecast | undefined;
  /** Whether these cannot be had. */
  stopped: boolean;
}) {
  const groups = new Map<string, { name: string; bytes: number; more: number }>();
  for (const file of forecast.files) {
    const stem = file.name.replace(/\.[^.]+$/, '');
    const known = groups.get(stem);
    if (known) {
      known.bytes += file.bytes;
      known.more++;
    } else groups.set(stem, { name: file.name, bytes: file.bytes, more: 0 });
  }
  return (
    <>
      <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="6px">
        <Text as="h2" textStyle="title">
          Files to be written
        </Text>
        <Muted textStyle="small">about {bytes(forecast.files.reduce((n, f) => n + f.bytes, 0))}</Muted>
      </Flex>
      <Scroll px="14px" tabIndex={0} role="region" aria-label="List of files">
        {[...groups.values()].map((g) => (
          <Flex key={g.name} align="center" gap="8px" h="25px" borderBottomWidth="1px" borderColor="hairline">
            <Box color="muted">
              <FileText {...ICON} size={14} />
            </Box>
            <Mono flex="1" truncate title={g.name}>
              {g.name}
            </Mono>
            {g.more > 0 && <Muted textStyle="small">+{g.more}</Muted>}
            <Mono color="muted" minW="52px" textAlign="right">
              {bytes(g.bytes)}
            </Mono>
          </Flex>
        ))}
        {picture && (
          <Flex align="center" gap="8px" h="25px" borderBottomWidth="1px" borderColor="hairline" title={picture.files.join(', ')}>
            <Box color="muted">
              <ImageIcon {...ICON} size={14} />
            </Box>
            <Mono flex="1" truncate>
              {picture.files[0]}
            </Mono>
            {picture.files.length > 1 && <Muted textStyle="small">+{picture.files.length - 1}</Muted>}
          </Flex>
        )}
        {groups.size === 0 && <Muted>No file would be written: no record crosses.</Muted>}
      </Scroll>
      <RunControls
        deliverable={deliverable}
        blocked={forecast.blocked.length > 0 || groups.size === 0 || stopped || (picture?.blocked.length ?? 0) > 0}
      />
    </>
  );
}
