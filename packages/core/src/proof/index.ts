export {
  type BankReading,
  type Change,
  compareTrims,
  type MatchedCondition,
  matchConditions,
  type Proof,
  proofOf,
} from './compare.ts';
