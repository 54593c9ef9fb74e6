import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { chakra, Box, Button, Flex } from '@chakra-ui/react';
import { Crosshair, Maximize, Minus, Plus, Ruler } from 'lucide-react';
import { defaults as defaultInteractions } from 'ol/interaction/defaults';
import DoubleClickZoom from 'ol/interaction/DoubleClickZoom';
import PointerInteraction from 'ol/interaction/Pointer';
import OlMap from 'ol/Map';
import View from 'ol/View';
import type VectorTileLayer from 'ol/layer/VectorTile';
import type { FeatureLike } from 'ol/Feature';
import { type Crs, metresPerUnit, ownSigns } from '@pontrel/core/crs/crs';
import { useKeys } from '../app/keys';
import { ICON } from '../components/parts';
import { useAppSelector } from '../state/store';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import { frameProjection, frameUnit, tileLayer } from './frame-map';
import { Footer, type FooterHandle } from './Footer';
import { Marks, type Mark, type Vector } from './Marks';
import { MeasureCard, nearestVertex, useMeasure } from './Measure';
import { PlaceCard } from './PlaceCard';
import { Neatline } from './Neatline';
import { SheetViews } from './sheet-view';
import { type Look, type Picked, recordStyle } from './styles';
import { Swipe } from './Swipe';

export interface SheetLayer {
  key: string;
  /** Where its tiles are, without /z/x/y. */
  address: string;
  look(source: string): Look;
  visible(source: string, layer: string): boolean;
  /** Which side of the swipe it is on. */
  side?: 'left' | 'right';
  /** Whether some of its records have labels. */
  labelled?: boolean;
  /** Whether its records can be picked. */
  pickable?: boolean;
}

type Extent = readonly [number, number, number, number];

export interface PlanSheetProps {
  crossing: string;
  frame: Crs;
  layers: SheetLayer[];
  extent: Extent | null;
  /** Changes when something else is to be fitted: a source newly placed. */
  fitKey: string;
  picked: Picked | null;
  onPick(picked: Picked | null): void;
  marks?: Mark[];
  vectors?: Vector[];
  /** x, y of the corners of a line that is being drawn. */
  outline?: readonly number[];
  /** While it is there, clicks set points for it instead of picking records. */
  taking?: Taking | null;
  /** Marks that can be dragged, by their number among `marks`. */
  onDrag?: ((mark: number, x: number, y: number) => void) | undefined;
  /** A place to go to; a new object goes there again. */
  goTo?: { x: number; y: number } | null;
  head?: ReactNode;
  /** Stands in the place of `head` while something is taken; what is asked for then stands on the map. */
  tools?: ReactNode;
  /** Lies over the lower left corner of the map. */
  card?: ReactNode;
  swipeNames?: [string, string];
}

/** A point that is asked for; `snap` finds the vertex that catches it. */
export interface Taking {
  prompt: string;
  snap(x: number, y: number, reach: number): Promise<[number, number] | null>;
  take(x: number, y: number, caught: boolean): void;
  /** Where the pointer is, while it is over the map. */
  hover?(x: number, y: number): void;
  /** Is told two corners of a box while it is drawn by dragging, and at last when it is done; the map stays where it is. */
  drag?(from: readonly [number, number], to: readonly [number, number], done: boolean): void;
  cancel(): void;
}

/** The width of the margin that holds the ticks. */
const MARGIN = 18;
const RANK: Record<string, number> = { point: 0, text: 1, line: 2, polygon: 3 };

/** The map: every sheet stands in a neatline with ticks on its four edges. */
export function PlanSheet(props: PlanSheetProps) {
  const { crossing, frame, layers, extent, fitKey, picked, onPick, goTo } = props;
  const holder = useRef<HTMLDivElement>(null);
  const mapRef = useRef<OlMap | null>(null);
  const made = useRef(new Map<string, { layer: VectorTileLayer; address: string }>());
  const swipeAt = useRef(0.5);
  const footer = useRef<FooterHandle>(null);
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const [views] = useState(() => new SheetViews());
  const projection = useMemo(() => frameProjection(frame), [frame]);
  const measure = useMeasure(props.crossing, frame);
  const [telling, setTelling] = useState(false);
  const [told, setTold] = useState<[number, number] | null>(null);
  const [gone, setGone] = useState<{ x: number; y: number } | null>(null);
  const { taking = null, onDrag, marks = [] } = props;
  const latest = useRef({ layers, picked, onPick, measure, taking, telling, onDrag, marks });
  useEffect(() => {
    latest.current = { layers, picked, onPick, measure, taking, telling, onDrag, marks };
  });

  const fit = useCallback(() => {
    const map = mapRef.current;
    if (map && extent) map.getView().fit([...extent], { padding: [24, 24, 24, 24], maxZoom: 30 });
  }, [extent]);

  const takeAt = useCallback(
    (pixel: number[]) => {
      const map = mapRef.current;
      if (!map) return;
      const { measure: m, taking: wanted, telling: asks } = latest.current;
      if (wanted) {
        const [x, y] = map.getCoordinateFromPixel(pixel) as [number, number];
        void wanted.snap(x, y, 10 * map.getView().getResolution()!).then((vertex) => wanted.take(...(vertex ?? [x, y]), vertex !== null));
        return;
      }
      if (asks) {
        const [x, y] = map.getCoordinateFromPixel(pixel) as [number, number];
        void nearestVertex(crossing, x, y, 10 * map.getView().getResolution()!).then((vertex) => setTold(vertex ?? [x, y]));
        return;
      }
      if (m.on) {
        const [x, y] = map.getCoordinateFromPixel(pixel) as [number, number];
        m.add(x, y, 10 * map.getView().getResolution()!);
        return;
      }
      let best: { feature: FeatureLike; rank: number } | null = null;
      map.forEachFeatureAtPixel(
        pixel,
        (feature, layer) => {
          if (!latest.current.layers.find((l) => made.current.get(l.key)?.layer === layer)?.pickable) return;
          const rank = RANK[String(feature.get('kind'))] ?? 9;
          if (!best || rank < best.rank) best = { feature, rank };
        },
        { hitTolerance: 5 },
      );
      const found = best as { feature: FeatureLike } | null;
      latest.current.onPick(
        found
          ? { source: String(found.feature.get('source')), layer: String(found.feature.get('layer')), id: Number(found.feature.getId()) }
          : null,
      );
    },
    [crossing],
  );

  // one map a frame
  useEffect(() => {
    const unit_m = metresPerUnit(frame, null);
    const map = new OlMap({
      // tiles that come all at once would be made ready in one frame
      maxTilesLoading: 4,
      target: holder.current!,
      controls: [],
      layers: [],
      interactions: defaultInteractions({ onFocusOnly: false, altShiftDragRotate: false, pinchRotate: false }),
      view: new View({
        projection,
        center: [0, 0],
        resolution: 1,
        minResolution: 0.0005 / unit_m,
        maxResolution: 40_000 / unit_m,
        enableRotation: false,
        smoothExtentConstraint: false,
      }),
    });
    mapRef.current = map;
    const known = made.current;
    known.clear();
    let asked = false;
    const read = (): void => {
      asked = false;
      const size = map.getSize();
      const center = map.getView().getCenter();
      if (size && center && size[0]! > 0)
        views.set({ width: size[0]!, height: size[1]!, x: center[0]!, y: center[1]!, resolution: map.getView().getResolution()! });
    };
    const soon = (): void => {
      if (asked) return;
      asked = true;
      requestAnimationFrame(read);
    };
    map.getView().on(['change:center', 'change:resolution'], soon);
    map.on('change:size', soon);
    map.on('pointermove', (e) => {
      footer.current?.cursor(e.coordinate as [number, number], e.pixel as [number, number]);
      latest.current.taking?.hover?.(e.coordinate[0]!, e.coordinate[1]!);
      if (latest.current.measure.on) latest.current.measure.hover(e.coordinate[0]!, e.coordinate[1]!);
    });
    map.on('click', (e) => takeAt(e.pixel));
    let held = -1;
    let corner: { at: [number, number]; pixel: number[]; moved: boolean } | null = null;
    map.addInteraction(
      new PointerInteraction({
        handleDownEvent(e) {
          corner = latest.current.taking?.drag ? { at: [e.coordinate[0]!, e.coordinate[1]!], pixel: e.pixel, moved: false } : null;
          return corner !== null;
        },
        handleDragEvent(e) {
          // a hand that shakes a little only clicks
          corner!.moved ||= Math.hypot(e.pixel[0]! - corner!.pixel[0]!, e.pixel[1]! - corner!.pixel[1]!) >= 4;
          if (corner!.moved) latest.current.taking?.drag?.(corner!.at, [e.coordinate[0]!, e.coordinate[1]!], false);
        },
        handleUpEvent(e) {
          if (corner!.moved) latest.current.taking?.drag?.(corner!.at, [e.coordinate[0]!, e.coordinate[1]!], true);
          return false;
        },
      }),
    );
    map.addInteraction(
      new PointerInteraction({
        handleDownEvent(e) {
          const { onDrag: drag, marks: rings } = latest.current;
          held = drag
            ? rings.findIndex(
                (m) => Math.hypot(...(map.getPixelFromCoordinate([m.x, m.y]).map((v, k) => v - e.pixel[k]!) as [number, number])) < 10,
              )
            : -1;
          return held >= 0;
        },
        handleDragEvent: (e) => latest.current.onDrag?.(held, e.coordinate[0]!, e.coordinate[1]!),
        handleUpEvent: () => false,
      }),
    );
    holder.current!.addEventListener('pointerleave', () => footer.current?.cursor(null, null));
    return () => {
      map.setTarget(undefined);
      mapRef.current = null;
      known.clear();
    };
  }, [frame, projection, takeAt, views]);

  // the layers wanted, in their order
  useEffect(() => {
    const map = mapRef.current;
    if (!map) return;
    for (const [key, { layer, address }] of made.current) {
      const wanted = layers.find((l) => l.key === key);
      if (wanted?.address === address) continue;
      map.removeLayer(layer);
      made.current.delete(key);
    }
    layers.forEach((wanted, i) => {
      let entry = made.current.get(wanted.key);
      if (!entry) {
        const layer = tileLayer(frame, projection, wanted.address, `sheet-${wanted.key}`, wanted.labelled === true);
        entry = { layer, address: wanted.address };
        made.current.set(wanted.key, entry);
        map.addLayer(layer);
        if (wanted.side) clipTo(layer, wanted.side, map, swipeAt);
      }
      entry.layer.setZIndex(i);
      entry.layer.setStyle(recordStyle(palette, metresPerUnit(frame, null), wanted.look, wanted.visible, () => picked));
    });
  }, [layers, frame, projection, palette, picked]);

  // two quick clicks are two points of a measurement, not a zoom
  const measuring = measure.on || taking !== null || telling;
  useEffect(() => {
    for (const i of mapRef.current?.getInteractions().getArray() ?? []) if (i instanceof DoubleClickZoom) i.setActive(!measuring);
  }, [measuring, frame]);

  // the first picture, and whenever something else is there to be seen
  const fitted = useRef('');
  useEffect(() => {
    if (!extent || fitted.current === fitKey) return;
    fitted.current = fitKey;
    const map = mapRef.current!;
    if (map.getSize()?.[0]) fit();
    else map.once('change:size', fit);
  }, [fitKey, extent, fit]);

  const destination = gone ?? goTo;
  useEffect(() => setGone(null), [goTo]);
  useEffect(() => {
    const map = mapRef.current;
    if (!destination || !map) return;
    map.getView().animate({
      center: [destination.x, destination.y],
      resolution: Math.min(map.getView().getResolution()!, 0.12 / metresPerUnit(frame, null)),
      duration: 250,
    });
  }, [destination, frame]);

  const zoomBy = (steps: number): void => {
    const v = mapRef.current?.getView();
    v?.animate({ zoom: v.getZoom()! + steps, duration: 120 });
  };
  useKeys({
    '+': () => zoomBy(1),
    '=': () => zoomBy(1),
    '-': () => zoomBy(-1),
    f: fit,
    m: () => measure.toggle(),
    c: () => setTelling(!telling),
    escape: () => (taking ? taking.cancel() : measure.on ? measure.toggle() : telling ? setTelling(false) : onPick(null)),
  });

  return (
    <Flex direction="column" minH="0" minW="0" h="100%">
      <Flex align="center" gap="12px" h="44px" px="12px" flex="none" containerType="inline-size">
        <Flex flex="1" minW="0" align="center" gap="12px" overflow="hidden">
          {taking && !props.tools ? <Prompt taking={taking} /> : taking ? props.tools : props.head}
        </Flex>
        <Button
          size="sm"
          aria-pressed={measure.on}
          aria-label="Measure"
          aria-keyshortcuts="m"
          {...(measure.on ? { bg: 'verdigrisTint', borderColor: 'verdigris', color: 'verdigrisInk' } : {})}
          onClick={measure.toggle}
        >
          <Ruler {...ICON} size={14} />
          <WhereRoom>Measure</WhereRoom>
        </Button>
        <Button
          size="sm"
          aria-pressed={telling}
          aria-label="Coordinates"
          aria-keyshortcuts="c"
          {...(telling ? { bg: 'verdigrisTint', borderColor: 'verdigris', color: 'verdigrisInk' } : {})}
          onClick={() => setTelling(!telling)}
        >
          <Crosshair {...ICON} size={14} />
          <WhereRoom>Coordinates</WhereRoom>
        </Button>
        <Flex>
          <Button size="sm" px="0" borderEndRadius="0" aria-label="Zoom in" aria-keyshortcuts="+" onClick={() => zoomBy(1)}>
            <Plus {...ICON} size={14} />
          </Button>
          <Button size="sm" px="0" ml="-1px" borderRadius="0" aria-label="Zoom out" aria-keyshortcuts="-" onClick={() => zoomBy(-1)}>
            <Minus {...ICON} size={14} />
          </Button>
          <Button size="sm" px="0" ml="-1px" borderStartRadius="0" aria-label="Fit everything" aria-keyshortcuts="f" onClick={fit}>
            <Maximize {...ICON} size={14} />
          </Button>
        </Flex>
      </Flex>
      <Flex direction="column" flex="1" minH="0" mx="12px" mb="12px" borderWidth="1px" borderColor="ink" bg="surface">
        <Box position="relative" flex="1" minH="0">
          <Box position="absolute" inset={`${MARGIN}px`} bg="map" borderWidth="1px" borderColor="ink">
            <Box
              ref={holder}
              tabIndex={0}
              role="application"
              aria-label="Map. Arrow keys move it, plus and minus zoom, Enter takes the point in the middle."
              position="absolute"
              inset="0"
              cursor={measuring ? 'crosshair' : 'default'}
              css={{ '&:focus-visible + .centre': { display: 'block' } }}
              onKeyDown={(e) => {
                const view = views.now();
                if (e.key === 'Enter' && view) {
                  e.preventDefault();
                  takeAt([view.width / 2, view.height / 2]);
                }
              }}
            />
            <Box
              className="centre"
              display="none"
              position="absolute"
              left="50%"
              top="50%"
              w="21px"
              h="21px"
              ml="-10.5px"
              mt="-10.5px"
              pointerEvents="none"
              color="oxide"
            >
              <svg width="21" height="21" viewBox="0 0 21 21" aria-hidden="true">
                <path d="M10.5 0v8M10.5 13v8M0 10.5h8M13 10.5h8" stroke="currentColor" strokeWidth="1.4" />
              </svg>
            </Box>
            <Marks
              views={views}
              marks={told && telling ? [...marks, { x: told[0], y: told[1], tone: 'oxide' as const }] : marks}
              line={measure.on ? measure.line : (props.outline ?? [])}
              vectors={props.vectors ?? []}
            />
            {props.swipeNames && (
              <Swipe
                names={props.swipeNames}
                onMove={(t) => {
                  swipeAt.current = t;
                  mapRef.current?.render();
                }}
              />
            )}
            {taking && props.tools && (
              <Box position="absolute" left="8px" top="8px" maxW="calc(100% - 60px)" pointerEvents="none">
                <Prompt taking={taking} />
              </Box>
            )}
            {telling && (
              <PlaceCard
                crossing={crossing}
                frame={frame}
                at={told}
                middle={() => [views.now()?.x ?? 0, views.now()?.y ?? 0]}
                onClose={() => setTelling(false)}
                onGo={(x, y) => {
                  setTold([x, y]);
                  setGone({ x, y });
                }}
              />
            )}
            {measure.on && <MeasureCard measure={measure} frame={frame} />}
            {props.card && (
              <Box position="absolute" left="8px" bottom="8px" maxW="320px" maxH="calc(100% - 16px)">
                {props.card}
              </Box>
            )}
          </Box>
          <Neatline views={views} margin={MARGIN} degrees={frameUnit(frame) === null} signs={ownSigns(frame)} />
        </Box>
        <Footer ref={footer} frame={frame} views={views} margin={MARGIN} />
      </Flex>
    </Flex>
  );
}

/** What is asked for on the map. */
function Prompt({ taking }: { taking: Taking }) {
  return (
    <Box bg="ink" color="surface" borderRadius="sheet" px="11px" py="5px" fontWeight={550} truncate role="status">
      {taking.prompt}
    </Box>
  );
}

/** Draws a layer on one side of the swipe only. */
function clipTo(layer: VectorTileLayer, side: 'left' | 'right', map: OlMap, at: { current: number }): void {
  layer.on('prerender', (e) => {
    const context = e.context as CanvasRenderingContext2D;
    const [width, height] = map.getSize() ?? [0, 0];
    const ratio = e.frameState!.pixelRatio;
    const x = width! * at.current * ratio;
    context.save();
    context.beginPath();
    if (side === 'left') context.rect(0, 0, x, height! * ratio);
    else context.rect(x, 0, width! * ratio - x, height! * ratio);
    context.clip();
  });
  layer.on('postrender', (e) => (e.context as CanvasRenderingContext2D).restore());
}

/** A word beside an icon, which goes where the bar is too narrow for it. */
function WhereRoom({ children }: { children: string }) {
  return <chakra.span css={{ '@container (max-width: 520px)': { display: 'none' } }}>{children}</chakra.span>;
}
