export * from './api/requests.ts';
export type * from './api/responses.ts';
export * from './formats/index.ts';
