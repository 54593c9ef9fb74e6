/** The one system of formats for globes and receivers: degrees of WGS 84, the longitude first here. */
export const WGS84 = 'EPSG:4326';

/** Decimals of degrees that keep a tenth of a millimetre, and of heights in metres. */
export const DEGREE_DECIMALS = 9, HEIGHT_DECIMALS = 4;

/** Pixels in a millimetre on a screen of 96 to the inch, in which such formats tell widths. Source: CSS Values and Units Level 3, section 5.2. */
export const PIXELS_PER_MM = 96 / 25.4;
