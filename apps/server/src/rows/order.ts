export const OLDEST_FIRST: [string, string][] = [
  ['createdAt', 'ASC'],
  ['id', 'ASC'],
];

export const NEWEST_FIRST: [string, string][] = [
  ['createdAt', 'DESC'],
  ['id', 'DESC'],
];
