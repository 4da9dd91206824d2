export { type BankRelearn, type Relearn, type RelearnState, relearn } from './relearn.ts';
