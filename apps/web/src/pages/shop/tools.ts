import { TESTS } from '@just-balance/core/catalogue';

export const TOOLS = [...new Set(TESTS.flatMap((t) => (t.tool ? [t.tool] : [])))];
