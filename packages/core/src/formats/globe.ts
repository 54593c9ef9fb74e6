/** The one system of formats for globes and receivers: degrees of WGS 84, the longitude first here. */
export const WGS84 = 'EPSG:4326';

/** Decimals of degrees that keep a tenth of a millimetre, and of heights in metres. */
export const DEGREE_DECIMALS = 9,
  HEIGHT_DECIMALS = 4;
