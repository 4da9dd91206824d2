/** The input is wrong: one line on stderr naming file, line or field and reason, exit 2. */
export class BadInput extends Error {}
