import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

/** From the program that runs: its packages are ours. */
const require_ = createRequire(process.argv[1] ?? join(process.cwd(), 'main.js'));

/** `bold`: the file of its own weight; a font of one weight has none. */
function files(pack: string, subset: string, bold = 700) {
  const dir = join(dirname(require_.resolve(`${pack}/package.json`)), 'files');
  const file = (weight: number) => join(dir, `${pack.split('/')[1]}-${subset}-${weight}-normal.woff`);
  return { normal: file(400), bold: file(bold), italics: file(400), bolditalics: file(bold) };
}

const ATKINSON = '@fontsource/atkinson-hyperlegible-next';
const NOTO = '@fontsource/noto-sans';
const SIGNS = '@fontsource/noto-sans-math';

/** What ships with the server, each with the characters it is used for; Unicode blocks. */
const SCRIPTS = [
  {
    font: 'Latin',
    files: files(ATKINSON, 'latin'),
    has: /^[\u0020-\u00ff\u0131\u0152\u0153\u02c6\u02da\u02dc\u2010-\u2015\u2018-\u201e\u2020-\u2022\u2026\u2030\u2039\u203a\u20ac\u2122\u2212]$/u,
  },
  { font: 'LatinExt', files: files(ATKINSON, 'latin-ext'), has: /^[\u0100-\u024f\u1e00-\u1eff]$/u },
  { font: 'Greek', files: files(NOTO, 'greek'), has: /^[\u0370-\u03ff]$/u },
  { font: 'Cyrillic', files: files(NOTO, 'cyrillic'), has: /^[\u0400-\u045f\u0490\u0491\u04b0\u04b1\u2116]$/u },
  // Arrows and comparisons: of one weight, in bold text too.
  { font: 'Signs', files: files(SIGNS, 'latin', 400), has: /^[\u2190-\u2193\u2248\u2264\u2265]$/u },
] as const;

export const FONTS = Object.fromEntries(SCRIPTS.map((s) => [s.font, s.files]));
export const MAIN_FONT = SCRIPTS[0].font;
/** Only what ships may be read while a page is laid out. */
export const FONT_FILES = new Set(SCRIPTS.flatMap((s) => Object.values(s.files)));

/** Characters that print as others, because no font that ships has them. */
const STAND_IN: Readonly<Record<string, string>> = {
  '●': '•',
  '◇': '°',
  '✓': '',
  '\u2009': ' ',
  '\u202f': ' ',
  '\t': ' ',
  '\n': ' ',
  '\r': '',
};
/** What no font that ships can write. */
const UNKNOWN = '?';

/** A text in runs of one font each. */
export function runsOf(text: string): { text: string; font: string }[] {
  const out: { text: string; font: string }[] = [];
  for (const given of text.normalize('NFC'))
    for (const c of Object.hasOwn(STAND_IN, given) ? STAND_IN[given]! : given) {
      const font = SCRIPTS.find((s) => s.has.test(c))?.font;
      const last = out.at(-1);
      const [written, of] = font ? [c, font] : [UNKNOWN, MAIN_FONT];
      if (last?.font === of) last.text += written;
      else out.push({ text: written, font: of });
    }
  return out;
}
