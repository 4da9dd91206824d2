export { EXAM_CARS, EXAM_LENGTH, examCar } from './drawn.ts';
export { PRACTICE_SCENARIOS } from './shipped.ts';
