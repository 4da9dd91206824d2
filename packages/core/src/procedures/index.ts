export { CAUTIONS, type CautionRow, cautionsFor, PRECEDENCE, WORK_STEPS } from './cautions.ts';
