/** An id in words: `gasket-bank1` → gasket bank 1, `idle-ac` → idle A/C. For ids that have no label of their own. */
export function idInWords(id: string): string {
  return id
    .replaceAll('-', ' ')
    .replace(/\bbank([12])\b/g, 'bank $1')
    .replace(/\bac\b/g, 'A/C')
    .replace(/\begr\b/g, 'EGR')
    .replace(/\bpcv\b/g, 'crankcase');
}

/** A count with its noun: 1 code, 2 codes, 0 codes. */
export function counted(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString('en-US')} ${n === 1 ? one : many}`;
}

/** A label within a sentence: its first letter small, unless the word is a short form in capitals. */
export function midSentence(label: string): string {
  return /^[A-Z][A-Z0-9/]/.test(label) ? label : label.charAt(0).toLowerCase() + label.slice(1);
}

/** A sentence up to its first colon or comma, for a voice that shall not say the figures behind; a comma in a number is none. */
export function firstPart(sentence: string): string {
  return sentence.replace(/(?::|,(?!\d{3})).*$/s, '.');
}
