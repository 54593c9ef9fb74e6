import type { Placement } from '@pontrel/core/placement/placement';
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import type { CrossingState, SourceState } from '@pontrel/contract/crossing';
import { type Crs, northUp, ownSigns } from '@pontrel/core/crs/crs';
import type { Mark, Vector } from '../map/Marks';
import { nearestVertex } from '../map/Measure';
import type { Taking } from '../map/map-tool';
import type { SheetLayer } from '../map/sheet-layers';
import { sourceTiles, useFrame } from '../map/use-frame';
import { useCrsQuery, usePreviewQuery } from '../state/api';

type XY = [number, number];

/** What the panels can do with the map. */
export interface PlaceMap {
  /** The frame's definition; undefined until there is one. */
  frame: Crs | undefined;
  /** Shows the source as if it were placed so, over what is placed; null takes it away. */
  preview(placement: Placement | null): void;
  previewed: Placement | null;
  problem: string | null;
  /** Asks for a point: of the drawing alone, in its own numbers, or of the map, in the frame's own numbers. Null when it is given up. */
  take(prompt: string, of: 'drawing' | 'map'): Promise<XY | null>;
  taking: Taking | null;
  stopTaking(): void;
  overlay(overlay: Overlay): void;
  /** Between the frame's own numbers and the map, where east is right and north is up. */
  toMap(at: readonly [number, number]): XY;
}

export interface Overlay {
  marks: Mark[];
  vectors: Vector[];
  onDrag?: ((mark: number, x: number, y: number) => void) | undefined;
}

const NOTHING: Overlay = { marks: [], vectors: [] };

/** The map of the stage: what is placed, what is tried out, and the drawing alone while a mark in it is asked for. */
export function usePlaceMap(crossing: CrossingState, source: SourceState | undefined, several: boolean) {
  const frame = useFrame(crossing);
  const [wanted, setWanted] = useState<Placement | null>(null);
  const [alone, setAlone] = useState(false);
  const [taking, setTaking] = useState<Taking | null>(null);
  const [overlay, setOverlay] = useState<Overlay>(NOTHING);
  const placement = useDeferredValue(wanted);
  // without a frame the system that is tried is the one that is drawn in
  const { data: tried } = useCrsQuery(placement?.crs ?? '', { skip: frame !== undefined || !placement });
  const mapFrame = frame ?? (placement ? tried : undefined);
  const asked = useMemo(
    (): Placement | null => (alone && crossing.frame ? { crs: crossing.frame.id, unit_m: null } : placement),
    [alone, crossing.frame, placement],
  );
  const { currentData: preview } = usePreviewQuery(
    { id: crossing.id, source: source?.id ?? '', placement: asked!, revision: crossing.revision },
    { skip: !asked || !source },
  );
  const name = source?.name;
  const layers = useMemo((): SheetLayer[] => {
    const shown: SheetLayer[] = [];
    if (!alone && frame)
      shown.push(sourceTiles(crossing, (s) => ({ color: null, ghost: asked !== null || (several && s !== name) }), true));
    if (asked && preview && !preview.problem && source) {
      shown.push({
        key: 'preview',
        address: `/api/crossings/${crossing.id}/sources/${source.id}/previews/${preview.stamp}`,
        look: () => ({ color: null, ghost: false }),
        visible: () => true,
      });
    }
    return shown;
  }, [alone, frame, crossing, several, name, asked, preview, source]);
  const extent = asked ? (preview?.extent ?? null) : crossing.frameExtent;
  const [sx, sy] = mapFrame ? ownSigns(mapFrame) : [1, 1];
  const toMap = useCallback((at: readonly [number, number]): XY => [sx * at[0], sy * at[1]], [sx, sy]);
  const stamp = preview?.stamp;
  const take = useCallback(
    (prompt: string, of: 'drawing' | 'map'): Promise<XY | null> =>
      new Promise((resolve) => {
        const done = (at: XY | null): void => {
          setTaking(null);
          setAlone(false);
          resolve(at);
        };
        setAlone(of === 'drawing');
        setTaking({ prompt, snap: async () => null, take: (x, y) => done([x, y]), cancel: () => done(null) });
      }),
    [],
  );
  const snapping = useMemo(
    (): Taking | null =>
      taking && {
        ...taking,
        snap: async (x, y, reach) => {
          if (asked && source && stamp) {
            const response = await fetch(
              `/api/crossings/${crossing.id}/sources/${source.id}/previews/${stamp}/vertex?x=${x}&y=${y}&reach=${reach}`,
            );
            const found = response.ok ? ((await response.json()) as { vertex: XY | null }).vertex : null;
            if (found || alone) return found;
          }
          return nearestVertex(crossing.id, x, y, reach);
        },
        take: (x, y, caught) => taking.take(sx * x, sy * y, caught),
      },
    [taking, asked, alone, source, stamp, crossing.id, sx, sy],
  );
  const stopTaking = useCallback(() => taking?.cancel(), [taking]);
  const map: PlaceMap = {
    frame,
    preview: setWanted,
    previewed: wanted,
    problem: asked ? (preview?.problem ?? null) : null,
    take,
    taking,
    stopTaking,
    overlay: setOverlay,
    toMap,
  };
  return {
    map,
    frame: mapFrame,
    plane: mapFrame && northUp(mapFrame),
    layers,
    extent,
    fitKey: asked ? `${alone ? 'alone' : 'preview'} ${asked.fit && !alone ? 'fit' : (stamp ?? '')}` : crossing.tileStamp,
    taking: snapping,
    overlay: taking ? NOTHING : overlay,
    alone,
  };
}
