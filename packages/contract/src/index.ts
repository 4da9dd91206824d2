export * from './api/index.ts';
export * from './checks/index.ts';
export * from './formats/index.ts';
export { clockOf } from './time/index.ts';
