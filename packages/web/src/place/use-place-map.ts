import type { Placement } from '@pontrel/core/placement/placement';
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import type { CrossingState, SourceState, UnitQuestion } from '@pontrel/contract/crossing';
import { type Crs, northUp, ownSigns } from '@pontrel/core/crs/crs';
import { localPlane } from '@pontrel/core/crs/local-plane';
import { unitOfLength } from '@pontrel/core/placement/ratio';
import type { Mark, Vector } from '../map/Marks';
import { nearestVertex } from '../map/ask-place';
import type { Taking } from '../map/map-tool';
import type { SheetLayer } from '../map/sheet-layers';
import { pictureTiles, sourceTiles, useFrame } from '../map/use-frame';
import { isLocalPlane } from '../components/crs-label';
import { planePlacement } from './plane-placement';
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
  /** Why the numbers of the source can hardly be those of the system that is tried, and which unit of it is not settled. */
  doubt: string | null;
  unit: UnitQuestion | null;
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

/** Metres in one degree of a meridian, roughly. */
const DEGREE_M = 111_000;

const NOTHING: Overlay = { marks: [], vectors: [] };

/** The map of the stage: what is placed, what is tried out, and the drawing alone while a mark in it is asked for. */
export function usePlaceMap(crossing: CrossingState, source: SourceState | undefined, several: boolean) {
  const frame = useFrame(crossing);
  const [wanted, setWanted] = useState<Placement | null>(null);
  const [takenOf, setTakenOf] = useState<'drawing' | 'map' | null>(null);
  const [taking, setTaking] = useState<Taking | null>(null);
  const [overlay, setOverlay] = useState<Overlay>(NOTHING);
  const placement = useDeferredValue(wanted);
  // without a frame the system that is tried is the one that is drawn in
  const { data: tried } = useCrsQuery(placement?.crs ?? '', { skip: frame !== undefined || !placement });
  const isPlaced =
    source !== undefined &&
    crossing.recipe.sources[source.name]?.placement !== null &&
    crossing.recipe.sources[source.name]?.placement !== undefined;
  // until something is tried, what has no place yet is shown in its own numbers, but not while a place on the map is asked for
  const own = source !== undefined && (takenOf === 'drawing' || (takenOf !== 'map' && !isPlaced && !placement));
  // numbers that look like degrees need a scale at which they can be seen
  const unit_m = source?.doubt?.code === 'system-degrees' ? DEGREE_M : (source?.unit?.metres ?? null);
  const asked = useMemo((): Placement | null => (own ? planePlacement(unit_m) : placement), [own, unit_m, placement]);
  // nothing leads from a plane of its own into the frame: it is drawn in itself
  const plane = useMemo(() => (asked && isLocalPlane(asked.crs) ? localPlane(unitOfLength(asked.unit_m ?? 1)) : null), [asked]);
  const mapFrame = plane ?? frame ?? (placement ? tried : undefined);
  const { currentData: preview } = usePreviewQuery(
    { id: crossing.id, source: source?.id ?? '', placement: asked!, revision: crossing.revision },
    { skip: !asked || !source },
  );
  const name = source?.name;
  const layers = useMemo((): SheetLayer[] => {
    const shown: SheetLayer[] = [];
    if (!own && frame && (!plane || crossing.frame?.kind === 'local')) {
      shown.push(
        ...pictureTiles(crossing, several || asked !== null ? 0.35 : 0).filter((l) => asked === null || l.key !== `picture-${source?.id}`),
      );
      shown.push(sourceTiles(crossing, (s) => ({ color: null, ghost: asked !== null || (several && s !== name) }), true));
    }
    if (asked && preview && !preview.problem && source?.images) {
      shown.push({
        key: 'preview',
        address: `/api/crossings/${crossing.id}/sources/${source.id}/previews/${preview.stamp}/picture-tiles`,
        opacity: own ? 1 : 0.75,
      });
    } else if (asked && preview && !preview.problem && source) {
      shown.push({
        key: 'preview',
        address: `/api/crossings/${crossing.id}/sources/${source.id}/previews/${preview.stamp}`,
        look: () => ({ color: null, ghost: false }),
        visible: () => true,
      });
    }
    return shown;
  }, [own, frame, plane, crossing, several, name, asked, preview, source]);
  const extent = asked ? (preview?.extent ?? null) : crossing.frameExtent;
  const [sx, sy] = mapFrame ? ownSigns(mapFrame) : [1, 1];
  const toMap = useCallback((at: readonly [number, number]): XY => [sx * at[0], sy * at[1]], [sx, sy]);
  const stamp = preview?.stamp;
  const take = useCallback(
    (prompt: string, of: 'drawing' | 'map'): Promise<XY | null> =>
      new Promise((resolve) => {
        const done = (at: XY | null): void => {
          setTaking(null);
          setTakenOf(null);
          resolve(at);
        };
        setTakenOf(of);
        setTaking({ prompt, snap: async () => null, take: (x, y) => done([x, y]), cancel: () => done(null) });
      }),
    [],
  );
  const snapping = useMemo(
    (): Taking | null =>
      taking && {
        ...taking,
        snap: async (x, y, reach) => {
          if (asked && source && stamp && !source.images) {
            const response = await fetch(
              `/api/crossings/${crossing.id}/sources/${source.id}/previews/${stamp}/vertex?x=${x}&y=${y}&reach=${reach}`,
            );
            const found = response.ok ? ((await response.json()) as { vertex: XY | null }).vertex : null;
            if (found || own) return found;
          }
          // a picture has no vertices to catch
          if (own) return null;
          return nearestVertex(crossing.id, x, y, reach);
        },
        take: (x, y, caught) => taking.take(sx * x, sy * y, caught),
      },
    [taking, asked, own, source, stamp, crossing.id, sx, sy],
  );
  const stopTaking = useCallback(() => taking?.cancel(), [taking]);
  const map: PlaceMap = {
    frame,
    preview: setWanted,
    previewed: wanted,
    problem: asked ? (preview?.problem ?? null) : null,
    doubt: asked && !own ? (preview?.doubt ?? null) : null,
    unit: asked && !own ? (preview?.unit ?? null) : null,
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
    fitKey: asked ? `${own ? 'alone' : 'preview'} ${asked.fit ? 'fit' : (stamp ?? '')}` : crossing.tileStamp,
    taking: snapping,
    overlay: taking ? NOTHING : overlay,
    inOwnNumbers: own,
  };
}
