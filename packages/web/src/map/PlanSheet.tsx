import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Box, Flex } from '@chakra-ui/react';
import { defaults as defaultInteractions } from 'ol/interaction/defaults';
import DoubleClickZoom from 'ol/interaction/DoubleClickZoom';
import OlMap from 'ol/Map';
import View from 'ol/View';
import { type Crs, metresPerUnit, ownSigns } from '@pontrel/core/crs/crs';
import { useKeys } from '../app/keys';
import { useAppSelector } from '../state/store';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import { frameProjection, frameUnit } from './frame-map';
import { useCrossing } from '../crossing/use-crossing';
import { Footer, type FooterHandle } from './Footer';
import { ImagesPanel } from './ImagesPanel';
import { Legend } from './Legend';
import { Loupe, type LoupeHandle } from './Loupe';
import { boxDrag, markDrag } from './map-drags';
import { recordAt } from './ask-place';
import { type MapTool, measureWith, pickRecord, takePoint, type Taking, tellCoordinates, type XY } from './map-tool';
import { Marks, type Mark, type Vector } from './Marks';
import { MeasureCard, useMeasure } from './Measure';
import { PlaceCard } from './PlaceCard';
import { Neatline } from './Neatline';
import { PrintMap } from './PrintMap';
import { SheetBar } from './SheetBar';
import { type SheetLayer, SheetLayers } from './sheet-layers';
import { SheetViews } from './sheet-view';
import { type Picked, scaleAt } from './styles';
import { asShown, useMapLayers } from './use-map-layers';
import { Swipe } from './Swipe';

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
  /** x, y of the vertices of a course that is followed. */
  course?: readonly number[];
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

/** Pixels within which a vertex catches a point. */
const CATCHES = 10;
/** The width of the margin that holds the ticks. */
const MARGIN = 18;

/** The map: every sheet stands in a neatline with ticks on its four edges. */
export function PlanSheet(props: PlanSheetProps) {
  const { crossing, frame, extent, fitKey, picked, onPick, goTo } = props;
  const mapLayers = useMapLayers(crossing);
  const layers = useMemo(() => asShown(props.layers, mapLayers), [props.layers, mapLayers]);
  const holder = useRef<HTMLDivElement>(null);
  const mapRef = useRef<OlMap | null>(null);
  const [shown] = useState(() => new SheetLayers());
  const swipeAt = useRef(0.5);
  const footer = useRef<FooterHandle>(null);
  const loupe = useRef<LoupeHandle>(null);
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [under, setUnder] = useState<XY | null>(null);
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const [views] = useState(() => new SheetViews());
  const projection = useMemo(() => frameProjection(frame), [frame]);
  const measure = useMeasure(props.crossing, frame);
  const [telling, setTelling] = useState(false);
  const [listing, setListing] = useState(false);
  const [legend, setLegend] = useState(false);
  const [printing, setPrinting] = useState(false);
  const { pictures, sources } = useCrossing();
  const hasImages = pictures.length > 0;
  const hasSources = props.layers.some((l) => l.key === 'sources');
  const [told, setTold] = useState<XY | null>(null);
  const [gone, setGone] = useState<{ x: number; y: number } | null>(null);
  const { taking = null, onDrag, marks = [] } = props;
  const tool: MapTool = taking
    ? takePoint(taking)
    : telling
      ? tellCoordinates(crossing, setTold)
      : measure.on
        ? measureWith(measure)
        : pickRecord(
            () => mapRef.current,
            (layer) => shown.isPickable(layer, layers),
            onPick,
            async ({ source, layer }, at, reach) => {
              const id = sources.find((s) => s.name === source)?.id;
              return id === undefined ? null : recordAt(crossing, id, layer, at, reach);
            },
          );
  const [caught, setCaught] = useState<XY | null>(null);
  const catching = tool.catches !== undefined;
  useEffect(() => setCaught(null), [catching, taking]);
  // the map is made once, and asks what is so now
  const enlarging = taking !== null && layers.some((l) => 'opacity' in l);
  const latest = useRef({ tool, onDrag, marks, enlarging, listing });
  useEffect(() => {
    latest.current = { tool, onDrag, marks, enlarging, listing };
    if (!enlarging) loupe.current?.show(null);
  });

  const fit = useCallback(() => {
    const map = mapRef.current;
    if (map && extent) map.getView().fit([...extent], { padding: [24, 24, 24, 24], maxZoom: 30 });
  }, [extent]);

  const clickAt = useCallback((pixel: number[]) => {
    const map = mapRef.current;
    if (map)
      latest.current.tool.click(map.getCoordinateFromPixel(pixel) as [number, number], pixel, CATCHES * map.getView().getResolution()!);
  }, []);

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
    shown.clear();
    let resting: ReturnType<typeof setTimeout> | undefined;
    let catching: ReturnType<typeof setTimeout> | undefined;
    // what lies under the pointer is asked for when it comes to rest
    const rested = (at: XY): void => {
      clearTimeout(resting);
      resting = setTimeout(() => setUnder(at), 160);
    };
    const ended = new AbortController();
    const caughtAt = (at: XY): void => {
      clearTimeout(catching);
      catching = setTimeout(() => {
        const own = catching;
        const found = latest.current.tool.catches?.(at, CATCHES * map.getView().getResolution()!);
        // another place may have been pointed at meanwhile
        void found?.then((vertex) => own === catching && !ended.signal.aborted && setCaught(vertex));
      }, 60);
    };
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
      latest.current.tool.hover?.(e.coordinate as [number, number]);
      if (latest.current.enlarging) loupe.current?.show(e.pixel as [number, number]);
      if (latest.current.tool.catches) caughtAt(e.coordinate as [number, number]);
      if (latest.current.listing) rested([e.coordinate[0]!, e.coordinate[1]!]);
    });
    map.on('click', (e) => clickAt(e.pixel));
    map.addInteraction(boxDrag(() => latest.current.tool));
    map.addInteraction(
      markDrag(
        map,
        () => latest.current.marks,
        () => latest.current.onDrag,
      ),
    );
    holder.current!.addEventListener('pointerleave', () => {
      footer.current?.cursor(null, null);
      loupe.current?.show(null);
      clearTimeout(catching);
      catching = undefined;
      setCaught(null);
    });
    return () => {
      ended.abort();
      clearTimeout(catching);
      clearTimeout(resting);
      map.setTarget(undefined);
      mapRef.current = null;
      shown.clear();
    };
  }, [frame, projection, clickAt, views, shown]);

  // the layers wanted, in their order
  useEffect(() => {
    if (mapRef.current) shown.show(mapRef.current, layers, { frame, projection, palette, picked, swipeAt });
  }, [shown, layers, frame, projection, palette, picked]);

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
  const inSight = (): { middle: [number, number]; scale: number } => {
    const view = views.now();
    return { middle: [view?.x ?? 0, view?.y ?? 0], scale: scaleAt((view?.resolution ?? 1) * metresPerUnit(frame, null)) };
  };
  const toggleLegend = (): void => {
    setListing(false);
    setLegend(!legend);
  };
  useKeys({
    '+': () => zoomBy(1),
    '=': () => zoomBy(1),
    '-': () => zoomBy(-1),
    f: fit,
    m: () => measure.toggle(),
    c: () => setTelling(!telling),
    i: () => {
      if (!hasImages) return;
      setLegend(false);
      setListing(!listing);
    },
    k: toggleLegend,
    escape: () => (taking ? taking.cancel() : measure.on ? measure.toggle() : telling ? setTelling(false) : onPick(null)),
  });

  return (
    <Flex direction="column" minH="0" minW="0" h="100%">
      <SheetBar
        measuring={measure.on}
        telling={telling}
        onMeasure={measure.toggle}
        listing={hasImages ? listing : null}
        onTell={() => setTelling(!telling)}
        onList={() => {
          setLegend(false);
          setListing(!listing);
        }}
        legend={hasSources ? legend : null}
        touched={mapLayers.touched}
        onLegend={toggleLegend}
        onPrint={hasSources ? () => setPrinting(true) : undefined}
        onZoom={zoomBy}
        onFit={fit}
      >
        {taking && !props.tools ? <Prompt taking={taking} /> : taking ? props.tools : props.head}
      </SheetBar>
      <PrintMap at={printing ? inSight() : null} shown={mapLayers} onClose={() => setPrinting(false)} />
      <Flex direction="column" flex="1" minH="0" mx="12px" mb="12px" borderWidth="1px" borderColor="ink" bg="surface">
        <Box position="relative" flex="1" minH="0">
          <Box position="absolute" inset={`${MARGIN}px`} bg="map" borderWidth="1px" borderColor="ink">
            <Box
              ref={(el: HTMLDivElement | null) => {
                holder.current = el;
                setBox(el);
              }}
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
                  clickAt([view.width / 2, view.height / 2]);
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
              course={props.course ?? []}
              vectors={props.vectors ?? []}
              caught={catching ? caught : null}
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
            <Loupe holder={box} ref={loupe} />
            {listing && hasImages && <ImagesPanel under={under} onClose={() => setListing(false)} />}
            {legend && hasSources && <Legend shown={mapLayers} all={layers.some((l) => l.key === 'preview')} onClose={toggleLegend} />}
            {measure.on && <MeasureCard measure={measure} frame={frame} />}
            {props.card && (
              <Flex position="absolute" left="8px" bottom="8px" maxW="320px" maxH="calc(100% - 16px)">
                {props.card}
              </Flex>
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
