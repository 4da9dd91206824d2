/** What a picture is reduced to before it goes up: enough to see a hair on an element. [house] */
export const LONG_EDGE = 2400;
export const QUALITY = 0.85;
/** Larger files are no photograph of a tablet. */
export const MOST_FILE_BYTES = 40 * 1024 * 1024;
