import { Flex, Grid } from '@chakra-ui/react';
import { scaleLinear } from 'd3';
import type { RegistrationView } from '@pontrel/contract/pictures';
import type { ImageRunProof } from '@pontrel/core/content/raster/proof';
import { unitSymbol } from '@pontrel/core/crs/crs';
import { pixelSize } from '@pontrel/core/raster/pixel-grid';
import { crsLabel } from '../components/crs-label';
import { grouped, length } from '../components/numbers';
import { FoldingSection } from '../components/FoldingSection';
import { Mono, Muted } from '../components/parts';
import { TextButton } from '../components/TextButton';
import { WorldFile } from '../deliver/WorldFile';
import { useCrsQuery } from '../state/api';
import { useAppSelector } from '../state/store';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import { AccountFigures } from './AccountFigures';
import { PixelFates } from './PixelFates';
import { pixels } from './image-checks';

/** The largest shift that is allowed, in pixels; as the proof has it. */
const ALLOWED_PX = 0.5;

const CORNERS = ['first', 'right', 'last', 'left'] as const;

/** The figures of a written image: where it lies, its corners, what became of every pixel. */
export function ImageFigures({
  proof,
  places,
  target,
  files,
  onGo,
}: {
  proof: ImageRunProof;
  places: readonly RegistrationView[];
  target: string;
  files: readonly string[];
  onGo(at: [number, number]): void;
}) {
  const { data: crs } = useCrsQuery(target);
  const unit = crs ? unitSymbol(crs) : '';
  const { registration, corners, shown } = proof;
  const worst = [...places].filter((p) => p.off).sort((a, b) => b.off!.px - a.off!.px)[0];
  const ground = worst?.off && unit === 'm' && shown.map ? worst.off.px * pixelSize({ map: shown.map, width: 1, height: 1 })[0] : null;
  const measured = places.filter((p) => p.off).length;
  const world = files.find((f) => /w$/.test(f) && !f.endsWith('.dxf'));
  return (
    <>
      <FoldingSection name="prove.registration" title="Registration" aside="source to written, in pixels">
        <Flex gap="12px" align="flex-start">
          <Scatter proof={proof} />
          <Grid templateColumns="1fr auto" rowGap="3px" columnGap="6px" flex="1" alignContent="start">
            <Muted>Places</Muted>
            <Mono>
              {measured} of {places.length}
            </Mono>
            <Muted>RMS</Muted>
            <Mono>{pixels(registration.rms_px)}</Mono>
            <Muted>Worst</Muted>
            <Mono fontWeight={650} color={(registration.largest_px ?? 0) > ALLOWED_PX ? 'madderInk' : 'ink'}>
              {pixels(registration.largest_px)}
            </Mono>
            {ground !== null && (
              <>
                <Muted>that is</Muted>
                <Mono>{length(ground)}</Mono>
              </>
            )}
            <Muted>Allowed</Muted>
            <Mono>{ALLOWED_PX.toFixed(2)} px</Mono>
          </Grid>
        </Flex>
        {measured < places.length && (
          <Muted textStyle="small" display="block" mt="4px">
            {places.length - measured} without texture to match: not measured, and not counted as good
          </Muted>
        )}
        {worst && (worst.off?.px ?? 0) > 0.005 && (
          <TextButton mt="4px" onClick={() => onGo(worst.at)}>
            Show the worst
          </TextButton>
        )}
      </FoldingSection>
      {proof.drawn && <AccountFigures account={proof.drawn.account} />}
      {proof.account.length > 0 && <PixelFates rows={proof.account} />}
      {shown.map && world && <WorldFile name={world} map={shown.map} unit={unit} />}
      <FoldingSection name="prove.corners" title="Outer corners" aside={crsLabel(target)}>
        <table aria-label="Outer corners">
          <thead>
            <tr>
              <th>Pixel</th>
              <th className="number">written</th>
              <th className="number">in the source</th>
            </tr>
          </thead>
          <tbody>
            {corners.map((c, k) => (
              <tr key={CORNERS[k]}>
                <td>{CORNERS[k]}</td>
                <td className="number">
                  <Pair at={c.target} />
                </td>
                <td className="number">{c.source ? <Pair at={c.source} /> : <Muted>beyond it</Muted>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </FoldingSection>
    </>
  );
}

function Pair({ at }: { at: readonly [number, number] }) {
  const decimals = Math.abs(at[0]) <= 360 && Math.abs(at[1]) <= 360 ? 7 : 3;
  return (
    <Mono fontSize="11px" whiteSpace="pre-line">
      {`${grouped(at[0], decimals)}\n${grouped(at[1], decimals)}`}
    </Mono>
  );
}

/** The shifts at all places, as points around where they should be. */
function Scatter({ proof }: { proof: ImageRunProof }) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const { largest_px, places } = proof.registration;
  const reach = Math.max(0.1, Math.ceil((largest_px ?? 0) * 1.15 * 20) / 20);
  const x = scaleLinear([-reach, reach], [4, 112]);
  return (
    <svg viewBox="0 0 116 116" width="116" height="116" role="img" aria-label="Shifts at the places">
      {[0.5, 1].map((share) => (
        <circle key={share} cx="58" cy="58" r={54 * share} fill="none" stroke={palette.line} strokeWidth="0.9" />
      ))}
      <path d="M58 2V114M2 58H114" stroke={palette.hairline} strokeWidth="0.9" />
      <text x="61" y="12" fontSize="9" fill={palette.muted}>
        {reach.toFixed(2)} px
      </text>
      {places.flatMap(({ shift }, k) =>
        shift
          ? [
              <circle
                key={k}
                cx={x(shift.dx)}
                cy={x(shift.dy)}
                r="2.6"
                fill={Math.hypot(shift.dx, shift.dy) > ALLOWED_PX ? palette.madder : palette.verdigris}
                fillOpacity="0.85"
              />,
            ]
          : [],
      )}
    </svg>
  );
}
