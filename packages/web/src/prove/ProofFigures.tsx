import { accuracyText } from '../components/length-unit';
import { useState } from 'react';
import { Box, chakra, Flex, Text } from '@chakra-ui/react';
import { scaleBand, scaleLinear } from 'd3';
import type { Proof } from '@pontrel/core/content/features/proof';
import { AccountFigures } from './AccountFigures';
import { deviation, grouped } from '../components/numbers';
import { FoldingSection } from '../components/FoldingSection';
import { Mono, Muted, Scroll, Select } from '../components/parts';

const WIDTH = 246,
  HEIGHT = 96;
const STEPS_M = [1e-9, 1e-8, 1e-7, 1e-6, 1e-5, 1e-4, 1e-3];

/** The deviations as a histogram, the records of each set, and a set's fields. */
export function ProofFigures({ proof, onWorst }: { proof: Proof; onWorst(): void }) {
  const [name, setName] = useState(proof.sets[0]?.name ?? '');
  const set = proof.sets.find((s) => s.name === name) ?? proof.sets[0];
  const vertices = proof.histogram.reduce((n, b) => n + b.count, 0);
  return (
    <Scroll>
      {proof.account && <AccountFigures account={proof.account} />}
      <FoldingSection name="prove.deviation" title="Deviation" aside={`${grouped(vertices)} vertices`}>
        <Histogram proof={proof} />
        {proof.worst && (
          <Text mt="4px" textStyle="small">
            <Muted>Worst: </Muted>
            <Mono>{deviation(proof.maxDeviation_m)}</Mono>
            <Muted> in </Muted>
            <chakra.button type="button" minH="24px" cursor="pointer" color="verdigrisInk" textDecoration="underline" onClick={onWorst}>
              {proof.worst.set}, record {grouped(proof.worst.record)}
            </chakra.button>
          </Text>
        )}
      </FoldingSection>
      {proof.ways && proof.ways.length > 0 && (
        <FoldingSection name="prove.positions" title="Positions" aside="by the way they came">
          {proof.ways.map((w) => (
            <Box key={w.source} py="2px">
              <Flex justify="space-between" gap="8px">
                <Mono truncate>{w.source}</Mono>
                <Mono flex="none" fontWeight={600}>
                  {w.accuracy_m === null ? 'not known' : w.accuracy_m === 0 ? 'exact' : accuracyText(w.accuracy_m)}
                </Mono>
              </Flex>
              {w.steps
                .filter((s) => s.accuracy_m !== 0)
                .map((s, i) => (
                  <Muted key={i} textStyle="small" display="block">
                    {s.name}
                    {s.id ? ` (${s.id})` : ''}
                  </Muted>
                ))}
            </Box>
          ))}
        </FoldingSection>
      )}
      <FoldingSection name="prove.records" title="Records" aside="in, and read back">
        <Box maxH="190px" overflowY="auto" scrollbarWidth="thin" tabIndex={0} role="group" aria-label="Records of each set">
          <table aria-label="Records">
            <thead>
              <tr>
                <th>Set</th>
                <th className="number">In</th>
                <th className="number">Out</th>
              </tr>
            </thead>
            <tbody>
              {proof.sets.map((s) => (
                <tr key={s.name}>
                  <Box asChild maxW="150px" truncate>
                    <td title={s.name}>
                      <Mono>{s.name}</Mono>
                    </td>
                  </Box>
                  <td className="number">{grouped(s.in)}</td>
                  <td className="number">
                    {s.out === s.in ? (
                      grouped(s.out)
                    ) : (
                      <Box as="span" color="madderInk" fontWeight={700}>
                        {grouped(s.out)}
                      </Box>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Box>
      </FoldingSection>
      {set && (
        <FoldingSection
          name="prove.fields"
          title="Fields"
          aside={
            <Select
              label="Set"
              width="150px"
              value={set.name}
              onChange={setName}
              options={proof.sets.map((s) => ({ value: s.name, label: s.name }))}
            />
          }
        >
          <table aria-label={`Fields of ${set.name}`}>
            <thead>
              <tr>
                <th>From</th>
                <th>Read back</th>
                <th className="number">Same</th>
              </tr>
            </thead>
            <tbody>
              {set.fields.map((f) => (
                <tr key={f.to}>
                  <Box asChild maxW="92px" truncate>
                    <td title={f.from}>
                      <Mono>{f.from}</Mono>
                    </td>
                  </Box>
                  <Box asChild maxW="96px" truncate>
                    <td title={f.to}>
                      <Mono>{f.to}</Mono>
                    </td>
                  </Box>
                  <td className="number">
                    {f.of === 0 ? (
                      <Muted>empty</Muted>
                    ) : f.same === f.of ? (
                      grouped(f.same)
                    ) : (
                      <Box as="span" color="amberInk" fontWeight={700}>
                        {grouped(f.same)} of {grouped(f.of)}
                      </Box>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </FoldingSection>
      )}
    </Scroll>
  );
}

/** Vertices by deviation, up to the limit at each bar's foot; each limit is ten times the one before. */
function Histogram({ proof }: { proof: Proof }) {
  // every step up to the tolerance has its place, so that two proofs can be compared at a glance
  const known = new Map(proof.histogram.map((b) => [b.upTo_m, b.count]));
  const bars = [
    ...STEPS_M.map((upTo_m) => ({ upTo_m, count: known.get(upTo_m) ?? 0 })),
    ...proof.histogram.filter((b) => b.upTo_m === null || b.upTo_m > proof.tolerance_m),
  ];
  const x = scaleBand()
    .domain(bars.map((b) => label(b.upTo_m)))
    .range([0, WIDTH])
    .padding(0.12);
  const y = scaleLinear()
    .domain([0, Math.max(...bars.map((b) => b.count), 1)])
    .range([0, HEIGHT]);
  return (
    <svg
      width={WIDTH}
      height={HEIGHT + 34}
      role="img"
      aria-label={`Deviations: ${bars.map((b) => `${b.count} up to ${label(b.upTo_m)}`).join(', ')}`}
    >
      {bars.map((b) => {
        const h = b.count === 0 ? 0 : Math.max(1.5, y(b.count));
        const left = x(label(b.upTo_m))!;
        return (
          <g key={label(b.upTo_m)}>
            <Box asChild fill={b.upTo_m === null || b.upTo_m > proof.tolerance_m ? 'madder' : 'verdigris'}>
              <rect x={left} y={HEIGHT + 12 - h} width={x.bandwidth()} height={h} rx="1" />
            </Box>
            <Box asChild fill="ink" fontFamily="mono" fontSize="10px">
              <text x={left + x.bandwidth() / 2} y={HEIGHT + 8 - h} textAnchor="middle">
                {b.count > 0 ? grouped(b.count) : ''}
              </text>
            </Box>
            <Box asChild fill="muted" fontFamily="mono" fontSize="9.5px">
              <text x={left + x.bandwidth() / 2} y={HEIGHT + 25} textAnchor="middle">
                {label(b.upTo_m)}
              </text>
            </Box>
          </g>
        );
      })}
      <Box asChild stroke="line">
        <path d={`M0 ${HEIGHT + 12.5}H${WIDTH}`} />
      </Box>
    </svg>
  );
}

function label(upTo_m: number | null): string {
  if (upTo_m === null) return 'more';
  const mm = Number((upTo_m * 1000).toPrecision(1));
  return mm >= 1 ? `${grouped(mm)}mm` : mm >= 1e-3 ? `${Number((mm * 1000).toPrecision(1))}µm` : `${Number((mm * 1e6).toPrecision(1))}nm`;
}
