/** Windows that have room for everything in its full width; narrower ones, down to 1024 pixels, have less of it. */
export const WIDE_WINDOW = '(min-width: 1200px)';
