export { isoOf, unixOf } from './utc.ts';
