import type { RefObject } from 'react';
import type BaseLayer from 'ol/layer/Base';
import type TileLayer from 'ol/layer/Tile';
import type VectorTileLayer from 'ol/layer/VectorTile';
import type TileImage from 'ol/source/TileImage';
import type OlMap from 'ol/Map';
import type Projection from 'ol/proj/Projection';
import { type Crs, metresPerUnit } from '@pontrel/core/crs/crs';
import type { Palette } from '@pontrel/contract/palette';
import { frameUnit, pictureLayer, tileLayer } from './frame-map';
import { type Look, type Picked, recordStyle } from './styles';

interface Tiled {
  key: string;
  /** Where its tiles are, without /z/x/y. */
  address: string;
  /** Which side of the swipe it is on. */
  side?: 'left' | 'right';
}

/** Pictures under the records. */
export interface PictureSheetLayer extends Tiled {
  /** 0 to 1. */
  opacity: number;
}

/** Records as vector tiles. */
export interface RecordSheetLayer extends Tiled {
  look(source: string): Look;
  visible(source: string, layer: string): boolean;
  /** Whether some of its records have labels. */
  labelled?: boolean;
  /** Whether its records can be picked. */
  pickable?: boolean;
}

export type SheetLayer = RecordSheetLayer | PictureSheetLayer;

const isPicture = (layer: SheetLayer): layer is PictureSheetLayer => 'opacity' in layer;

type Made = { address: string } & ({ kind: 'records'; layer: VectorTileLayer } | { kind: 'pictures'; layer: TileLayer<TileImage> });

/** The layers of tiles that a sheet's map has, by their keys. */
export class SheetLayers {
  private readonly made = new Map<string, Made>();

  /** To be called with each new map. */
  clear(): void {
    this.made.clear();
  }

  /** Makes the map have the layers wanted, in their order; one whose address changed is another. */
  show(
    map: OlMap,
    wanted: readonly SheetLayer[],
    {
      frame,
      projection,
      palette,
      picked,
      swipeAt,
    }: { frame: Crs; projection: Projection; palette: Palette; picked: Picked | null; swipeAt: RefObject<number> },
  ): void {
    for (const [key, { layer, address }] of this.made) {
      if (wanted.find((l) => l.key === key)?.address === address) continue;
      map.removeLayer(layer);
      this.made.delete(key);
    }
    wanted.forEach((one, i) => {
      let entry = this.made.get(one.key);
      if (!entry) {
        const { address } = one;
        const name = `sheet-${one.key.replace(/[^\w-]/g, '_')}`;
        entry = isPicture(one)
          ? { kind: 'pictures', layer: pictureLayer(projection, frameUnit(frame), address, name), address }
          : { kind: 'records', layer: tileLayer(frame, projection, address, name, one.labelled === true), address };
        this.made.set(one.key, entry);
        map.addLayer(entry.layer);
        if (one.side) clipTo(entry.layer, one.side, map, swipeAt);
      }
      entry.layer.setZIndex(i);
      if (isPicture(one)) entry.layer.setOpacity(one.opacity);
      else if (entry.kind === 'records')
        entry.layer.setStyle(recordStyle(palette, metresPerUnit(frame, null), one.look, one.visible, () => picked));
    });
  }

  /** Whether records of a layer of the map can be picked. */
  isPickable(layer: BaseLayer, wanted: readonly SheetLayer[]): boolean {
    return wanted.some((l) => !isPicture(l) && l.pickable === true && this.made.get(l.key)?.layer === layer);
  }
}

/** Draws a layer on one side of the swipe only. */
function clipTo(layer: Made['layer'], side: 'left' | 'right', map: OlMap, at: RefObject<number>): void {
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
