import { Button, Flex } from '@chakra-ui/react';
import type { CrossingState, SourceState } from '@pontrel/contract/crossing';
import { joinFields } from '@pontrel/core/content/features/profile';
import type { AreaOfInterest } from '@pontrel/core/crossing/recipe';
import { plural } from '../components/numbers';
import { Mono, Muted, Select } from '../components/parts';
import { TypedLength, TypedText } from '../components/Typed';

const PLUS_M = 50;

/** The layers of a crossing that have areas, how many, and the names of their fields. */
export const polygonLayers = (crossing: CrossingState): { value: { source: string; layer: string }; count: number; fields: string[] }[] =>
  crossing.sources.flatMap((s) =>
    s.layers
      .filter((l) => l.profile.groups.some((g) => g.kind === 'polygon'))
      .map((l) => {
        const groups = l.profile.groups.filter((g) => g.kind === 'polygon');
        return {
          value: { source: s.name, layer: l.profile.name },
          count: groups.reduce((n, g) => n + g.count, 0),
          fields: joinFields(groups).map((f) => f.name),
        };
      }),
  );

/** The choices in a list: everything, what each source covers, the areas of each layer that has some, a box. */
function choices(
  crossing: CrossingState,
  sources: readonly SourceState[],
): { value: string; label: string; area: AreaOfInterest | null }[] {
  const box = crossing.frameExtent ? (crossing.frameExtent.map((v) => Math.round(v)) as [number, number, number, number]) : null;
  return [
    { value: 'all', label: 'Everything', area: null },
    ...sources.map((s) => ({
      value: `source\n${s.name}`,
      label: `What ${s.name} covers`,
      area: { kind: 'source' as const, source: s.name, plus_m: PLUS_M },
    })),
    ...polygonLayers(crossing).map(({ value: { source, layer } }) => ({
      value: `layer\n${source}\n${layer}`,
      label: `Inside ${layer} of ${source}`,
      area: { kind: 'layer' as const, source, layer },
    })),
    ...(box
      ? [
          { value: 'drawn', label: 'An area drawn on the map', area: null },
          { value: 'box', label: 'A box', area: { kind: 'box' as const, box } },
        ]
      : []),
  ];
}

const keyOf = (area: AreaOfInterest | undefined): string =>
  !area
    ? 'all'
    : area.kind === 'box' || area.kind === 'drawn'
      ? area.kind
      : area.kind === 'source'
        ? `source\n${area.source}`
        : `layer\n${area.source}\n${area.layer}`;

function readBox(text: string): [number, number, number, number] | null {
  const numbers = text
    .trim()
    .split(/[\s,;]+/)
    .map(Number);
  return numbers.length === 4 && numbers.every(Number.isFinite) && numbers[0]! < numbers[2]! && numbers[1]! < numbers[3]!
    ? (numbers as [number, number, number, number])
    : null;
}

/** Which part of the sources a deliverable is about. */
export function AreaChoice({
  crossing,
  sources,
  area,
  onChange,
  onDraw,
}: {
  crossing: CrossingState;
  /** Sources whose cover may be the area. */
  sources: readonly SourceState[];
  area: AreaOfInterest | undefined;
  onChange(area: AreaOfInterest | null): void;
  onDraw(): void;
}) {
  const options = choices(crossing, sources);
  return (
    <Flex align="center" gap="8px" minW="0">
      <Select
        label="Area of interest"
        width="320px"
        value={keyOf(area)}
        options={options}
        onChange={(value) => (value === 'drawn' ? onDraw() : onChange(options.find((o) => o.value === value)!.area))}
      />
      {area?.kind === 'drawn' && (
        <>
          <Mono color="muted">{plural(area.ring.length, 'corner')}</Mono>
          <Button size="sm" onClick={onDraw}>
            Draw it again
          </Button>
        </>
      )}
      {area?.kind === 'source' && (
        <>
          <Muted>and</Muted>
          <TypedLength
            label="How much more"
            metres={area.plus_m === 0 ? null : area.plus_m}
            bare="m"
            hint="no more"
            onChange={(m) => onChange({ ...area, plus_m: m ?? 0 })}
          />
          <Muted>more</Muted>
        </>
      )}
      {area?.kind === 'box' && (
        <TypedText
          label="West, south, east and north of the box"
          width="300px"
          value={area.box.join(' ')}
          fault={(text) => (readBox(text) ? null : 'Four numbers of the frame are wanted: west, south, east, north.')}
          onChange={(text) => onChange({ kind: 'box', box: readBox(text)! })}
        />
      )}
    </Flex>
  );
}
