import { Box, Button, Flex, Grid } from '@chakra-ui/react';
import { unitSymbol } from '@pontrel/core/crs/crs';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import type { Deliverable, ImageSettings } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { formatOptions, writeOptions } from '@pontrel/core/formats/options';
import type { Resampling } from '@pontrel/core/raster/resample';
import { useCrossing } from '../crossing/use-crossing';
import { parseLength } from '@pontrel/core/io/length-text';
import { bytes, plural } from '../components/numbers';
import { Choice, Muted, Select } from '../components/parts';
import { TypedText } from '../components/Typed';
import { useCrsQuery } from '../state/api';
import { AreaChoice, polygonLayers } from './AreaChoice';
import { setArea, DeliverableName, TargetSystem, useEditDeliverable } from './DeliverableHead';
import { FormatOptions } from './FormatOptions';
import { ImageSources } from './ImageSources';
import { MapOptions } from './MapOptions';
import { PLAIN } from './plain-image';
import { PixelSize, setPixelSize } from './PixelSize';
import { usualScale } from './usual-scale';
import { QualityInput } from './QualityInput';

const RESAMPLINGS: { value: Resampling; label: string }[] = [
  { value: 'bilinear', label: 'Bilinear' },
  { value: 'cubic', label: 'Cubic' },
  { value: 'nearest', label: 'Nearest pixel' },
  { value: 'average', label: 'Average, for shrinking' },
  { value: 'mode', label: 'Most frequent, for classes' },
];

/** How a split may be said. */
const SPLIT = /^\s*\d+(\.\d+)?\s*([x×]\s*\d+(\.\d+)?\s*(px|m|km)?|(px|m|km))\s*$/i;

/** What an image is made of, where it lies, how large its pixels are, and how it is packed. */
export function ImageOptions({
  deliverable: d,
  forecast,
  quality,
  larger,
  onDraw,
}: {
  deliverable: Deliverable;
  forecast: ImageForecast | undefined;
  /** The quality that keeps the files under the size that is asked for; null where none does. */
  quality: number | null | undefined;
  /** Pixels that keep them under it, where nothing else does. */
  larger: [number, number] | null;
  onDraw(): void;
}) {
  const crossing = useCrossing();
  const edit = useEditDeliverable(d);
  const { data: crs } = useCrsQuery(d.crs);
  const image = d.image ?? PLAIN;
  const images = crossing.sources.filter((s) => s.images);
  const hasRecords = crossing.sources.some((s) => !s.images);
  const format = anyFormatById(d.format)!;
  const values = formatOptions(format, d.options);
  const hasQuality = writeOptions(format).some((o) => o.id === 'quality' && (!o.when || o.when(values)));
  const set = (label: string, how: (settings: ImageSettings) => void): void =>
    edit(label, (x) => {
      x.image ??= { ...PLAIN };
      how(x.image);
    });
  const layers = polygonLayers(crossing);
  const chosen = image.sources ?? images.map((s) => s.name);
  const polygons = d.area?.kind === 'drawn' || d.area?.kind === 'layer';
  return (
    <Box px="16px" pt="10px" pb="10px" borderBottomWidth="1px" borderColor="hairline" flex="0 1 auto" minH="160px" overflowY="auto">
      <DeliverableName deliverable={d} edit={edit} />
      <Grid templateColumns="110px minmax(0, 1fr)" rowGap="6px" alignItems="center">
        <TargetSystem deliverable={d} edit={edit} />
        {(images.length > 1 || (image.drawn && images.length > 0)) && (
          <>
            <Muted>Made of</Muted>
            <ImageSources
              label="Images that it is made of"
              each="Made of"
              names={images.map((i) => i.name)}
              chosen={chosen}
              onChange={(sources) => set(`images of ${d.name}`, (x) => void (x.sources = sources))}
            />
          </>
        )}
        {hasRecords && (
          <>
            <Muted>Records</Muted>
            <MapOptions
              drawn={image.drawn}
              optional={images.length > 0}
              usual={() => usualScale(crossing)}
              size={forecast?.info}
              onChange={(drawn) =>
                set(drawn ? `scale of ${d.name}` : `records on ${d.name}`, (x) => {
                  if (drawn) x.drawn = drawn;
                  else delete x.drawn;
                })
              }
            />
          </>
        )}
        {(forecast?.sources.length ?? 0) > 1 && (
          <>
            <Muted>Overlaps</Muted>
            <Flex align="center" gap="10px" wrap="wrap">
              <Select
                label="Which image gives a pixel that several have"
                width="170px"
                value={image.first ?? 'order'}
                options={[
                  { value: 'order', label: 'The upper image' },
                  { value: 'newest', label: 'The newest image' },
                  { value: 'centre', label: 'The nearest middle' },
                ]}
                onChange={(first) =>
                  set(`overlaps of ${d.name}`, (x) => {
                    if (first === 'order') delete x.first;
                    else x.first = first;
                  })
                }
              />
              <Muted>blended over</Muted>
              <TypedText
                label="Width over which images are blended, metres"
                value={`${image.feather_m ?? 0} m`}
                width="76px"
                fault={(text) => (lengthOf(text) === null ? 'A length is wanted, such as 5 m; 0 for a hard edge.' : null)}
                onChange={(text) =>
                  set(`blending of ${d.name}`, (x) => {
                    const length = lengthOf(text)!;
                    if (length > 0) x.feather_m = length;
                    else delete x.feather_m;
                  })
                }
              />
            </Flex>
          </>
        )}
        <Muted>Area</Muted>
        <Flex align="center" gap="8px" minW="0" wrap="wrap">
          <AreaChoice crossing={crossing} sources={crossing.sources} area={d.area} onDraw={onDraw} onChange={setArea(d, edit)} />
          {polygons && (
            <Choice<'nothing' | 'stays'>
              small
              label="Beyond the area"
              value={image.outside ?? 'nothing'}
              onChange={(outside) => set(`what lies beyond the area of ${d.name}`, (x) => void (x.outside = outside))}
              options={[
                { value: 'nothing', label: 'Cut to it' },
                { value: 'stays', label: 'Its box' },
              ]}
            />
          )}
        </Flex>
        {!image.drawn && (
          <>
            <Muted>Pixel</Muted>
            <PixelSize
              key={d.id}
              size={image.pixelSize}
              crs={crs}
              native={forecast?.pixelSize}
              onChange={(size) => set(`pixel size of ${d.name}`, (x) => setPixelSize(x, size))}
            />
          </>
        )}
        <Muted>Files</Muted>
        <Flex align="center" gap="10px" wrap="wrap">
          <Choice<FilesBy>
            small
            label="One file or tiles"
            value={!image.split ? 'one' : image.split.areas ? 'areas' : 'tiles'}
            onChange={(how) =>
              set(`files of ${d.name}`, (x) => {
                if (how === 'one') delete x.split;
                else x.split = how === 'tiles' ? { into: '2x2' } : { areas: { ...mostAreas(layers).value } };
              })
            }
            options={[
              { value: 'one', label: 'One' },
              { value: 'tiles', label: 'Tiles' },
              { value: 'areas', label: 'One for each area', disabled: layers.length === 0 },
            ]}
          />
          {image.split?.areas && (
            <SplitByAreas
              areas={image.split.areas}
              layers={layers}
              onChange={(areas) => set(`tiles of ${d.name}`, (x) => void (x.split = { ...x.split, areas }))}
            />
          )}
          {image.split && !image.split.areas && (
            <TypedText
              label="How it is split"
              value={image.split.into ?? ''}
              width="112px"
              fault={(text) => (SPLIT.test(text) ? null : 'Rows by columns (2x3), or a size: 1000 px, 500 m.')}
              onChange={(into) => set(`tiles of ${d.name}`, (x) => void (x.split = { ...x.split, into }))}
            />
          )}
          {image.split && (
            <>
              <Flex align="center" gap="10px">
                <Muted>{image.split.areas ? 'with' : 'overlap'}</Muted>
                <TypedText
                  label="Overlap of the tiles, pixels"
                  value={String(image.split.overlap ?? 0)}
                  width="58px"
                  fault={(text) => (/^\d{1,4}$/.test(text) && Number(text) <= 4096 ? null : 'Pixels, 0 to 4096.')}
                  onChange={(text) => set(`overlap of ${d.name}`, (x) => void (x.split!.overlap = Number(text)))}
                />
                {image.split.areas ? (
                  <Muted>px around</Muted>
                ) : (
                  <Select
                    label="How tiles are named"
                    value={image.split.names ?? 'number'}
                    width="124px"
                    options={[
                      { value: 'number', label: 'numbered' },
                      { value: 'row-column', label: 'row, column' },
                    ]}
                    onChange={(names) => set(`names of the tiles of ${d.name}`, (x) => void (x.split!.names = names))}
                  />
                )}
              </Flex>
              {forecast && <Muted truncate>{plural(forecast.tiles, 'tile')}</Muted>}
            </>
          )}
        </Flex>
        {chosen.length > 0 && (
          <>
            <Muted>Resampling</Muted>
            <Flex align="center" gap="10px">
              <Select
                label="Resampling"
                width="200px"
                value={image.resampling}
                options={RESAMPLINGS}
                onChange={(resampling) => set(`resampling of ${d.name}`, (x) => void (x.resampling = resampling))}
              />
              {forecast && <Muted truncate>{aboutPixels(forecast)}</Muted>}
            </Flex>
          </>
        )}
        {(hasQuality || !image.drawn) && <Muted>{hasQuality ? 'Quality' : 'Size'}</Muted>}
        <Flex align="center" gap="10px" hidden={!hasQuality && image.drawn !== undefined}>
          <Choice<'as it is' | 'under'>
            small
            label={hasQuality ? 'How the quality is chosen' : 'How large the files may be'}
            value={image.under_bytes === undefined ? 'as it is' : 'under'}
            onChange={(how) =>
              set(`${hasQuality ? 'quality' : 'size'} of ${d.name}`, (x) => {
                if (how === 'under') x.under_bytes = 20e6;
                else delete x.under_bytes;
              })
            }
            options={[
              { value: 'as it is', label: hasQuality ? 'Fixed' : 'As it comes' },
              { value: 'under', label: 'Under a size' },
            ]}
          />
          {image.under_bytes === undefined && hasQuality && (
            <QualityInput
              label="Quality"
              quality={Number(values.quality)}
              width="64px"
              onChange={(q) => edit(`quality of ${d.name}`, (x) => void (x.options = { ...x.options, quality: q }))}
            />
          )}
          {image.under_bytes !== undefined && (
            <>
              <TypedText
                label="Largest size"
                value={bytes(image.under_bytes)}
                width="86px"
                fault={(text) => (bytesOf(text) === null ? 'A size is wanted, such as 20 MB.' : null)}
                onChange={(text) => set(`largest size of ${d.name}`, (x) => void (x.under_bytes = bytesOf(text)!))}
              />
              {hasQuality && (
                <Muted>
                  {quality === undefined ? 'working it out' : quality === null ? 'no quality is small enough' : 'gives quality '}
                  {typeof quality === 'number' && <b>{quality}</b>}
                </Muted>
              )}
              {larger && !image.drawn && (
                <Button size="sm" onClick={() => set(`pixel size of ${d.name}`, (x) => setPixelSize(x, larger))}>
                  Pixels of {larger[0]} {crs ? unitSymbol(crs) : ''}
                </Button>
              )}
            </>
          )}
        </Flex>
      </Grid>
      <FormatOptions
        deliverable={d}
        besides={['quality']}
        onChange={(id, label, value) => edit(label, (x) => void (x.options = { ...x.options, [id]: value }))}
      />
    </Box>
  );
}

/** The layer that somebody is likeliest to split by. */
const mostAreas = (layers: ReturnType<typeof polygonLayers>): ReturnType<typeof polygonLayers>[number] =>
  layers.reduce((most, own) => (own.count > most.count ? own : most));

type FilesBy = 'one' | 'tiles' | 'areas';
type Areas = NonNullable<NonNullable<ImageSettings['split']>['areas']>;

/** The layer whose areas are the tiles, and the field that names them. */
function SplitByAreas({
  areas,
  layers,
  onChange,
}: {
  areas: Areas;
  layers: ReturnType<typeof polygonLayers>;
  onChange(areas: Areas): void;
}) {
  const keyOf = ({ source, layer }: { source: string; layer: string }): string => `${source}\n${layer}`;
  const own = layers.find((l) => keyOf(l.value) === keyOf(areas));
  return (
    <>
      <Flex align="center" gap="10px">
        <Muted>of</Muted>
        <Select
          label="The layer whose areas are the tiles"
          width="200px"
          value={keyOf(areas)}
          options={layers.map((l) => ({ value: keyOf(l.value), label: `${l.value.layer} of ${l.value.source}` }))}
          onChange={(value) => onChange({ ...layers.find((l) => keyOf(l.value) === value)!.value })}
        />
      </Flex>
      <Flex align="center" gap="10px">
        <Muted>named by</Muted>
        <Select
          label="The field that names the tiles"
          width="124px"
          value={areas.field ?? ''}
          options={[{ value: '', label: 'a number' }, ...(own?.fields ?? []).map((f) => ({ value: f, label: f }))]}
          onChange={(field) => {
            const { field: _before, ...rest } = areas;
            onChange(field === '' ? rest : { ...rest, field });
          }}
        />
      </Flex>
    </>
  );
}

/** Bytes from "20 MB" or "800 kB"; a bare number is megabytes. Null when it is none. */
function bytesOf(text: string): number | null {
  const match = /^\s*([0-9]*[.,]?[0-9]+)\s*(b|kb|mb|gb)?\s*$/i.exec(text);
  if (!match) return null;
  const value =
    Number(match[1]!.replace(',', '.')) * { b: 1, kb: 1e3, mb: 1e6, gb: 1e9 }[(match[2] ?? 'mb').toLowerCase() as 'b' | 'kb' | 'mb' | 'gb'];
  return value > 0 ? value : null;
}

/** Metres from "5 m" or a bare number; null for what is none. */
function lengthOf(text: string): number | null {
  const length = /^\s*0+\s*(m)?\s*$/.test(text) ? 0 : parseLength(text, 'm');
  return length !== null && length <= 1e5 ? length : null;
}

/** What becomes of pixels on the way, in a line. */
const aboutPixels = ({ samePixels, turned }: ImageForecast): string =>
  samePixels
    ? 'not needed: pixels stay as they are'
    : Math.abs(turned) >= 0.001
      ? `turned by ${turned.toFixed(3).replace('-', '−')}° between the systems`
      : 'pixels are worked out anew';
