import type { OpenImage } from '../../formats/image-face';
import { comparePiece } from './compare-piece';
import { expectedWindow } from './expected';
import { statesNothing } from './like';
import type { PieceWork } from './piece-work';
import { fateCounts } from './pixel-account';
import type { ImagePlan } from './plan';

/** Works on the pieces of a plan here. @param shown what was written; null while it is not */
export function workHere(plan: ImagePlan, shown: OpenImage | null): PieceWork {
  const lossy = plan.format.images.carries(plan.target.options).packed !== null;
  const written = (): OpenImage => {
    if (!shown) throw new Error('There is nothing to compare with yet.');
    return shown;
  };
  return {
    atOnce: 1,
    expected: (window) => expectedWindow(plan, window),
    compared: (window) => comparePiece(plan, written(), lossy, window),
    fates: (k, window) => fateCounts(plan, k, lossy || !statesNothing(plan.like) ? whole(written()) : written(), window),
    close: async () => {},
  };
}

/** A picture that cannot say that there is nothing has a value everywhere. */
const whole = (image: OpenImage): OpenImage => ({ ...image, read: async (window) => ({ ...(await image.read(window)), valid: null }) });
