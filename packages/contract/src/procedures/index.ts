export { type ReadProcedure, readProcedure } from './read.ts';
export { type PlacedError, readYaml } from './yaml.ts';
