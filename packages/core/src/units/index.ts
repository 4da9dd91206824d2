export { chanceText } from './chance.ts';
export { convert, UNITS, type Unit } from './convert.ts';
export { metricOf, type Role, type Shown, shown, type UnitSystem } from './display.ts';
export { saidIn, sentenceIn } from './sentence.ts';
export { signed } from './signed.ts';
export { counted, firstPart, idInWords, midSentence } from './words.ts';
