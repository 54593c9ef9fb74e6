import { PARAM } from '../crs';
import { mirrored, type Method } from './method';
import { kruger, transverseMercator } from './transverse-mercator';

/** Transverse Mercator with westings and southings. Source: IOGP Guidance Note 7-2, section 3.5.4 (EPSG method 9808). */
export const transverseMercatorSouth: Method = {
  code: 9808,
  name: 'Transverse Mercator (South Orientated)',
  parameters: transverseMercator.parameters,
  orientation: { x: 'west', y: 'south' },
  compile(ellipsoid, value) {
    const plane = kruger(ellipsoid, (p) => (p === PARAM.falseEasting || p === PARAM.falseNorthing ? -value(p) : value(p)));
    return mirrored(plane, -1, -1);
  },
};
