import sharp from 'sharp';
import { generator } from '../lib/random.mjs';

/** What is drawn for a fault: a hose with a crack, a wire with dust, a plate with a rim of soot, a part on a bench. */
const KINDS = {
  'vac-leak': 'hose',
  'crankcase-leak': 'hose',
  'duct-leak': 'hose',
  'egr-gasket-leak': 'hose',
  'maf-dirty': 'wire',
  'maf-under': 'wire',
  'throttle-fouled': 'plate',
};

/** A picture of a part, drawn: JPEG bytes. */
export async function partPicture(fault, label, seed) {
  const r = generator(seed);
  const spots = (n, x, y, w, h, colour, size) =>
    Array.from(
      { length: n },
      () =>
        `<circle cx="${(x + r.next() * w).toFixed(0)}" cy="${(y + r.next() * h).toFixed(0)}" r="${(size * (0.4 + r.next())).toFixed(1)}" fill="${colour}" opacity="${(0.3 + 0.5 * r.next()).toFixed(2)}"/>`,
    ).join('');
  const mended = label !== 'as found';
  const light = `rgb(${70 + Math.floor(30 * r.next())},${74 + Math.floor(20 * r.next())},${80})`;
  const draw = {
    hose: `<path d="M60 420 C 220 ${260 + 60 * r.next()}, 420 ${120 + 80 * r.next()}, 590 150" stroke="#1c1d20" stroke-width="74" fill="none" stroke-linecap="round"/><path d="M60 400 C 220 260, 420 120, 590 132" stroke="#4a4d55" stroke-width="10" fill="none"/>${mended ? '<rect x="300" y="190" width="60" height="110" rx="8" fill="#b9bec7" transform="rotate(-28 330 245)"/>' : `<path d="M${320 + 30 * r.next()} 190 l 26 34 l -14 20 l 30 30" stroke="#d8c7a8" stroke-width="7" fill="none"/>`}`,
    wire: `<rect x="140" y="80" width="360" height="320" rx="40" fill="#2a2c31"/><rect x="200" y="130" width="240" height="220" rx="18" fill="#0f1012"/><path d="M250 240 H390 M250 270 H390" stroke="#cfd6de" stroke-width="6"/>${mended ? '' : spots(160, 210, 140, 220, 200, '#8f7f66', 5)}`,
    plate: `<circle cx="320" cy="240" r="180" fill="#3a3d44"/><circle cx="320" cy="240" r="150" fill="#9aa0a9"/><path d="M170 240 H470" stroke="#5b6069" stroke-width="14"/>${mended ? '' : spots(220, 190, 340, 260, 60, '#241a12', 9)}`,
    part: `<rect x="${150 + 40 * r.next()}" y="150" width="300" height="200" rx="22" fill="#7d838d"/><rect x="200" y="200" width="90" height="100" rx="10" fill="#2b2e34"/><circle cx="390" cy="250" r="42" fill="#2b2e34"/>`,
  }[KINDS[fault] ?? 'part'];
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="640" height="480"><rect width="640" height="480" fill="${light}"/><ellipse cx="${200 + 240 * r.next()}" cy="120" rx="320" ry="180" fill="#fff" opacity="0.08"/>${draw}${spots(40, 0, 0, 640, 480, '#000', 2)}</svg>`;
  return sharp(Buffer.from(svg)).jpeg({ quality: 62 }).toBuffer();
}
