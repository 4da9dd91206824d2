/** Plain names for what was called by a word of the house. */
export const STEPS = [
  // Whether the car relearns its trims after a repair or they were reset.
  "UPDATE repair SET data = JSON_REMOVE(JSON_INSERT(data, '$.adaptation', JSON_VALUE(data, '$.school')), '$.school') WHERE JSON_EXISTS(data, '$.school')",
];
