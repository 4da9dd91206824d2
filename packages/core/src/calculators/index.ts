export { CALCULATORS, type Calculator, type CalculatorField, type CalculatorResult } from './calculators.ts';
