export { daysOf, isoOf, msOf, unixOf } from './utc.ts';
