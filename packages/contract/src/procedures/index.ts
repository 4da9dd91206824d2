export { type PlacedError, type ReadProcedure, readProcedure } from './read.ts';
