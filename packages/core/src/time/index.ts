export { daysOf, isoOf, unixOf } from './utc.ts';
