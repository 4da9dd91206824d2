export * from './live.ts';
export * from './requests.ts';
export type * from './responses.ts';
