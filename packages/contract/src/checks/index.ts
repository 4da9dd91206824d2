export { Above, Nested, Optional } from './decorators.ts';
export { dtoProblems } from './dto.ts';
export { type FieldError, flatten, plainMessage } from './fieldError.ts';
export { rawShapeProblem, SHAPE_BOUNDS, type ShapeBounds, shapeProblem } from './shape.ts';
export { cut } from './text.ts';
