export { type ReadProcedure, readProcedure } from './read.ts';
export { MOST_CHARACTERS, type PlacedError, readYaml } from './yaml.ts';
