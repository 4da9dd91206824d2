export {
  type BankReading,
  type Change,
  compareTrims,
  type MatchedCondition,
  matchConditions,
  type Proof,
  proofOf,
} from './compare.ts';
export { bankTotals } from './totals.ts';
export { proofVerdict } from './verdict.ts';
