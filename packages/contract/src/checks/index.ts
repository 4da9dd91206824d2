export {
  Above,
  ByKey,
  ID,
  ID_MESSAGE,
  IdList,
  Moment,
  MostEntries,
  Nested,
  NotAbove,
  Optional,
  Positive,
  Words,
} from './decorators.ts';
export { dtoProblems } from './dto.ts';
export { type FieldError, fieldErrors, flatten, telling } from './fieldError.ts';
export { isSaidFromOutside, Sentence } from './said.ts';
export { rawShapeProblem, SHAPE_BOUNDS, type ShapeBounds, shapeProblem } from './shape.ts';
export { cut } from './text.ts';
