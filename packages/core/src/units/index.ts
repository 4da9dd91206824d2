// A probability in words
export { chanceText } from './chance.ts';
// Conversions
export { convert, UNITS, type Unit } from './convert.ts';
// What a reader sees
export { metricOf, type Shown, shown, type UnitSystem } from './display.ts';
