// The floors of the house, the lowest first: what stands on one may use what lies below it, and nothing above or beside it.
// Lint holds the code to this, and the diagram in docs/architecture.md is drawn from it.

/** Folders of packages/core/src. */
export const CORE_FLOORS = [
  'model',
  'io',
  'geometry',
  'crs',
  'placement',
  'raster',
  'symbology',
  'filter',
  'operations',
  'formats',
  'content',
  'crossing',
];

/** What each package may use. */
export const PACKAGES = {
  core: [],
  contract: ['core'],
  'host-node': ['core'],
  cli: ['core', 'host-node'],
  server: ['core', 'contract', 'host-node'],
  web: ['core', 'contract'],
  demo: ['core', 'host-node'],
  standins: [],
};
