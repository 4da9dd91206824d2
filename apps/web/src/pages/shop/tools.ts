import { hasTool, TESTS } from '@just-balance/core/catalogue';

const toolsOf = (tests: typeof TESTS) => [...new Set(tests.flatMap((t) => (t.tool ? [t.tool] : [])))];

export const TOOLS = toolsOf(TESTS);
/** What a shop has of which nothing was said. */
export const USUAL_TOOLS = toolsOf(TESTS.filter((t) => hasTool(t, undefined)));
