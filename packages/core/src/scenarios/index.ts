export { PRACTICE_SCENARIOS } from './shipped.ts';
