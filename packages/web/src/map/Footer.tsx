import { type Ref, useImperativeHandle, useMemo, useRef } from 'react';
import { Flex } from '@chakra-ui/react';
import { type Crs, isOnEarth, metresPerUnit, northUp, unitSymbol } from '@pontrel/core/crs/crs';
import { type LengthUnit, lengthUnit } from '../components/length-unit';
import { grouped } from '../components/numbers';
import { Mono } from '../components/parts';
import { askCrs } from './ask-crs';
import { frameText } from './coordinates';
import { frameUnit } from './frame-map';
import { type SheetViews, token, useSheetView } from './sheet-view';
import { scaleAt } from './styles';
import { niceStep } from '@pontrel/core/geometry/nice-step';
import { dms } from './ticks';

export interface FooterHandle {
  /** The pointer's place in the frame and in the picture; nulls when it has left. */
  cursor(at: [number, number] | null, pixel: [number, number] | null): void;
}

/** Cursor coordinates, the frame, the scale as a number and as a bar. */
export function Footer({ ref, frame, views, margin }: { ref: Ref<FooterHandle>; frame: Crs; views: SheetViews; margin: number }) {
  const text = useRef<HTMLSpanElement>(null);
  const degrees = useRef<HTMLSpanElement>(null);
  const unit = frameUnit(frame);
  useImperativeHandle(ref, () => {
    let asked = 0;
    return {
      cursor(at) {
        if (!text.current) return;
        if (!at) {
          text.current.textContent = 'Move over the map for coordinates';
          degrees.current!.textContent = '';
          return;
        }
        text.current.textContent = frameText(frame, at);
        if (unit === null || !isOnEarth(frame)) return;
        const mine = ++asked;
        void askCrs({ ask: 'degrees', frame: northUp(frame), points: at }).then(({ points: [lon, lat] }) => {
          if (mine === asked && degrees.current)
            degrees.current.textContent = Number.isFinite(lon!) ? `${dms(lat!, 'NS')}  ${dms(lon!, 'EW')}` : 'outside the frame’s reach';
        });
      },
    };
  }, [frame, unit]);
  return (
    <Flex
      align="center"
      gap="16px"
      h="26px"
      px={`${margin}px`}
      borderTopWidth="1px"
      borderColor="ink"
      flex="none"
      overflow="hidden"
      containerType="inline-size"
    >
      <Mono fontSize="11px" whiteSpace="pre">
        <span ref={text} data-testid="cursor">
          Move over the map for coordinates
        </span>
      </Mono>
      <Mono fontSize="11px" whiteSpace="pre" color="muted" flex="1" minW="0" overflow="hidden">
        <span ref={degrees} />
      </Mono>
      <Mono fontSize="11px" color="muted" css={{ '@container (max-width: 760px)': { display: 'none' } }}>
        {frame.id ?? frame.name} · {unitSymbol(frame)}
      </Mono>
      <ScaleBar frame={frame} views={views} />
    </Flex>
  );
}

const barText = (bar: number, { symbol, metres }: LengthUnit): string =>
  metres !== 1
    ? `${bar / metres >= 1 ? grouped(Math.round(bar / metres)) : Number((bar / metres).toPrecision(3))} ${symbol}`
    : bar >= 1000
      ? `${grouped(bar / 1000)} km`
      : bar >= 1
        ? `${grouped(bar)} m`
        : `${Number((bar * 1000).toPrecision(3))} mm`;

/** The scale as a number and as a bar. */
function ScaleBar({ frame, views }: { frame: Crs; views: SheetViews }) {
  const resolution = useSheetView(views)?.resolution;
  return useMemo(() => {
    if (resolution === undefined) return null;
    const perPixel_m = resolution * metresPerUnit(frame, null);
    const unit = lengthUnit(frameUnit(frame));
    // a round number of the unit that it is labelled with
    const bar = niceStep((perPixel_m * 48) / unit.metres) * unit.metres;
    return (
      <>
        <Mono fontSize="11px" whiteSpace="nowrap" data-testid="scale">
          1:{grouped(Number(scaleAt(perPixel_m).toPrecision(3)))}
        </Mono>
        <Flex align="center" gap="6px">
          <svg width={bar / perPixel_m + 2} height="8" aria-hidden="true" stroke={token('ink')}>
            <rect x="1" y="2" width={bar / perPixel_m} height="4" fill="none" />
            <path
              fill={token('ink')}
              d={`M1 2h${bar / perPixel_m / 4}v4h${-bar / perPixel_m / 4}zM${1 + bar / perPixel_m / 2} 2h${bar / perPixel_m / 4}v4h${-bar / perPixel_m / 4}z`}
            />
          </svg>
          <Mono fontSize="11px" whiteSpace="nowrap">
            {barText(bar, unit)}
          </Mono>
        </Flex>
      </>
    );
  }, [resolution, frame]);
}
