import { type CSSProperties, useState } from 'react';
import { Box, Button, Flex } from '@chakra-ui/react';
import { scaleLinear } from 'd3';
import { Download } from 'lucide-react';
import type { PipeRun, SourceState } from '@pontrel/contract/crossing';
import { groundLines } from '@pontrel/core/content/networks/ground-along';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, plural } from '../components/numbers';
import { Choice, ICON, Muted, Note, Select } from '../components/parts';
import { useAppSelector } from '../state/store';
import type { Palette } from '@pontrel/contract/palette';
import type { Followed } from './use-followed';

/** How many times heights are drawn as large as lengths. */
const EXAGGERATIONS = ['to fit', '1', '5', '10', '20', '50'] as const;
/** Pixels that heights take where they are drawn to fit. */
const FITS = 118;

/** The scale that a drawing is lettered for, 1 to so much. */
const SCALE = 500;

/** A run of a network from the side: ground, rims, inverts, pipes with their diameters, slopes and stations. */
export function LongProfile({
  source,
  followed,
  onFind,
}: {
  source: SourceState;
  followed: Followed;
  onFind(at: { x: number; y: number }): void;
}) {
  const { id } = useCrossing();
  const { structures, from, way, ground, grounds, profile, along, why, asked } = followed;
  const [times, setTimes] = useState<(typeof EXAGGERATIONS)[number]>('to fit');
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  if (from === undefined) return <Muted p="12px">There are no structures to follow from.</Muted>;
  const sheet = new URLSearchParams({ ...asked, times: times === 'to fit' ? '10' : times, scale: String(SCALE) });
  return (
    <Flex direction="column" h="100%" minH="0" bg="surface">
      <Flex
        align="center"
        columnGap="10px"
        rowGap="6px"
        px="16px"
        pb="6px"
        minH="38px"
        flex="none"
        minW="0"
        wrap="wrap"
        css={{ '& > *': { flexShrink: 0 } }}
      >
        <Select
          label="From structure"
          value={from}
          width="128px"
          options={structures.map((s) => ({ value: s, label: `from ${s}` }))}
          onChange={followed.follow}
        />
        <Choice<'downstream' | 'upstream'>
          small
          label="Followed"
          value={way}
          options={[
            { value: 'downstream', label: 'Downstream' },
            { value: 'upstream', label: 'Upstream' },
          ]}
          onChange={followed.turn}
        />
        <Box flex="1" />
        {grounds.length > 0 && (
          <Select
            label="Ground of the profile"
            value={ground?.id ?? ''}
            width="132px"
            options={[...grounds.map((s) => ({ value: s.id, label: `ground: ${s.derived!.name}` })), { value: '', label: 'no ground' }]}
            onChange={(wanted) => followed.lay(grounds.find((s) => s.id === wanted) ?? null)}
          />
        )}
        <Select<(typeof EXAGGERATIONS)[number]>
          label="Heights enlarged"
          value={times}
          width="116px"
          options={EXAGGERATIONS.map((t) => ({ value: t, label: t === 'to fit' ? 'heights to fit' : `heights × ${t}` }))}
          onChange={setTimes}
        />
        {profile && (
          <>
            <Button
              size="sm"
              aria-label="Save the profile as a picture, SVG"
              title="Save the profile as a picture (SVG)"
              onClick={() => savePicture(`${source.derived!.name} from ${from}`)}
            >
              <Download {...ICON} />
              SVG
            </Button>
            <Button size="sm" asChild>
              <a
                href={`/api/crossings/${id}/sources/${source.id}/profile.dxf?${sheet.toString()}`}
                download={`${source.derived!.name} from ${from}.dxf`}
                aria-label="Save the profile as a drawing, DXF"
                title={`Save the profile as a drawing (DXF), in metres, lettered for 1 : ${SCALE}`}
              >
                <Download {...ICON} />
                DXF
              </a>
            </Button>
          </>
        )}
      </Flex>
      <Box flex="1" minH="0" overflow="auto" px="16px" pb="8px" tabIndex={0} role="region" aria-label="Long profile">
        {why !== '' && <Note tone="caution">{why}</Note>}
        {profile && (
          <Muted display="block" pb="4px" position="sticky" left="0" truncate>
            <Summary profile={profile} />
            {ground && along.length === 0 && `, beyond ${ground.derived!.name}`}
          </Muted>
        )}
        {profile && (
          <Drawn profile={profile} ground={along} palette={palette} times={times === 'to fit' ? null : Number(times)} onFind={onFind} />
        )}
      </Box>
    </Flex>
  );
}

function Summary({ profile: { structures, pipes, reached, parts } }: { profile: PipeRun }) {
  const [first, last] = [structures[0]!, structures.at(-1)!];
  const [start, end] = [pipes[0]!.start, pipes.at(-1)!.end];
  const fall = start !== null && end !== null ? start - end : null;
  return (
    <>
      <b>{first.id}</b> to <b>{last.id}</b>: {grouped(last.station, 1)} m in {plural(pipes.length, 'pipe')}
      {fall !== null && `, falls ${fall.toFixed(3)} m`}
      {reached > pipes.length && `, ${reached} reached`}
      {parts > 0 && `, parts ${plural(parts, 'time')}`}
    </>
  );
}

const SVG_ID = 'long-profile';
const [LEFT, TOP, RIGHT, ROW] = [56, 22, 24, 17];
const ROWS = ['Pipe', 'Slope', 'Invert', 'Rim', 'Station'] as const;
/** Pixels that a pipe takes at the least, so that its figures can be read. */
const LEAST = 62;

function Drawn({
  profile: { structures, pipes },
  ground,
  palette: p,
  times,
  onFind,
}: {
  profile: PipeRun;
  ground: Followed['along'];
  palette: Palette;
  /** How many times heights are drawn as large as lengths; null to fit. */
  times: number | null;
  onFind(at: { x: number; y: number }): void;
}) {
  const length = structures.at(-1)!.station;
  const shortest = Math.min(...pipes.map((q) => q.length).filter((l) => l > 0));
  const perMetre = Math.max(900 / length, Math.min(LEAST / shortest, 6000 / length));
  const width = LEFT + length * perMetre + RIGHT;
  const heights = [
    ...structures.flatMap((s) => [s.rim, s.sump]),
    ...pipes.flatMap((q) => [q.start, q.end]),
    ...ground.map(([, h]) => h),
  ].filter((h) => h !== null);
  const [low, high] = heights.length > 0 ? [Math.min(...heights) - 0.5, Math.max(...heights) + 0.5] : [0, 1];
  const drawn = times === null ? FITS : Math.max(60, (high - low) * perMetre * times);
  const x = scaleLinear([0, length], [LEFT, LEFT + length * perMetre]);
  const y = scaleLinear([low, high], [TOP + drawn, TOP]);
  const rims = structures.filter((s) => s.rim !== null);
  // where nothing is known of the ground, it is taken to lie at the rims
  const lines = ground.length > 0 ? groundLines(ground) : rims.length > 1 ? [rims.map((s): [number, number] => [s.station, s.rim!])] : [];
  const bottom = TOP + drawn;
  const rowY = (k: number): number => bottom + 8 + (k + 0.75) * ROW;
  const crown = (invert: number, diameter: number | null): number => y(invert + (diameter ?? 0) / 1000);
  const wrong = (q: PipeRun['pipes'][number]): boolean => q.slope !== null && q.slope < 0;
  const mono = (tone = p.ink, weight = 400): { style: CSSProperties } => ({
    style: { fontFamily: 'var(--chakra-fonts-mono)', fontSize: '10.5px', fill: tone, fontWeight: weight },
  });
  return (
    <svg
      id={SVG_ID}
      width={width}
      height={bottom + 8 + ROWS.length * ROW + 6}
      role="img"
      aria-label={`Long profile, ${plural(pipes.length, 'pipe')}`}
    >
      {y.ticks(Math.max(2, Math.round(drawn / 34))).map((t) => (
        <g key={t}>
          <path d={`M${LEFT} ${y(t)}H${width - RIGHT}`} stroke={p.hairline} />
          <text x={LEFT - 8} y={y(t) + 3.5} textAnchor="end" {...mono(p.muted)}>
            {t.toFixed(1)}
          </text>
        </g>
      ))}
      {lines.map((line, k) => (
        <path
          key={k}
          d={`M${line.map(([s, h]) => `${x(s)} ${y(h)}`).join('L')}V${bottom}H${x(line[0]![0])}Z`}
          fill={p.sunk}
          opacity={0.6}
        />
      ))}
      {lines.map((line, k) => (
        <path key={k} d={`M${line.map(([s, h]) => `${x(s)} ${y(h)}`).join('L')}`} fill="none" stroke={p.amber} strokeWidth={1.6}>
          <title>Ground</title>
        </path>
      ))}
      {rims.length > 1 && (
        <path
          d={`M${rims.map((s) => `${x(s.station)} ${y(s.rim!)}`).join('L')}`}
          fill="none"
          stroke={ground.length > 0 ? p.muted : p.amber}
          strokeDasharray={ground.length > 0 ? '4 3' : undefined}
          strokeWidth={ground.length > 0 ? 1 : 1.6}
        />
      )}
      {pipes.map((q, k) => {
        const [a, b] = [x(structures[k]!.station), x(structures[k + 1]!.station)];
        const middle = (a + b) / 2;
        const tone = wrong(q) ? p.madder : p.verdigris;
        return (
          <g key={q.id}>
            {wrong(q) && <rect x={a} y={bottom + 8} width={b - a} height={2 * ROW} fill={p.madderTint} />}
            {q.start !== null && q.end !== null && (
              <path
                d={`M${a} ${y(q.start)}L${b} ${y(q.end)}L${b} ${crown(q.end, q.diameter)}L${a} ${crown(q.start, q.diameter)}Z`}
                fill={wrong(q) ? p.madderTint : p.verdigrisTint}
                stroke={tone}
                strokeWidth={1.4}
              >
                <title>{`${q.id}: ${q.length.toFixed(2)} m`}</title>
              </path>
            )}
            <text x={middle} y={rowY(0)} textAnchor="middle" {...mono()}>
              {q.diameter === null ? `${q.length.toFixed(1)} m` : `DN ${q.diameter} · ${q.length.toFixed(1)}`}
            </text>
            <text x={middle} y={rowY(1)} textAnchor="middle" {...mono(wrong(q) ? p.madder : p.ink, wrong(q) ? 700 : 400)}>
              {q.slope === null ? '' : `${q.slope.toFixed(2)} %`}
            </text>
            {q.start !== null && (
              <text x={a + 4} y={rowY(2)} {...mono()}>
                {q.start.toFixed(3)}
              </text>
            )}
            {q.end !== null && (
              <text x={b - 4} y={rowY(2)} textAnchor="end" {...mono(wrong(q) ? p.madder : p.ink)}>
                {q.end.toFixed(3)}
              </text>
            )}
          </g>
        );
      })}
      {structures.map((s, k) => {
        const at = x(s.station);
        const foot = s.sump ?? Math.min(...[pipes[k - 1]?.end, pipes[k]?.start].filter((v) => v !== null && v !== undefined));
        return (
          <g key={`${s.id} ${k}`} onClick={() => onFind(s)} style={{ cursor: 'pointer' }}>
            <title>{`${s.id}: find on the map`}</title>
            {s.rim !== null && Number.isFinite(foot) && (
              <rect
                x={at - 3.5}
                y={y(s.rim)}
                width="7"
                height={Math.max(1, y(foot) - y(s.rim))}
                fill={p.surface}
                stroke={p.ink}
                strokeWidth={1.2}
              />
            )}
            <text
              x={k === 0 ? at - 3.5 : at}
              y={s.rim === null ? TOP - 8 : y(s.rim) - 6}
              textAnchor={k === 0 ? 'start' : 'middle'}
              {...mono(p.ink, 600)}
            >
              {s.id}
            </text>
            <path d={`M${at} ${bottom + 8}V${bottom + 8 + ROWS.length * ROW}`} stroke={p.hairline} />
            <text x={k === 0 ? at + 4 : at - 4} y={rowY(3)} textAnchor={k === 0 ? 'start' : 'end'} {...mono()}>
              {s.rim?.toFixed(3) ?? ''}
            </text>
            <text x={k === 0 ? at + 4 : at - 4} y={rowY(4)} textAnchor={k === 0 ? 'start' : 'end'} {...mono()}>
              {s.station.toFixed(2)}
            </text>
          </g>
        );
      })}
      {ROWS.map((name, k) => (
        <g key={name}>
          <path d={`M0 ${bottom + 8 + k * ROW}H${width - RIGHT}`} stroke={p.hairline} />
          <text x={0} y={rowY(k)} style={{ fontSize: '11px', fill: p.muted }}>
            {name}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** Saves the profile that is drawn as a picture of its own. */
function savePicture(name: string): void {
  const drawn = document.getElementById(SVG_ID);
  if (!drawn) return;
  const copy = drawn.cloneNode(true) as SVGElement;
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  const url = URL.createObjectURL(new Blob([copy.outerHTML], { type: 'image/svg+xml' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = `${name}.svg`;
  link.click();
  URL.revokeObjectURL(url);
}
