import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import type { PictureSizes } from '@pontrel/contract/pictures';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { unitSymbol } from '@pontrel/core/crs/crs';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { formatOptions } from '@pontrel/core/formats/options';
import { bytes, grouped, plural } from '../components/numbers';
import { Mono, Muted, Note, Scroll, Section } from '../components/parts';
import { useCardsQuery, useCrsQuery } from '../state/api';
import { CardSection, checksFor } from './CardSection';
import { RunControls } from './RunControls';
import { SizeCurve, UNCERTAIN } from './SizeCurve';
import { WorldFile } from './WorldFile';

/** Files that are listed by name. */
const LISTED = 24;

/** What will become of an image, how large its files will be, and the run. */
export function ImageRunPanel({
  deliverable: d,
  forecast,
  sizes,
  waiting,
}: {
  deliverable: Deliverable;
  forecast: ImageForecast;
  sizes: PictureSizes | undefined;
  /** Whether the quality is still being worked out. */
  waiting: boolean;
}) {
  const { data: crs } = useCrsQuery(d.crs);
  const { info, files, findings, blocked } = forecast;
  const unit = crs ? unitSymbol(crs) : '';
  const { quality } = formatOptions(anyFormatById(d.format)!, d.options);
  const world = files.find((f) => /w$/.test(f) && !f.endsWith('.dxf'));
  const limit = d.image?.under_bytes;
  const { data: cards = [] } = useCardsQuery();
  const card = cards.find((c) => c.name === d.image?.card);
  const refused = checksFor(card, d, forecast, sizes).some((c) => c.how !== null);
  return (
    <>
      <Scroll>
        <Section title="Forecast" aside="before running">
          <Grid templateColumns="72px minmax(0, 1fr)" rowGap="2px">
            <Muted>Pixels</Muted>
            <Mono textAlign="right" fontSize="11.5px">
              {grouped(info.width)} × {grouped(info.height)} = {grouped(info.width * info.height)}
            </Mono>
            <Muted>Bands</Muted>
            <Mono textAlign="right" fontSize="11.5px">
              {info.bands} of {info.sampleType}
            </Mono>
            <Muted>Size</Muted>
            <Mono
              textAlign="right"
              fontSize="11.5px"
              fontWeight={650}
              color={limit !== undefined && sizes && sizes.bytes > limit ? 'madderInk' : 'ink'}
            >
              {sizes ? `${bytes(sizes.bytes)} ± ${bytes(sizes.bytes * UNCERTAIN)}` : 'working it out'}
              {limit !== undefined && <Muted fontWeight={400}>, limit {bytes(limit)}</Muted>}
            </Mono>
          </Grid>
          {sizes && sizes.curve.length > 1 && typeof quality === 'number' && (
            <>
              <SizeCurve sizes={sizes} quality={quality} limit={limit} />
              <Muted textStyle="small">MB by quality, from {plural(sizes.pieces, 'piece')} of it that were packed</Muted>
            </>
          )}
          {blocked.map((b) => (
            <Note key={b} tone="wrong" mt="8px">
              {b}
            </Note>
          ))}
          {findings.map((f) => (
            <Note key={f.code} tone={f.severity === 'wrong' ? 'wrong' : f.severity === 'caution' ? 'caution' : 'good'} mt="8px">
              {f.message}
            </Note>
          ))}
        </Section>
        {world && <WorldFile name={world} map={forecast.map} unit={unit} />}
        <CardSection deliverable={d} forecast={forecast} sizes={sizes} />
        <Section title="Files to be written" aside={files.length > LISTED ? `${grouped(files.length)}, the first of them` : undefined}>
          {files.slice(0, LISTED).map((f) => (
            <Box key={f} py="2px">
              <Mono truncate display="block" title={f}>
                {f}
              </Mono>
            </Box>
          ))}
        </Section>
        <Section title="Outer edges" aside={unit}>
          <Grid templateColumns="46px 1fr 1fr" rowGap="2px" columnGap="8px">
            {(
              [
                ['East', forecast.extent[0], forecast.extent[2]],
                ['North', forecast.extent[1], forecast.extent[3]],
              ] as const
            ).map(([name, a, b]) => (
              <Flex key={name} display="contents">
                <Muted>{name}</Muted>
                <Mono textAlign="right" fontSize="11.5px">
                  {a.toFixed(unit === 'm' ? 3 : 8)}
                </Mono>
                <Mono textAlign="right" fontSize="11.5px">
                  {b.toFixed(unit === 'm' ? 3 : 8)}
                </Mono>
              </Flex>
            ))}
          </Grid>
          {forecast.sources.length > 1 && (
            <Text mt="6px" textStyle="small" color="muted">
              Made of {plural(forecast.sources.length, 'image')}, {forecast.sources[0]!.name} on top
            </Text>
          )}
        </Section>
      </Scroll>
      <RunControls deliverable={d} blocked={blocked.length > 0 || waiting || refused} card={card?.name} />
    </>
  );
}
