export { chanceText } from './chance.ts';
export { convert, UNITS, type Unit } from './convert.ts';
export { metricOf, ROLES, type Role, type Shown, shown, UNIT_SYSTEMS, type UnitSystem } from './display.ts';
export { type Figure, figure, percent } from './figure.ts';
export { figureText, numberText, significant } from './format.ts';
export {
  type InWords,
  inWords,
  isParts,
  isSaid,
  joined,
  type Parts,
  type Said,
  said,
  wordsOf,
} from './said.ts';
export { signed } from './signed.ts';
export { counted, firstPart, idInWords, midSentence } from './words.ts';
