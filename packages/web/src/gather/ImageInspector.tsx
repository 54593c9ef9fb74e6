import { useState } from 'react';
import { Box, Button, Flex, Grid, Input, Text } from '@chakra-ui/react';
import { type BandProfile, type ImageMember, type ImageProfile, type Overlap, percentile } from '@pontrel/core/content/raster/profile';
import { chosenMembers } from '@pontrel/core/crossing/chosen-images';
import { imageRule } from '@pontrel/core/crossing/recipe';
import { SAMPLE_KINDS } from '@pontrel/core/model/raster';
import { unitSymbol } from '@pontrel/core/crs/crs';
import { imageRules, shownRules, useChange, useCrossing } from '../crossing/use-crossing';
import { grouped, plural } from '../components/numbers';
import { Choice, Mono, Muted, Note, Scroll, Section, Select } from '../components/parts';
import { useCrsQuery } from '../state/api';
import { Histogram } from './Histogram';
import { groundPixel, type ImageAt, imageKey, pixelsOf, sizeText, thumbnailOf } from './image-at';
import { Thumbnail } from './ImageCard';
import { FindingNotes, InspectorHead } from './InspectorHead';
import { TileIndex } from './TileIndex';
import { TileList } from './TileList';

/** Shares of pixels beyond a stretch that is chosen by name. */
const SHARES: Record<string, number> = { '1': 0.01, '2': 0.02, '5': 0.05 };

/** Values of 8 bits from which on a seam is seen; as the server tells it. */
const UNEVEN = 6;

/** What is in an image or a mosaic: findings, tiles, facts, how its values lie. */
export function ImageInspector({ at, onTake }: { at: ImageAt; onTake(taken: boolean): void }) {
  const { source, images } = at;
  const { id, recipe } = useCrossing();
  const change = useChange();
  const [chosen, setChosen] = useState<string | null>(null);
  const rule = imageRule(recipe, source.name);
  const { members } = images;
  const [first] = members as [ImageMember];
  const tile = members.find((m) => m.name === chosen) ?? first;
  const several = members.length > 1;
  const ordered = chosenMembers({ order: rule.order }, members);
  const numbers = new Map(members.map((m, k) => [m.name, k + 1]));
  const left = rule.without ?? [];
  const system = recipe.sources[source.name]?.placement?.crs ?? source.crs?.text;
  const { data: crs } = useCrsQuery(system ?? '', { skip: system === undefined });
  const facts: [string, string, string?][] = [
    ['Size', sizeText(pixelsOf(at)), 'pixels'],
    ['Pixel on the ground', groundPixel(at, crs ? unitSymbol(crs) : null) ?? 'not stated'],
    ['Bands', String(first.info.bands), bandNames(first)],
    ['Sample type', first.info.sampleType, rangeText(first)],
    ['Nodata', nodataText(first), emptyText(images)],
    ['System', source.crs?.id ?? source.crs?.name ?? 'not stated'],
    ['Packing', first.version],
  ];
  return (
    <Scroll>
      <Section>
        <InspectorHead name={source.name} taken={at.taken} onTake={onTake}>
          {source.formatName} · {several ? `${plural(members.length, 'tile')} as one` : 'one image'}
        </InspectorHead>
        <Box mt="8px">
          {several ? (
            <TileIndex images={images} picture={thumbnailOf(id, source)} numbers={numbers} left={left} chosen={chosen} />
          ) : (
            <Thumbnail src={thumbnailOf(id, source)} height="150px" />
          )}
        </Box>
        <FindingNotes findings={source.findings.filter((f) => f.code !== 'mosaic-uneven')} />
        {first.map === null && first.pairs === null && !at.placed && (
          <Note tone="caution" mt="8px">
            It does not say where it lies. Fit it to control points in Place.
          </Note>
        )}
        <Uneven images={images} source={source.name} />
      </Section>
      {several && (
        <Section title="Tiles" aside="the first lies on top · mean">
          <TileList
            tiles={ordered}
            numbers={numbers}
            left={left}
            chosen={chosen}
            onChoose={(name) => setChosen(name === chosen ? null : name)}
            onOrder={(names) => change(`order of ${source.name}`, (draft) => void (imageRules(draft, source.name).order = names))}
            onTake={(name, on) =>
              change(`${on ? 'take' : 'leave'} ${name}`, (draft) => {
                const own = imageRules(draft, source.name);
                own.without = on ? (own.without ?? []).filter((n) => n !== name) : [...(own.without ?? []), name];
                if (own.without.length === 0) delete own.without;
              })
            }
          />
        </Section>
      )}
      <Section title={several && chosen !== null ? `Tile ${numbers.get(tile.name)}` : 'Image'}>
        {facts.map(([name, value, more]) => (
          <Grid
            key={name}
            templateColumns="118px minmax(0, 1fr)"
            py="3px"
            borderTopWidth="1px"
            borderColor="hairline"
            _first={{ borderTopWidth: 0 }}
          >
            <Muted>{name}</Muted>
            <Box textAlign="right" minW="0">
              <Mono fontSize="11.5px">{value}</Mono> {more && <Muted textStyle="small">{more}</Muted>}
            </Box>
          </Grid>
        ))}
      </Section>
      <Stretch key={imageKey(at) + tile.name} at={at} bands={tile.bands} />
    </Scroll>
  );
}

/** Tiles that are darker or brighter than those they lie over, and what to do about it. */
function Uneven({ images, source }: { images: ImageProfile; source: string }) {
  const { recipe } = useCrossing();
  const change = useChange();
  const { adjust = {} } = imageRule(recipe, source);
  const matched = matchedTo(images);
  const off = Object.values(matched).flat();
  if (off.every((v) => Math.abs(v) < UNEVEN / 2) || !images.overlaps.some((o) => brightest(o) >= UNEVEN)) return null;
  const on = Object.keys(adjust).length > 0;
  return (
    <Note
      tone={on ? 'good' : 'caution'}
      mt="8px"
      actions={
        on ? (
          <Button
            size="sm"
            onClick={() => change(`leave the brightness of ${source}`, (draft) => void delete imageRules(draft, source).adjust)}
          >
            Leave them as they are
          </Button>
        ) : (
          <Button
            size="sm"
            onClick={() => change(`match the brightness of ${source}`, (draft) => void (imageRules(draft, source).adjust = matched))}
          >
            Match to tile 1
          </Button>
        )
      }
    >
      {on
        ? 'Tiles are matched in brightness: '
        : 'Tiles differ in brightness where they lie over each other. Matched, they would change by: '}
      {Object.entries(on ? adjust : matched)
        .filter(([, plus]) => plus.some((v) => Math.abs(v) >= 0.5))
        .map(([name, plus]) => `tile ${images.members.findIndex((m) => m.name === name) + 1} ${stepsOf(plus)}`)
        .join(', ')}
      .
    </Note>
  );
}

/** What is added to the bands of a tile, as one number where it is the same for all. */
function stepsOf(plus: readonly number[]): string {
  const rounded = plus.map((v) => (v > 0 ? `+${Math.round(v)}` : String(Math.round(v)).replace('-', '−')));
  return new Set(rounded).size === 1 ? rounded[0]! : rounded.join(' ');
}

const brightest = ({ brighter }: Overlap): number => Math.max(0, ...(brighter ?? []).map(Math.abs));

/** What is to be added to each tile so that it is as bright as the first where they lie over each other, by way of those between. */
function matchedTo({ members, overlaps }: ImageProfile): Record<string, number[]> {
  const bands = members[0]!.bands.length;
  const plus = new Map<string, number[]>([[members[0]!.name, new Array<number>(bands).fill(0)]]);
  // along the shortest ways of overlaps from the first tile
  for (let front = [members[0]!.name]; front.length > 0;) {
    const next: string[] = [];
    for (const name of front)
      for (const o of overlaps) {
        const other = o.a === name ? o.b : o.b === name ? o.a : null;
        if (other === null || plus.has(other) || !o.brighter) continue;
        const sign = o.a === name ? -1 : 1;
        plus.set(
          other,
          plus.get(name)!.map((v, k) => Number((v + sign * (o.brighter![k] ?? 0)).toFixed(2))),
        );
        next.push(other);
      }
    front = next;
  }
  return Object.fromEntries([...plus].filter(([, v]) => v.some((n) => n !== 0)));
}

/** How the values lie, and which become black and white on the map. */
function Stretch({ at: { source, images }, bands }: { at: ImageAt; bands: BandProfile[] }) {
  const { recipe } = useCrossing();
  const change = useChange();
  const { shown } = imageRule(recipe, source.name);
  const [first] = images.members as [ImageMember];
  const eight = first.info.sampleType === 'uint8';
  const withValues = bands.filter((b) => b.histogram.length > 0);
  if (withValues.length === 0 || first.info.palette) return null;
  const range: [number, number] = eight
    ? [0, 255]
    : [Math.min(...withValues.map((b) => b.lowest)), Math.max(...withValues.map((b) => b.highest))];
  if (!(range[1] > range[0])) return null;
  const byShare = (share: number): [number, number] => [
    Math.min(...withValues.map((b) => percentile(b, share))),
    Math.max(...withValues.map((b) => percentile(b, 1 - share))),
  ];
  const stretch = shown?.stretch ?? (eight ? range : byShare(0.02));
  const set = (value: [number, number] | null): void =>
    change(`stretch of ${source.name}`, (draft) => {
      const own = shownRules(draft, source.name);
      if (value) own.stretch = value;
      else delete own.stretch;
    });
  const count = first.info.bands - Number(first.info.alpha);
  const picked = shown?.bands ?? (count >= 3 ? ([0, 1, 2] as [number, number, number]) : ([0] as [number]));
  return (
    <Section title="Histogram" aside="on the screen only">
      <Histogram bands={bands} range={range} stretch={stretch} onStretch={set} />
      <Flex align="center" gap="6px" mt="7px">
        {([0, 1] as const).map((k) => (
          <Input
            key={`${k} ${stretch[k]}`}
            h="26px"
            w="72px"
            px="6px"
            fontFamily="mono"
            fontSize="11.5px"
            aria-label={k === 0 ? 'Black from' : 'White from'}
            defaultValue={Number(stretch[k].toPrecision(6))}
            onBlur={(e) => {
              const value = Number(e.target.value);
              const next: [number, number] = k === 0 ? [value, stretch[1]] : [stretch[0], value];
              if (Number.isFinite(value) && next[0] < next[1] && value !== stretch[k]) set(next);
              else e.target.value = String(Number(stretch[k].toPrecision(6)));
            }}
            onKeyDown={(e) => {
              if (e.key === 'Enter') e.currentTarget.blur();
            }}
          />
        ))}
        <Select
          label="Stretch"
          value={shown?.stretch ? 'own' : 'none'}
          width="100%"
          onChange={(v) => (v === 'none' ? set(null) : v === 'own' ? undefined : set(byShare(SHARES[v]!)))}
          options={[
            { value: 'none', label: eight ? 'as it is' : '2 % to 98 %' },
            { value: '1', label: '1 % to 99 %' },
            { value: '2', label: '2 % to 98 %' },
            { value: '5', label: '5 % to 95 %' },
            { value: 'own', label: 'as set' },
          ]}
        />
      </Flex>
      {count > 1 && (
        <Box mt="9px">
          <Flex align="center" justify="space-between" mb="5px">
            <Text>Bands</Text>
            <Choice
              small
              label="Bands shown"
              value={picked.length === 3 ? 'three' : 'one'}
              onChange={(v) =>
                change(`bands of ${source.name}`, (draft) => {
                  const own = shownRules(draft, source.name);
                  own.bands = v === 'one' ? [0] : [0, 1, Math.min(2, count - 1)];
                })
              }
              options={[
                { value: 'three', label: 'Colour' },
                { value: 'one', label: 'One band' },
              ]}
            />
          </Flex>
          <Flex gap="6px">
            {picked.map((b, k) => (
              <Select
                key={k}
                label={picked.length === 3 ? ['Red', 'Green', 'Blue'][k]! : 'Grey'}
                value={String(b)}
                width="100%"
                onChange={(v) =>
                  change(`bands of ${source.name}`, (draft) => {
                    const next = [...picked];
                    next[k] = Number(v);
                    shownRules(draft, source.name).bands = next as typeof picked;
                  })
                }
                options={Array.from({ length: count }, (_, n) => ({ value: String(n), label: `band ${n + 1}` }))}
              />
            ))}
          </Flex>
        </Box>
      )}
    </Section>
  );
}

const bandNames = ({ info }: ImageMember): string => {
  if (info.palette) return `palette of ${info.palette.length / 3} colours`;
  if (info.colour === 'rgb') return `red, green, blue${info.alpha ? ', alpha' : ''}`;
  return info.alpha ? 'with alpha' : '';
};

const rangeText = ({ bands }: ImageMember): string => {
  const own = bands.filter((b) => b.histogram.length > 0);
  if (own.length === 0) return 'no value';
  const said = (v: number): string => (Number.isInteger(v) ? grouped(v) : String(Number(v.toPrecision(5))));
  return `${said(Math.min(...own.map((b) => b.lowest)))} to ${said(Math.max(...own.map((b) => b.highest)))}`;
};

const nodataText = ({ info }: ImageMember): string =>
  info.nodata !== null
    ? String(info.nodata)
    : info.masked
      ? 'a mask'
      : info.alpha
        ? 'alpha'
        : SAMPLE_KINDS[info.sampleType].real
          ? 'NaN'
          : 'none';

const emptyText = ({ members }: ImageProfile): string => {
  const empty = members.reduce((n, m) => n + m.empty, 0);
  return empty > 0 ? `${grouped(empty)} px` : '';
};
