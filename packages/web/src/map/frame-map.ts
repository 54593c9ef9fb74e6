import MVT from 'ol/format/MVT';
import TileLayer from 'ol/layer/Tile';
import type VectorTileLayer from 'ol/layer/VectorTile';
import { Projection } from 'ol/proj';
import { PacedTileLayer } from './paced-tiles';
import TileImage from 'ol/source/TileImage';
import VectorTileSource from 'ol/source/VectorTile';
import TileGrid from 'ol/tilegrid/TileGrid';
import { MAX_ZOOM, resolutionAt, TILE_PIXELS } from '@pontrel/contract/tile-grid';
import { type Crs, isPlane } from '@pontrel/core/crs/crs';

/** Metres in one unit of a frame; null for degrees. */
export function frameUnit(frame: Crs): number | null {
  return isPlane(frame) ? frame.unit.metres : null;
}

/** The frame as the map library sees it: a plane of its own, which it never transforms. */
export function frameProjection(frame: Crs): Projection {
  const unit_m = frameUnit(frame);
  return new Projection({
    code: `frame ${frame.id ?? frame.name}`,
    units: unit_m === null ? 'degrees' : 'm',
    ...(unit_m === null ? {} : { metersPerUnit: unit_m }),
    axisOrientation: 'enu',
  });
}

const grids = new Map<number | null, TileGrid>();

function tileGrid(unit_m: number | null): TileGrid {
  let grid = grids.get(unit_m);
  if (!grid) {
    const resolutions = Array.from({ length: MAX_ZOOM + 1 }, (_, z) => resolutionAt(z, unit_m));
    grids.set(unit_m, (grid = new TileGrid({ origin: [0, 0], resolutions, tileSize: TILE_PIXELS })));
  }
  return grid;
}

/**
 * A layer of tiles cut in the frame. `address` is followed by /z/x/y.
 * @param labelled whether it has labels, which make room for one another: all else is then drawn anew with each movement, which takes time
 */
export function tileLayer(frame: Crs, projection: Projection, address: string, className: string, labelled: boolean): VectorTileLayer {
  return new PacedTileLayer({
    className,
    renderBuffer: 200,
    declutter: labelled,
    source: new VectorTileSource({
      format: new MVT({ layerName: 'tileLayer' }),
      projection,
      tileGrid: tileGrid(frameUnit(frame)),
      wrapX: false,
      transition: 0,
      tileUrlFunction: ([z, x, y]) => `${address}/${z}/${x}/${y}`,
    }),
  });
}

/**
 * A layer of pictures warped into the frame, or of one in the plane of its own pixels. `address` is followed by /z/x/y.
 * @param unit_m metres in a unit of that plane; null for degrees
 */
export function pictureLayer(projection: Projection, unit_m: number | null, address: string, className: string): TileLayer<TileImage> {
  return new TileLayer({
    className,
    // tiles of the zoom before stand in until those of this one are there
    preload: 1,
    source: new TileImage({
      projection,
      tileGrid: tileGrid(unit_m),
      wrapX: false,
      transition: 120,
      tileUrlFunction: ([z, x, y]) => `${address}/${z}/${x}/${y}`,
    }),
  });
}
