// Conversions
export { convert, UNITS, type Unit } from './convert.ts';
// What a reader sees
export { metricOf, type Shown, shown, type UnitSystem } from './display.ts';
