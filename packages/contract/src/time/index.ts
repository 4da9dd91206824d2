export { clockOf, TimeZone } from './clock.ts';
