import type { FrameState } from 'ol/Map';
import VectorTileLayer from 'ol/layer/VectorTile';
import CanvasVectorTileLayerRenderer from 'ol/renderer/canvas/VectorTileLayer';
import type VectorRenderTile from 'ol/VectorRenderTile';

/** Tiles that are drawn anew in one frame. */
const A_FRAME = 2;

/**
 * When the map comes to rest, every tile in sight is drawn anew for the exact scale. All at once that would stop the page for as long as a
 * whole picture takes: a few are drawn with each frame, and the others stay as they are until it is their turn.
 */
class PacedRenderer extends CanvasVectorTileLayerRenderer {
  private frame = -1;
  private readonly drawn = new Set<VectorRenderTile>();

  override getTile(z: number, x: number, y: number, frameState: FrameState): VectorRenderTile | null {
    if (frameState.index !== this.frame) {
      this.frame = frameState.index;
      this.drawn.clear();
    }
    const before = (this.getOrCreateTile(z, x, y, frameState) as VectorRenderTile | null)?.wantedResolution;
    const tile = super.getTile(z, x, y, frameState) as VectorRenderTile | null;
    if (!tile || !before || tile.wantedResolution === before || this.drawn.has(tile)) return tile;
    if (this.drawn.size < A_FRAME) this.drawn.add(tile);
    else {
      tile.wantedResolution = before;
      frameState.animate = true;
    }
    return tile;
  }
}

export class PacedTileLayer extends VectorTileLayer {
  override createRenderer(): CanvasVectorTileLayerRenderer {
    return new PacedRenderer(this, {});
  }
}
